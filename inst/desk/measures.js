// What the desk knows of the table: which measures can be limited, their histograms and limits.

import { send } from "./api.js";

export const withMeasures = Base => class extends Base {
  // Measures of the table that can be limited, with their columns and units.
  measuresShown() {
    const { rows, view } = this;
    if (!rows || !view.rows) return [];
    const form = this.forms.find(f => f.measures && f.step === (view.rows.kind === "finds" ? "accept_finds" : "accept_objects"));
    const names = form && ["objects", "finds"].includes(view.rows.kind) ? form.measures : ["width", "gap", "thickness"];
    return names.map(measure => {
      const column = Object.keys(rows.columns).find(c => c === measure ||
        (c.startsWith(measure + "_") && /^(deg|(nm|um|mm|in|px)2?)$/.test(c.slice(measure.length + 1))));
      return column && { measure, column, unit: column.slice(measure.length + 1) };
    }).filter(Boolean);
  }

  binsOf(measure) {
    const own = this.measuresShown().find(m => m.measure === measure);
    const values = this.rows.columns[own.column].filter(v => v !== null);
    let low = Infinity, high = -Infinity;
    for (const v of values) {
      if (v < low) low = v;
      if (v > high) high = v;
    }
    if (low === high) high = low + 1;
    const counts = new Array(48).fill(0);
    for (const v of values) counts[Math.min(47, Math.floor(48 * (v - low) / (high - low)))]++;
    return { values, range: [low, high], counts };
  }

  // How many rows would be accepted: asked while a bound is dragged, one question at a time.
  async countAccepted(measure, bounds, told) {
    this.asking = { measure, bounds, told };
    if (this.counting) return;
    this.counting = true;
    while (this.asking) {
      const { measure, bounds, told } = this.asking;
      this.asking = null;
      try {
        const found = await send("/count", { measure, ...this.boundTexts(measure, bounds) });
        told(found.accepted + " of " + found.count + " accepted");
      } catch (e) {
        told(e.message);
      }
    }
    this.counting = false;
  }

  limitOf(measure) {
    const entry = this.view.chain.findLast(e => e.on && e.step.startsWith("accept_"));
    const found = /^\[([^,]*),([^\]]*)\]$/.exec((entry && entry.args[measure]) || "");
    const number = text => {
      const v = parseFloat(text);
      return Number.isFinite(v) ? v : null;
    };
    return found ? [number(found[1]), number(found[2])] : [null, null];
  }

  boundTexts(measure, bounds) {
    const { unit } = this.measuresShown().find(m => m.measure === measure);
    const text = v => v === null ? undefined : /^(|deg|px2?)$/.test(unit) ? v : v + " " + unit;
    return { low: text(bounds[0]), high: text(bounds[1]) };
  }

  setLimit(measure, bounds) {
    return this.act({ do: "limit", measure, ...this.boundTexts(measure, bounds) });
  }

  fillTable() {
    if (!this.rows) return;
    const known = Object.keys(this.rows.columns);
    const first = ["id", "accepted"].filter(n => known.includes(n));
    const rest = known.filter(n => !first.includes(n) && n !== "reason");
    const main = rest.filter(n => /^(ecd|score|width|gap|thickness|area|feret_max|circularity)/.test(n));
    this.table.setRows(this.rows, [...first, ...main, ...(known.includes("reason") ? ["reason"] : []), ...rest.filter(n => !main.includes(n))]);
    this.table.choose(this.chosen);
  }

  choose(id, show) {
    this.chosen = this.picture.chosen = id;
    if (this.table) this.table.choose(id);
    const box = show && id !== null && this.picture.boxOf(id);
    if (box) {
      const { picture } = this, x = (box[0] + box[2]) / 2, y = (box[1] + box[3]) / 2;
      const wx = (x + picture.shift[0] - picture.left) * picture.zoom, wy = (y + picture.shift[1] - picture.top) * picture.zoom;
      const seen = wx > 40 && wy > 40 && wx < picture.canvas.width - 40 && wy < picture.canvas.height - 40;
      if (!seen) picture.showPlace(x, y, Math.max(box[2] - box[0], box[3] - box[1]) * 3);
    }
    this.picture.redraw();
  }

  async leaveOut() {
    if (this.chosen === null) return this.say("Choose an object in the picture or in the table first.");
    if (!this.why.trim()) return this.say("Say why: every object that is left out by hand needs a reason.");
    await this.act({ do: "exclude", id: this.chosen, why: this.why });
  }
};
