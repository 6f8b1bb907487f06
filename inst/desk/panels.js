// What stands beside the picture for each place on the trail.

import { ask, send } from "./api.js";
import { Bars } from "./bars.js";
import { button, element, field, select, stepFields, textInput } from "./forms.js";
import { shownUnits, words } from "./names.js";
import { Rows, shownValue } from "./rows.js";
import { shapeAs, shapeAsTaught, shapeText } from "./shapes.js";

function lines(texts) {
  return element("div", { class: "said" }, ...(texts || []).map(t => element("div", {}, t)));
}

function figure(desk, what, query = "") {
  const image = element("img", { class: "figure", alt: what });
  image.addEventListener("error", async () => {
    try {
      await ask("/figure?what=" + what + query);
    } catch (e) {
      image.replaceWith(element("p", { class: "note" }, e.message));
    }
  });
  image.src = "/figure?what=" + what + query + "&of_action=" + desk.view.actions;
  return image;
}

function figureButton(desk, label, what) {
  const made = button(label, () => made.replaceWith(figure(desk, what)));
  return made;
}

// Picture -----------------------------------------------------------------------------------------

export function picturePanel(desk) {
  const { view, picture } = desk;
  const own = desk.ownPicture(), stage = view.stages[0];
  const mark = (as, label) => button(label, () => desk.act({ do: "mark", as }),
    own.mark === as ? "btn-dark" : "btn-outline-dark");
  const stretch = (side, label) => {
    const input = element("input", {
      type: "range", class: "form-range", min: 0, max: 1, step: 0.01, value: picture.contrast[side],
    });
    input.addEventListener("input", () => {
      picture.contrast[side] = Number(input.value);
      picture.redraw();
    });
    return field(label, input);
  };
  return [
    element("h2", {}, own.name),
    lines([
      "Batch " + own.batch + ", sample " + own.sample + ", field " + own.field,
      stage.said ? null : stage.width + " \u00d7 " + stage.height + " pixels, grey levels 0 to " + stage.top,
    ].filter(Boolean)),
    element("div", { class: "row-of" }, mark("looked at", "Looked at"), mark("odd", "Odd"), mark("untouched", "Untouched")),
    element("h3", {}, "Contrast, for the eye only"),
    stretch(0, "Black at"), stretch(1, "White at"),
    button("Reset", () => {
      picture.contrast = [0, 1];
      picture.redraw();
      desk.drawSide();
    }),
    element("h3", {}, "What the picture is like"), figureButton(desk, "Show facts", "facts"),
    desk.files.methods.length ? element("h3", {}, "Begin from another method") : null,
    desk.files.methods.length ? select([["", "choose a method file"], ...desk.files.methods.map(f => [f, f.split("/").pop()])], "",
      f => f && desk.act({ do: "use_method", file: f })) : null,
  ];
}

// Scale -------------------------------------------------------------------------------------------

export function scalePanel(desk) {
  const { view } = desk, kept = desk.scaleAsked;
  const keep = name => v => { kept[name] = v; };
  const line = desk.drawn && desk.drawn.shape.kind === "line" ? desk.drawn.shape.numbers : null;
  const act = (by, more) => desk.act({ do: "scale", by, name: kept.name || undefined, share: kept.share, ...more });
  const length = textInput(kept.length, keep("length"), { placeholder: "50 um", id: "scale-length" });
  const share = element("input", { type: "checkbox", class: "form-check-input", checked: !kept.share });
  share.addEventListener("change", () => { kept.share = !share.checked; });
  const verified = element("div", { class: "said" });
  const file = select([["", "choose a calibration file"], ...desk.files.calibrations.map(f => [f, f.split("/").pop()])], "",
    f => f && act("file", { file: f, name: undefined }));
  return [
    element("h2", {}, "Scale"),
    view.scale ? lines(view.scale.lines) : element("p", { class: "note" }, "Not calibrated yet: all is in pixels."),
    field("True length, or distance of two marks", length),
    field("Name, usually the magnification", textInput(kept.name, keep("name"), { placeholder: "SEM 500x", id: "scale-name" })),
    element("label", { class: "check" }, share, " for this picture only"),
    element("div", { class: "row-of" },
      button("Find the bar", () => act("bar", { length: length.value }), "btn-dark", { id: "scale-bar" }),
      button("Find ruler marks", () => act("marks", { length: length.value })),
      button("Find a grid", () => act("grid", { length: length.value })),
      button("Use the file's tags", () => act("tags", {}))),
    element("h3", {}, "From a line"),
    element("p", { class: "note" }, line
      ? "Drag the ends of the line to where the length begins and ends."
      : "Draw a line along something of known length."),
    element("div", { class: "row-of" },
      button("Draw a line", () => desk.takeTool("line")),
      button("Bar between its ends", () => act("bar", { length: length.value, ends: line }), "btn-outline-dark", { disabled: !line }),
      button("Use its length", () => act("length", { length: length.value, ends: line }), "btn-outline-dark", { disabled: !line }),
      button("Verify on it", async () => {
        try {
          verified.textContent = (await send("/verify", { length: length.value, ends: line })).lines.join("\n");
        } catch (e) {
          desk.say(e.message);
        }
      }, "btn-outline-dark", { disabled: !line || !view.scale })),
    verified,
    element("h3", {}, "From a file"), file,
  ];
}

