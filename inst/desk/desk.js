// The page of a desk: what is shown follows from the view that the desk answers with; every change
// is an action sent to it.

import { ask, askBytes, send } from "./api.js";
import { button, element, select, stepFields } from "./forms.js";
import { picturePanel, rowsPanel, scalePanel, sizesPanel, stepPanel, verdictPanel } from "./panels.js";
import { Picture } from "./picture.js";
import { readRows } from "./rows.js";
import { isByCorners, readShape, shapeAs, shapeAsTaught, shapeBetween, shapeText } from "./shapes.js";

const at = id => document.getElementById(id);
const shownUnit = unit => unit === "um" ? "\u00b5m" : unit;
const words = name => name.replace(/_/g, " ");

const ends = { picture: picturePanel, scale: scalePanel, rows: rowsPanel, sizes: sizesPanel, verdict: verdictPanel };

class Desk {
  constructor() {
    this.view = null;
    this.forms = [];
    this.files = { methods: [], specs: [], calibrations: [], patterns: [] };
    this.open = "picture";
    this.before = false;
    this.rows = null;
    this.keys = {};
    this.finer = null;
    this.chosen = null;
    this.why = "";
    this.name = "batch";
    this.scaleAsked = { length: "", name: "", share: true };
    this.sizes = { of: "", weight: "number", classes: "" };
    this.drawn = null;
    this.picture = new Picture(at("picture"), {
      pointer: (x, y, grey, from) => this.readOut(x, y, grey, from),
      click: (place, id) => this.clicked(place, id),
      begin: place => { this.from = place; },
      drag: place => this.dragged(place),
      end: place => this.ended(place),
      hover: place => this.hovered(place),
      finish: () => this.finished(),
      dropped: () => this.shapeMoved(),
    });
  }

  async start() {
    try {
      await this.take(await ask("/view?of=picture"));
      performance.mark("picture");
      [this.forms, this.files] = await Promise.all([ask("/forms"), ask("/files")]);
      await this.take(await ask("/view"));
    } catch (e) {
      this.say(e.message);
    }
    document.body.classList.remove("busy");
    this.refine();
  }

  // The pixels that a large picture was shown without, when nothing else is waited for.
  refine() {
    if (this.finer) this.finer();
    this.finer = null;
  }

  // An action; what follows from it is shown, or why it cannot be done is said.
  async act(action) {
    document.body.classList.add("busy");
    try {
      await this.take(await send("/act", action));
      return true;
    } catch (e) {
      this.say(e.message);
      return false;
    } finally {
      document.body.classList.remove("busy");
      this.refine();
    }
  }

  async take(view) {
    this.view = view;
    if (typeof this.open === "number" && this.open > view.chain.length) this.open = view.chain.length || "picture";
    await this.showStage();
    this.drawTrail();
    await this.loadRows();
    this.drawAll();
  }

  lastStage() {
    return this.view.stages.filter(s => !s.said).at(-1);
  }

  // Which stage is in the window: that of the place on the trail, or what it was made from.
  shownStage() {
    const { stages } = this.view, good = stages.filter(s => !s.said);
    if (this.open === "picture" || this.open === "scale") return good[0];
    if (typeof this.open !== "number") return good.at(-1);
    const before = good.filter(s => s.step < this.open).at(-1);
    return this.before ? before : good.find(s => s.step === this.open) || before;
  }

  async showStage() {
    const stage = this.shownStage(), { picture } = this;
    if (!stage) {
      picture.levels = picture.rings = this.keys.greys = this.keys.shapes = null;
      picture.redraw();
      return;
    }
    const last = this.lastStage(), scale = this.view.scale;
    picture.pixel = scale && scale.pixel ? scale.pixel[0] : 1;
    picture.unit = scale && scale.pixel ? shownUnit(scale.unit) : "px";
    picture.shift = [last.origin[0] - stage.origin[0], last.origin[1] - stage.origin[1]];
    this.showHand(stage);
    const index = this.view.stages.indexOf(stage);
    if (this.keys.greys !== stage.greys) {
      this.keys.greys = stage.greys;
      const times = Math.ceil(Math.sqrt(stage.width * stage.height / 2e6));
      await this.loadGreys(stage, index, times);
      if (times > 1) this.finer = () => this.loadGreys(stage, index, 1);
    }
    const shapes = stage.kind === "bm_field" ? null : stage.shapes;
    if (this.keys.shapes !== shapes) {
      this.keys.shapes = shapes;
      const bytes = shapes && (await askBytes("/shapes?stage=" + index)).bytes;
      if (this.keys.shapes === shapes) {
        if (shapes) picture.setShapes(bytes);
        else picture.rings = null;
      }
    }
    picture.level = typeof this.open === "number" && stage.levels && stage.step === this.open &&
      this.view.chain[this.open - 1].step.startsWith("segment_") ? stage.levels : null;
    this.showAccepted();
    this.showHand(stage);
  }

