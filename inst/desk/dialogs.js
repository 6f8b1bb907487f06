// What the desk asks for in a dialog: a step to add, a name to save under, a part to teach, whether to
// close.

import { ask, send } from "./api.js";
import { button, element, stepFields } from "./forms.js";
import { words } from "./names.js";
import { shapeAs, shapeAsTaught, shapeText } from "./shapes.js";

const at = id => document.getElementById(id);

export const withDialogs = Base => class extends Base {
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
          fields.replaceChildren(...stepFields(f, texts, {
            change: (name, text) => { texts[name] = text; }, focus: () => {}, files: this.files.patterns,
          }));
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

  say(text) {
    at("said-text").textContent = text;
    window.bootstrap.Toast.getOrCreateInstance(at("said"), { delay: 9000 }).show();
  }

  dialog(title, content, buttons) {
    at("dialog-title").textContent = title;
    at("dialog-body").replaceChildren(content);
    at("dialog-foot").replaceChildren(button("Cancel", () => this.closeDialog()), ...buttons);
    this.modal = this.modal || new window.bootstrap.Modal(at("dialog"));
    this.modal.show();
  }

  closeDialog() { this.modal.hide(); }

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
          this.saved = this.view.actions;
          this.closeDialog();
          this.say("Saved into " + saved.folder + ": " + saved.files.join(", "));
          this.files = await ask("/files");
        } catch (e) {
          said.textContent = e.message;
        }
      }, "btn-dark", { id: "save-now" }),
    ]);
  }

  // Closing loses what was not saved, and stops a batch.
  async askToClose() {
    const lost = [];
    try {
      if (this.view.actions > this.saved) lost.push("Changes since you last saved will be lost.");
      if ((await ask("/run")).state === "running") lost.push("A batch is running. Closing stops it; pictures measured so far are kept.");
    } catch (e) { /* it is closed already */ }
    const close = async () => {
      await send("/close", {}).catch(() => {});
      document.body.replaceChildren(element("p", { class: "closed" }, "The desk is closed."));
      for (const left of document.querySelectorAll(".modal-backdrop")) left.remove();
    };
    if (!lost.length) return close();
    this.dialog("Close the desk?", element("div", { class: "said" }, lost.join("\n")), [
      button("Close", close, "btn-dark", { id: "close-now" }),
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
};