// Steps -------------------------------------------------------------------------------------------

export function stepPanel(desk, at) {
  const { view } = desk, entry = view.chain[at - 1];
  const form = desk.forms.find(f => f.step === entry.step);
  const stage = view.stages.find(s => s.step === at);
  const change = (name, text) => desk.changeStep(at, { ...entry.args, [name]: text });
  const heard = { change, focus: name => { desk.shapeField = name; }, files: desk.files.patterns };
  const side = [
    element("h2", {}, at + ". " + words(entry.step)),
    element("div", { class: "row-of" },
      button(entry.on ? "Switch off" : "Switch on", () => desk.act({ do: "switch_step", at, on: !entry.on })),
      button("\u2190", () => desk.moveStep(at, at - 1), "btn-outline-dark", { disabled: at === 1, title: "Earlier" }),
      button("\u2192", () => desk.moveStep(at, at + 1), "btn-outline-dark", { disabled: at === view.chain.length, title: "Later" }),
      button("Remove", () => desk.dropStep(at)),
      element("label", { class: "check" }, beforeBox(desk), " show before it")),
  ];
  if (stage && stage.said) side.push(element("p", { class: "problem" }, stage.said));
  if (stage && stage.remarks.length) side.push(...stage.remarks.map(r => element("p", { class: "remark" }, r)));
  if (stage && stage.decided) side.push(element("p", { class: "decided" }, stage.decided));
  if (form) side.push(...stepFields(form, entry.args, heard));
  if (entry.rows !== null) side.push(element("p", { class: "note" }, entry.rows + (entry.rows === 1 ? " row" : " rows") + " by hand; Undo takes the last one back."));
  if (form && form.args.some(a => a.drawn)) side.push(shapeRow(desk, change, form));
  if (stage && (stage.levels || entry.step.startsWith("segment_"))) side.push(...levelPart(desk, at, stage));
  if (form && form.measures) side.push(...limitPart(desk));
  if (entry.step.startsWith("separate_")) side.push(...separatePart(desk));
  return side;
}

function beforeBox(desk) {
  const box = element("input", { type: "checkbox", class: "form-check-input", checked: desk.before });
  box.addEventListener("change", () => {
    desk.before = box.checked;
    desk.showStage();
  });
  return box;
}

function shapeRow(desk, change, form) {
  const first = form.args.find(a => a.drawn);
  return element("div", { class: "row-of" }, button("Use the drawn shape", () => {
    if (!desk.drawn) return desk.say("Draw a shape over the picture first.");
    const taken = form.args.find(a => a.drawn && a.name === desk.shapeField) || first;
    const shape = shapeAsTaught(shapeAs(taken.drawn, desk.drawn.shape), desk.frameBefore(desk.open));
    change(taken.name, shapeText(shape));
    desk.drop();
  }));
}

function levelPart(desk, at, stage) {
  const canvas = element("canvas", { class: "bars", id: "level-bars" });
  const share = element("span", { class: "decided", id: "level-share" });
  let histogram = null;
  const told = bounds => {
    desk.picture.level = { low: bounds[0], high: bounds[1] };
    desk.picture.redraw();
    if (!histogram) return;
    let inside = 0, all = 0;
    histogram.count.forEach((count, k) => {
      all += count;
      const wide = histogram.to[k] - histogram.from[k];
      const from = bounds[0] === null ? histogram.from[k] : Math.max(histogram.from[k], bounds[0]);
      const to = bounds[1] === null ? histogram.to[k] : Math.min(histogram.to[k], bounds[1] + 1e-9);
      inside += count * Math.max(0, Math.min(1, (to - from) / wide));
    });
    share.textContent = (100 * inside / all).toPrecision(3) + " % of the pixels";
  };
  const bars = new Bars(canvas, {
    moved: told,
    set: bounds => desk.setLevel(at, bounds),
  });
  ask("/histogram").then(found => {
    histogram = found;
    const { low, high } = stage.levels || { low: null, high: null };
    bars.show(found.count, [0, found.top], [low, high], { whole: true });
    if (stage.levels) told([low, high]);
  }).catch(e => desk.say(e.message));
  return [
    element("h3", {}, "Level"), canvas, share,
    element("p", { class: "note" }, "Drag the bounds: the mask follows. Counts on a square-root scale."),
    element("div", { class: "row-of" },
      figureButton(desk, "Compare rules", "rules"), figureButton(desk, "Response to the level", "level")),
  ];
}