  // Pixels are not wanted any more when another stage is shown by now.
  async loadGreys(stage, index, times) {
    try {
      const { headers, bytes } = await askBytes("/greys?stage=" + index + "&times=" + times);
      if (this.keys.greys !== stage.greys) return;
      const data = headers.get("X-Bits") === "8" ? new Uint8Array(bytes) : new Uint16Array(bytes);
      const size = stage.width + "x" + stage.height + "@" + this.view.at;
      this.picture.setGreys(stage, data, times, Number(headers.get("X-Scale")), this.keys.size === size);
      this.keys.size = size;
    } catch (e) {
      if (this.keys.greys === stage.greys) this.say(e.message);
    }
  }

  async loadRows() {
    const key = this.view.rows ? this.lastStage().key : null;
    if (this.keys.rows === key) return;
    this.keys.rows = key;
    // after a step that accepts or excludes the measures are what they were
    const same = key && this.rows && this.keys.measured === this.lastStage().shapes;
    this.keys.measured = key && this.lastStage().shapes;
    const found = key ? readRows((await askBytes("/rows" + (same ? "?only=accepted" : ""))).bytes) : null;
    this.rows = same ? { rows: found.rows, columns: { ...this.rows.columns, ...found.columns } } : found;
    const columns = this.rows && this.rows.columns;
    this.accepted = columns ? new Map(columns.id.map((id, k) => [id, columns.accepted[k]])) : null;
    this.showAccepted();
    if (columns && !columns.id.includes(this.chosen)) this.chosen = this.picture.chosen = null;
    this.picture.redraw();
  }

  // Numbers of a mask's parts, or of objects before they were measured, are not those of rows.
  showAccepted() {
    const stage = this.shownStage(), last = this.lastStage();
    const same = stage && (stage === last || stage.kind === last.kind);
    this.picture.accepted = same ? this.accepted : null;
    this.picture.chosen = same ? this.chosen : null;
  }

  // Lines by hand, and the shapes of the step that is open, to be dragged.
  showHand(stage) {
    const { picture, view } = this;
    picture.lines = stage.kind === "bm_field" ? [] : (view.hand || []).filter(r => r.x1 !== undefined)
      .map(r => ({ ...r, dashed: r.step === "join_objects" }));
    picture.shapes = [];
    const entry = typeof this.open === "number" ? view.chain[this.open - 1] : null;
    for (const [name, text] of Object.entries(entry ? entry.args : {})) {
      const shape = readShape(text);
      if (shape) picture.shapes.push({ shape, name, movable: true, frame: this.frameBefore(this.open) });
    }
    if (this.open === "scale" && view.scale && view.scale.ends && !this.drawn) {
      this.drawn = { shape: { kind: "line", numbers: [...view.scale.ends], across: null }, movable: true };
    }
    if (this.drawn) picture.shapes.push(this.drawn);
    picture.redraw();
  }

  // The frame that a step's places are meant in: that of what it is given.
  frameBefore(step) {
    const given = this.view.stages.filter(s => !s.said && s.step < step).at(-1);
    return given ? given.frame : null;
  }

  // A shape's handle was let go: of the open step, its argument follows.
  shapeMoved() {
    const moved = this.picture.shapes.find(s => s.name && shapeText(s.shape) !==
      shapeText(readShape(this.view.chain[this.open - 1].args[s.name]) || s.shape));
    if (!moved) return this.drawSide();
    const entry = this.view.chain[this.open - 1];
    this.changeStep(this.open, { ...entry.args, [moved.name]: shapeText(moved.shape) });
  }

  // Trail ---------------------------------------------------------------------------------------

  drawAll() {
    this.drawTop();
    this.drawTrail();
    this.drawStrip();
    this.drawSide();
  }

  drawTop() {
    const { view } = this;
    at("title").value = view.title;
    at("undo").disabled = !view.undo;
    at("redo").disabled = !view.redo;
    const problem = view.problem;
    at("problem").textContent = problem || "";
    at("problem").hidden = !problem;
  }

