// Drawing over the picture: cuts, joins, exclusions, regions and paths.

import { element, button } from "./forms.js";
import { isByCorners, shapeBetween, shapeText } from "./shapes.js";

const at = id => document.getElementById(id);

export const withDrawing = Base => class extends Base {
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

  readOut(x, y, grey, from) {
    const { picture } = this, unit = picture.unit;
    if (grey === null) {
      at("readout").textContent = "";
      return;
    }
    let text = "x " + x.toFixed(1) + "  y " + y.toFixed(1) + "  grey " + Number(grey.toFixed(2));
    if (from) text += "  length " + Number((Math.hypot((x - from.x) * picture.pixel[0], (y - from.y) * picture.pixel[1])).toPrecision(4)) + " " + unit;
    at("readout").textContent = text;
  }
};