function limitPart(desk) {
  const { rows, view } = desk;
  if (!rows || !view.rows) return [];
  const measures = desk.measuresShown();
  if (!measures.length) return [];
  if (!measures.some(m => m.measure === desk.limited)) desk.limited = measures[0].measure;
  const canvas = element("canvas", { class: "bars", id: "limit-bars" });
  const count = element("span", { class: "decided", id: "limit-count" });
  const bars = new Bars(canvas, {
    moved: bounds => desk.countAccepted(desk.limited, bounds, said => { count.textContent = said; }),
    set: bounds => desk.setLimit(desk.limited, bounds),
  });
  const draw = () => {
    const { values, range, counts } = desk.binsOf(desk.limited);
    if (!values.length) return;
    const bounds = desk.limitOf(desk.limited);
    bars.show(counts, range, bounds);
    count.textContent = view.rows.accepted + " of " + view.rows.count + " accepted";
  };
  requestAnimationFrame(draw);
  return [
    element("h3", {}, "Limits"),
    select(measures.map(m => [m.measure, words(m.measure)]), desk.limited, v => {
      desk.limited = v;
      draw();
    }),
    canvas, count,
    element("p", { class: "note" }, "Drag the bounds; a bound at the end is none. Counts on a square-root scale."),
  ];
}

function separatePart(desk) {
  const place = element("span", { class: "decided" });
  let found = null, at = -1;
  const go = async way => {
    try {
      if (!found) found = await ask("/suspects");
    } catch (e) {
      return desk.say(e.message);
    }
    if (!found.id.length) {
      place.textContent = "No object is suspected to be several.";
      return;
    }
    at = (at + way + found.id.length) % found.id.length;
    place.textContent = (at + 1) + " of " + found.id.length + ": object " + found.id[at] + ", " + found.why[at];
    desk.choose(found.id[at], true);
  };
  return [
    element("h3", {}, "Suspects, one by one"),
    element("div", { class: "row-of" }, button("Previous", () => go(-1)), button("Next", () => go(1), "btn-outline-dark", { id: "next-suspect" }), place),
    element("h3", {}, "Response to the depth"), figureButton(desk, "Draw it", "split"),
  ];
}

// Rows --------------------------------------------------------------------------------------------

export function rowsPanel(desk) {
  const { view } = desk;
  if (!view.rows) return [element("h2", {}, "Rows"), element("p", { class: "note" }, "The steps do not end in a table yet.")];
  const pane = element("div", { class: "rows", id: "rows" });
  desk.table = new Rows(pane, { choose: id => desk.choose(id, true) });
  desk.fillTable();
  const find = textInput("", v => v && desk.choose(Number(v), true), { placeholder: "number", id: "find-row" });
  const which = select([["all", "all"], ["accepted", "accepted"], ["out", "left out"]], desk.table.which, v => {
    desk.table.which = v;
    desk.table.order();
  });
  const why = textInput(desk.why, v => { desk.why = v; }, { placeholder: "reason, such as dust", id: "why" });
  return [
    element("h2", {}, view.rows.accepted + " of " + view.rows.count + " accepted"),
    element("div", { class: "row-of" }, find, which), pane,
    element("div", { class: "row-of", id: "chosen-row" },
      why, button("Leave out", () => desk.leaveOut(), "btn-outline-dark", { id: "leave-out" }),
      button("Take back in", () => desk.act({ do: "readmit", id: desk.chosen }))),
  ];
}

// Sizes -------------------------------------------------------------------------------------------

export function sizesPanel(desk) {
  const { view, sizes } = desk;
  if (!view.rows) return [element("h2", {}, "Sizes"), element("p", { class: "note" }, "The steps do not end in a table yet.")];
  const measures = desk.measuresShown().map(m => [m.measure, words(m.measure)]);
  const query = "&" + new URLSearchParams(Object.entries(sizes).filter(([, v]) => v)).toString();
  const set = name => v => {
    sizes[name] = v;
    desk.drawSide();
  };
  const said = element("div", { class: "said" });
  ask("/percentiles?" + query.slice(1)).then(found => {
    said.replaceChildren(...found.lines.slice(1).map(t => element("div", {}, t)));
  }).catch(e => { said.textContent = e.message; });
  return [
    element("h2", {}, "Sizes"),
    element("div", { class: "row-of thirds" },
      field("of", select(measures, sizes.of, set("of"))),
      field("by", select(["number", "area", "volume"], sizes.weight, set("weight"))),
      field("classes", textInput(sizes.classes, set("classes"), { placeholder: "auto", id: "classes" }))),
    figure(desk, "sizes", query), said,
  ];
}