  drawTrail() {
    const { view } = this, trail = at("trail");
    const chip = (id, label, note, look = "") => {
      const made = element("button", {
        type: "button", class: "chip " + look + (this.open === id ? " open" : ""), onclick: () => this.go(id),
        "data-place": id,
      }, element("span", {}, label), element("small", {}, note || "\u00a0"));
      return made;
    };
    const scale = view.scale && view.scale.pixel ? Number(view.scale.pixel[0].toPrecision(4)) + " " + shownUnit(view.scale.unit) + " per pixel" : "in pixels";
    const steps = view.chain.map((entry, k) => {
      const stage = view.stages.find(s => s.step === k + 1);
      const look = !entry.on ? "off" : stage && stage.said ? "wrong" : entry.trunk ? "" : "of-branch";
      const made = chip(k + 1, words(entry.step), !entry.on ? "off" : stage && stage.said ? "cannot be done" : (stage && stage.decided) || Object.values(entry.args).join(", "), "step " + look);
      made.draggable = true;
      made.addEventListener("dragstart", event => event.dataTransfer.setData("text/plain", String(k + 1)));
      made.addEventListener("dragover", event => event.preventDefault());
      made.addEventListener("drop", event => {
        event.preventDefault();
        this.moveStep(Number(event.dataTransfer.getData("text/plain")), k + 1);
      });
      return made;
    });
    const rows = view.rows;
    trail.replaceChildren(
      chip("picture", "Picture", this.ownPicture().mark),
      chip("scale", "Scale", scale), ...steps, this.addMenu());
    at("ends").replaceChildren(
      chip("rows", "Rows", rows ? rows.accepted + " of " + rows.count : ""),
      chip("sizes", "Sizes"), chip("verdict", "Verdict", view.spec ? view.spec.product : ""));
    const open = trail.querySelector(".open");
    if (open) open.scrollIntoView({ block: "nearest", inline: "nearest" });
    const branches = at("branches");
    branches.hidden = view.branches.length === 0;
    if (view.branches.length) {
      branches.replaceChildren(select(view.branches, view.branch, branch => this.act({ do: "show_branch", branch })));
    }
  }

  addMenu() {
    return element("button", {
      type: "button", class: "chip add", id: "add-step", title: "Add a step", onclick: () => this.askForStep(),
    }, "+");
  }

  // Which step to add, out of those that fit somewhere in the chain, and its needed arguments.
  askForStep() {
    const kinds = new Set(this.view.stages.filter(s => s.kind).map(s => s.kind));
    const fitting = this.forms.filter(f => f.takes.some(t => kinds.has(t)));
    const fields = element("div"), texts = {};
    let chosen = null;
    const list = element("div", { class: "list-group steps-list" });
    const draw = filter => {
      list.replaceChildren(...fitting.filter(f => words(f.step).includes(filter)).map(f => element("button", {
        type: "button", class: "list-group-item list-group-item-action" + (chosen === f ? " active" : ""),
        "data-step": f.step,
        onclick: async () => {
          chosen = f;
          await this.learnChoices(f);
          for (const name of Object.keys(texts)) delete texts[name];
          const shape = this.drawn && f.args.find(a => a.drawn);
          const given = this.view.stages.filter(s => f.takes.includes(s.kind)).at(-1);
          if (shape) texts[shape.name] = shapeText(shapeAsTaught(shapeAs(shape.drawn, this.drawn.shape), given.frame));
          fields.replaceChildren(...stepFields(f, texts, { change: (name, text) => { texts[name] = text; }, focus: () => {} }));
          draw(filter);
        },
      }, words(f.step))));
    };
    const filter = element("input", {
      class: "form-control form-control-sm", placeholder: "find a step", id: "find-step",
      oninput: () => draw(filter.value.trim().toLowerCase()),
    });
    draw("");
    this.dialog("Add a step", element("div", { class: "two" }, element("div", {}, filter, list), fields), [
      button("Add", async () => {
        if (!chosen) return this.say("Choose a step first.");
        const before = this.view.chain.length;
        if (await this.act({ do: "add_step", step: chosen.step, texts: { ...texts } })) {
          this.closeDialog();
          this.drop();
          const added = this.view.chain.findLastIndex(e => e.step === chosen.step);
          if (this.view.chain.length > before) this.go(added + 1);
        }
      }, "btn-dark", { id: "add-chosen" }),
    ]);
    filter.focus();
  }

