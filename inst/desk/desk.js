// The page of a desk: what is shown follows from the view that the desk answers with; every change
// is an action sent to it.

import { ask, askBytes, send } from "./api.js";
import { withDialogs } from "./dialogs.js";
import { withDrawing } from "./drawing.js";
import { element, select } from "./forms.js";
import { withMeasures } from "./measures.js";
import { shownUnits, words } from "./names.js";
import { picturePanel, rowsPanel, scalePanel, sizesPanel, stepPanel, verdictPanel } from "./panels.js";
import { Picture } from "./picture.js";
import { readRows } from "./rows.js";
import { readShape, shapeText } from "./shapes.js";

const at = id => document.getElementById(id);

const ends = { picture: picturePanel, scale: scalePanel, rows: rowsPanel, sizes: sizesPanel, verdict: verdictPanel };

class Desk extends withDialogs(withDrawing(withMeasures(Object))) {
  constructor() {
    super();
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
    this.saved = 0;
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
      refused: () => this.say("A later step shrinks or bends the picture: draw at a place behind it."),
    });
  }

  async start() {
    try {
      await this.take(await ask("/view?of=picture"));
      performance.mark("picture");
      [this.forms, this.files] = await Promise.all([ask("/forms"), ask("/files")]);
      await this.take(await ask("/view"));
      this.saved = this.view.actions;
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
    this.drawTop();
    await this.showStage();
    this.drawTrail();
    this.drawStrip();
    await this.loadRows();
    this.drawSide();
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
    // a scale is found on the picture as read; all else is drawn in pixels of the last field
    const last = this.open === "scale" ? stage : this.lastStage(), scale = this.view.scale;
    picture.pixel = scale && scale.pixel ? scale.pixel : [1, 1];
    picture.drawable = stage.geometry === last.geometry;
    picture.unit = scale && scale.pixel ? shownUnits(scale.unit) : "px";
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
    const scale = view.scale && view.scale.pixel ? Number(view.scale.pixel[0].toPrecision(4)) + " " + shownUnits(view.scale.unit) + " per pixel" : "in pixels";
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

  async go(id) {
    this.open = id;
    this.before = false;
    this.drop();
    try {
      await this.showStage();
    } catch (e) {
      this.say(e.message);
    }
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

  listen() {
    at("undo").onclick = () => this.act({ do: "undo" });
    at("redo").onclick = () => this.act({ do: "redo" });
    at("save").onclick = () => this.askToSave();
    at("teach").onclick = () => this.askToTeach();
    at("title").onchange = () => this.act({ do: "name_method", title: at("title").value });
    at("close").onclick = () => this.askToClose();
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