// Verdict -----------------------------------------------------------------------------------------

export function verdictPanel(desk) {
  const { view } = desk;
  const place = element("div", { id: "verdict" });
  const spec = select([["", view.spec ? "another specification" : "choose a specification"],
    ...desk.files.specs.map(f => [f, f.split("/").pop()])], "", f => f && desk.act({ do: "use_spec", file: f }));
  const judged = of => async () => {
    place.textContent = "\u2026";
    try {
      place.replaceChildren(...verdictTables(await ask("/verdict?of=" + of)));
    } catch (e) {
      place.textContent = e.message;
    }
  };
  return [
    element("h2", {}, "Verdict"),
    view.spec ? lines([view.spec.product, ...view.spec.lines]) : null, spec,
    element("div", { class: "row-of" },
      button("Judge this picture", judged("open"), "btn-dark", { disabled: !view.spec, id: "judge" }),
      button("Judge all looked at", judged("seen"), "btn-outline-dark", { disabled: !view.spec, id: "judge-seen" })),
    place, ...runPart(desk),
  ].filter(Boolean);
}

function verdictTables(found) {
  const table = (columns, names) => {
    const known = names.filter(n => columns[n]);
    const rows = (columns[known[0]] || []).map((_, k) => element("tr", {}, ...known.map(n => {
      const v = columns[n][k], cell = element("td", { class: n === "verdict" ? "verdict " + v : "" });
      cell.textContent = typeof v === "number" ? Number(v.toPrecision(4)) : shownValue(v);
      return cell;
    })));
    return element("table", { class: "plain" },
      element("thead", {}, element("tr", {}, ...known.map(n => element("th", {}, words(n))))),
      element("tbody", {}, ...rows));
  };
  const digits = v => v === null ? "" : String(Number(v.toPrecision(4)));
  const l = found.limits;
  const limits = {
    sample: l.sample, quantity: l.quantity.map(shownUnits), verdict: l.verdict,
    value: l.value.map((v, k) => shownUnits(digits(v) + " " + (l.unit[k] || ""))),
    interval: l.low.map((v, k) => v === null ? "" : digits(v) + " to " + digits(l.high[k])),
  };
  return [
    table(found.batches, ["batch", "verdict", "why"]),
    table(limits, ["sample", "quantity", "value", "interval", "verdict"]),
  ];
}

function runPart(desk) {
  const bar = element("div", { class: "progress-bar" });
  const said = element("p", { class: "decided", id: "run-said" });
  const after = element("div", { id: "run-after" });
  const name = textInput(desk.name, v => { desk.name = v; }, { id: "run-name" });
  const stop = button("Stop", () => send("/stop", {}).then(show), "btn-outline-dark", { id: "stop-run" });
  const replace = element("input", { type: "checkbox", class: "form-check-input", id: "run-replace" });
  const show = run => {
    stop.disabled = run.state !== "running";
    if (run.state === "none") return;
    bar.style.width = (100 * run.done / run.of) + "%";
    said.textContent = {
      running: run.done + " of " + run.of + " pictures", failed: "Failed: " + run.said,
      stopped: "Stopped after " + run.done + " of " + run.of + ": run again to go on from there.",
      done: "All " + run.of + " pictures measured.",
    }[run.state];
    if (run.state === "done") {
      after.replaceChildren(...(run.verdict ? verdictTables(run.verdict) : []),
        element("a", { href: "/results/report.html", target: "_blank", rel: "noopener" }, "Open the report"));
    }
  };
  const poll = async () => {
    if (!said.isConnected) return;
    try {
      const run = await ask("/run");
      show(run);
      if (run.state === "running") setTimeout(poll, 400);
    } catch (e) {
      desk.say(e.message);
    }
  };
  setTimeout(poll, 0);
  return [
    element("h3", {}, "The whole batch"), field("Name of the results", name),
    element("label", { class: "check" }, replace, " replace earlier results of that name"),
    element("div", { class: "row-of" }, button("Run the batch", async () => {
      try {
        after.replaceChildren();
        show(await send("/run", { name: name.value, replace: replace.checked }));
        poll();
      } catch (e) {
        said.textContent = e.message;
      }
    }, "btn-dark", { id: "run-batch" }), stop),
    element("div", { class: "progress" }, bar), said, after,
  ];
}