  dialog(title, content, buttons) {
    at("dialog-title").textContent = title;
    at("dialog-body").replaceChildren(content);
    at("dialog-foot").replaceChildren(button("Cancel", () => this.closeDialog()), ...buttons);
    this.modal = this.modal || new window.bootstrap.Modal(at("dialog"));
    this.modal.show();
  }

  closeDialog() { this.modal.hide(); }

  async go(id) {
    this.open = id;
    this.before = false;
    this.drop();
    await this.showStage();
    this.drawTrail();
    this.drawSide();
    this.refine();
  }

  drawSide() {
    if (!this.view) return;
    const side = at("side");
    if (!this.view.chain.length && typeof this.open === "number") this.open = "picture";
    if (typeof this.open === "number") {
      const { step } = this.view.chain[this.open - 1], form = this.forms.find(f => f.step === step);
      if (form && !form.known) {
        this.learnChoices(form).then(() => this.drawSide());
        return;
      }
    }
    this.table = null;
    const made = typeof this.open === "number" ? stepPanel(this, this.open) : ends[this.open](this);
    side.replaceChildren(...made.filter(Boolean));
    if (this.table) this.fillTable();
    side.dataset.place = this.open;
  }

  // The words that the arguments of a step may be.
  async learnChoices(form) {
    if (form.known) return;
    try {
      const found = await ask("/choices?step=" + form.step);
      for (const argument of form.args) argument.choices = found[argument.name];
    } catch (e) {
      this.say(e.message);
    }
    form.known = true;
  }

  // Pictures ------------------------------------------------------------------------------------

  drawStrip() {
    const { view } = this;
    const one = p => element("button", {
      type: "button", class: "thumb " + p.mark.replace(" ", "-") + (p.at === view.at ? " open" : ""),
      title: p.name + ": " + p.mark, onclick: () => this.openPicture(p.at),
    }, element("span", {}, p.name), element("small", {}, p.batch + " " + p.sample + " " + p.field + " \u00b7 " + p.mark));
    const number = element("input", {
      class: "form-control form-control-sm", id: "picture-number", value: view.at, "aria-label": "Number of the picture",
      onchange: () => this.openPicture(Number(number.value)),
    });
    at("strip").replaceChildren(
      element("span", { class: "number" }, number, element("small", {}, "of " + view.count)), ...view.pictures.map(one));
    const open = at("strip").querySelector(".open");
    if (open) open.scrollIntoView({ block: "nearest", inline: "nearest" });
  }

  ownPicture() { return this.view.pictures.find(p => p.at === this.view.at); }

  async openPicture(k) {
    if (!Number.isInteger(k) || k < 1 || k > this.view.count) {
      return this.say("There are pictures 1 to " + this.view.count + ".");
    }
    this.drop();
    await this.act({ do: "open_picture", at: k });
  }

  // Steps ---------------------------------------------------------------------------------------

  changeStep(k, texts) {
    return this.act({ do: "change_step", at: k, texts: texts });
  }

  async moveStep(k, to) {
    if (to < 1 || to > this.view.chain.length || k === to) return;
    if (await this.act({ do: "move_step", at: k, to })) this.go(to);
  }

  async dropStep(k) {
    if (await this.act({ do: "drop_step", at: k })) this.go(Math.max(1, k - 1));
  }

  setLevel(k, [low, high]) {
    if (low === null && high === null) return this.say("A level needs at least one bound.");
    const args = {};
    if (low !== null) args.low = low;
    if (high !== null) args.high = high;
    return this.act({ do: "change_step", at: k, step: "segment_level", args });
  }

  // Measures ------------------------------------------------------------------------------------

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

  countWithin(measure, [low, high]) {
    const { values } = this.binsOf(measure);
    const n = values.filter(v => (low === null || v >= low) && (high === null || v <= high)).length;
    return n + " of " + values.length + " within these bounds";
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

  setLimit(measure, bounds) {
    const { unit } = this.measuresShown().find(m => m.measure === measure);
    const text = v => v === null ? undefined : /^(|deg|px2?)$/.test(unit) ? v : v + " " + unit;
    return this.act({ do: "limit", measure, low: text(bounds[0]), high: text(bounds[1]) });
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

  // Drawing -------------------------------------------------------------------------------------

  takeTool(tool) {
    this.picture.tool = tool;
    this.picture.draft = null;
    this.corners = null;
    for (const b of document.querySelectorAll("#tools [data-tool]")) b.classList.toggle("active", b.dataset.tool === tool);
    at("picture").style.cursor = tool === "move" ? "grab" : "crosshair";
    at("hint").textContent = {
      cut: "Drag across an object to cut it.", join: "Drag from one object to the other to join them.",
      exclude: "Click an object to leave it out.", polygon: "Click the corners; Enter or a double click ends.",
      polyline: "Click the corners; Enter or a double click ends.",
    }[tool] || (tool === "move" ? "" : "Drag to draw; drag its handles to change it.");
  }

  dragged(place) {
    const { tool } = this.picture;
    if (tool === "exclude" || isByCorners(tool)) return;
    const kind = tool === "cut" || tool === "join" ? "line" : tool;
    const shape = shapeBetween(kind, this.from, place);
    if (kind !== tool) shape.across = null;
    this.picture.draft = { shape, active: false };
    this.picture.redraw();
  }

  async ended(place) {
    const { tool } = this.picture;
    this.picture.draft = null;
    if (tool === "cut" || tool === "join") {
      const [x1, y1] = this.from, [x2, y2] = place;
      await this.act({ do: tool, x1, y1, x2, y2 });
    } else if (tool !== "exclude" && !isByCorners(tool)) {
      this.keep(shapeBetween(tool, this.from, place));
    }
    this.picture.redraw();
  }

  keep(shape) {
    this.drawn = { shape, movable: true };
    this.takeTool("move");
    this.showHand(this.shownStage());
    this.drawSide();
    at("hint").textContent = shapeText(shape);
  }

  drop() {
    this.drawn = null;
    at("hint").textContent = "";
    this.picture.draft = null;
    if (this.view && this.shownStage()) this.showHand(this.shownStage());
  }

  hovered(place) {
    if (!this.corners) return;
    this.picture.draft = { shape: { kind: this.picture.tool, numbers: [...this.corners, ...place], across: null }, active: false };
    this.picture.redraw();
  }

  finished() {
    const { tool } = this.picture, least = tool === "polygon" ? 6 : 4;
    if (!this.corners || this.corners.length < least) return;
    const shape = { kind: tool, numbers: this.corners, across: tool === "polyline" ? 5 : null };
    this.corners = null;
    this.picture.draft = null;
    this.keep(shape);
  }

  async clicked(place, id) {
    const { tool } = this.picture;
    if (isByCorners(tool)) {
      const last = (this.corners || []).slice(-2);
      if (last.length && Math.hypot(last[0] - place[0], last[1] - place[1]) < 3 / this.picture.zoom) return;
      this.corners = [...(this.corners || []), ...place];
      this.hovered(place);
    } else if (tool === "exclude") {
      if (id === null) return this.say("There is no object there.");
      this.choose(id, false);
      if (!this.why.trim()) return this.askWhy();
      await this.leaveOut();
    } else if (tool === "move") {
      this.choose(id, false);
    }
  }

  askWhy() {
    const input = element("input", { class: "form-control form-control-sm", id: "dialog-why", placeholder: "reason, such as dust" });
    const done = async () => {
      this.why = input.value;
      this.closeDialog();
      await this.leaveOut();
    };
    input.addEventListener("keydown", event => event.key === "Enter" && done());
    this.dialog("Why is object " + this.chosen + " left out?", input, [button("Leave out", done, "btn-dark", { id: "dialog-leave-out" })]);
    at("dialog").addEventListener("shown.bs.modal", () => input.focus(), { once: true });
  }

  // Ends of a line in pixels of the picture as read.
  endsOf(numbers) {
    const last = this.lastStage(), first = this.view.stages[0];
    const dx = last.origin[0] - first.origin[0], dy = last.origin[1] - first.origin[1];
    return [numbers[0] + dx, numbers[1] + dy, numbers[2] + dx, numbers[3] + dy];
  }

  readOut(x, y, grey, from) {
    const { picture } = this, unit = picture.unit;
    if (grey === null) {
      at("readout").textContent = "";
      return;
    }
    let text = "x " + x.toFixed(1) + "  y " + y.toFixed(1) + "  grey " + Number(grey.toFixed(2));
    if (from) text += "  length " + Number((Math.hypot(x - from.x, y - from.y) * picture.pixel).toPrecision(4)) + " " + unit;
    at("readout").textContent = text;
  }

  say(text) {
    at("said-text").textContent = text;
    window.bootstrap.Toast.getOrCreateInstance(at("said"), { delay: 9000 }).show();
  }

  // Saving --------------------------------------------------------------------------------------

  askToSave() {
    const name = element("input", { class: "form-control form-control-sm", value: this.name, id: "save-name" });
    const replace = element("input", { type: "checkbox", class: "form-check-input", id: "save-replace" });
    const said = element("div", { class: "said" }, "Into " + this.files.folder);
    this.dialog("Save method, list, calibrations and session", element("div", {}, name,
      element("label", { class: "check" }, replace, " replace files of that name"), said), [
      button("Save", async () => {
        try {
          const saved = await send("/save", { name: name.value, replace: replace.checked });
          this.name = name.value;
          this.closeDialog();
          this.say("Saved into " + saved.folder + ": " + saved.files.join(", "));
          this.files = await ask("/files");
        } catch (e) {
          said.textContent = e.message;
        }
      }, "btn-dark", { id: "save-now" }),
    ]);
  }

  askToTeach() {
    const shape = this.drawn && this.drawn.shape;
    if (!shape || shape.kind !== "box") {
      this.takeTool("box");
      return this.say("Draw a box round the part first, then press Teach again.");
    }
    const name = element("input", { class: "form-control form-control-sm", id: "teach-name", placeholder: "name of the part" });
    const said = element("div", { class: "said" });
    this.dialog("Teach a part", element("div", {}, name, said), [
      button("Teach and find", async () => {
        try {
          const { file } = await send("/teach", { name: name.value, box: shape.numbers });
          this.closeDialog();
          this.drop();
          this.files = await ask("/files");
          this.foundPart(file);
        } catch (e) {
          said.textContent = e.message;
        }
      }, "btn-dark", { id: "teach-now" }),
    ]);
  }

  // The part is looked for in the place of the steps that make objects, by a method of its own.
  async foundPart(pattern) {
    const fields = this.view.stages.filter(s => s.kind === "bm_field").at(-1).step;
    const done = await this.act({ do: "end_with", after: fields, step: "locate_pattern", args: { pattern } });
    if (done) this.go(this.view.chain.length);
  }

  listen() {
    at("undo").onclick = () => this.act({ do: "undo" });
    at("redo").onclick = () => this.act({ do: "redo" });
    at("save").onclick = () => this.askToSave();
    at("teach").onclick = () => this.askToTeach();
    at("title").onchange = () => this.act({ do: "name_method", title: at("title").value });
    at("close").onclick = async () => {
      await send("/close", {}).catch(() => {});
      document.body.replaceChildren(element("p", { class: "closed" }, "The desk is closed."));
    };
    at("whole").onclick = () => this.picture.showWhole();
    at("outlines").classList.add("active");
    at("outlines").onclick = () => {
      this.picture.outlinesShown = !this.picture.outlinesShown;
      at("outlines").classList.toggle("active", this.picture.outlinesShown);
      this.picture.redraw();
    };
    for (const tool of document.querySelectorAll("#tools [data-tool]")) tool.onclick = () => this.takeTool(tool.dataset.tool);
    document.addEventListener("keydown", event => this.key(event));
    this.takeTool("move");
  }

  // Keys that count wherever nothing is typed.
  key(event) {
    const typing = /^(INPUT|SELECT|TEXTAREA)$/.test(event.target.tagName);
    if ((event.ctrlKey || event.metaKey) && !typing) {
      const wanted = { z: event.shiftKey ? "redo" : "undo", y: "redo" }[event.key.toLowerCase()];
      if (wanted) {
        event.preventDefault();
        this.act({ do: wanted });
      }
      return;
    }
    if (typing || event.altKey || document.body.classList.contains("modal-open")) return;
    const tools = { m: "move", c: "cut", j: "join", x: "exclude", b: "box", p: "polygon", l: "line" };
    if (event.key === "Escape") {
      this.takeTool("move");
      this.drop();
      this.drawSide();
    } else if (tools[event.key]) {
      this.takeTool(tools[event.key]);
    } else if (event.key === "PageDown" || event.key === "PageUp") {
      event.preventDefault();
      const next = this.view.at + (event.key === "PageDown" ? 1 : -1);
      if (next >= 1 && next <= this.view.count) this.openPicture(next);
    } else if (event.key === "[" || event.key === "]") {
      const places = ["picture", "scale", ...this.view.chain.map((_, k) => k + 1), "rows", "sizes", "verdict"];
      const next = places[places.indexOf(this.open) + (event.key === "]" ? 1 : -1)];
      if (next !== undefined) this.go(next);
    }
  }
}

const desk = new Desk();
window.desk = desk;  // for tests in a browser, and the curious
desk.listen();
desk.start();
