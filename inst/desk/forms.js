// Forms made from what the package says of its steps.

export function element(tag, properties = {}, ...content) {
  const made = document.createElement(tag);
  for (const [name, value] of Object.entries(properties)) {
    if (name === "class") made.className = value;
    else if (name.startsWith("on")) made.addEventListener(name.slice(2), value);
    else if (name in made && name !== "list") made[name] = value;
    else made.setAttribute(name, value);
  }
  made.append(...content.filter(c => c !== null && c !== undefined));
  return made;
}

export function button(label, onclick, look = "btn-outline-dark", more = {}) {
  return element("button", { class: "btn btn-sm " + look, type: "button", onclick, ...more }, label);
}

export function field(label, input, note) {
  const id = input.id || "f" + Math.random().toString(36).slice(2);
  input.id = id;
  return element("div", { class: "field" },
    element("label", { htmlFor: id }, label), input, note ? element("small", {}, note) : null);
}

export function select(values, chosen, onchange) {
  const made = element("select", { class: "form-select form-select-sm", onchange: () => onchange(made.value) });
  for (const value of values) {
    const [key, label] = Array.isArray(value) ? value : [value, value];
    made.append(element("option", { value: key, selected: key === chosen }, label));
  }
  return made;
}

export function textInput(value, onchange, more = {}) {
  const made = element("input", {
    class: "form-control form-control-sm", type: "text", value: value ?? "", autocomplete: "off",
    spellcheck: false, onchange: () => onchange(made.value), ...more,
  });
  return made;
}

// The fields of a step's arguments. `texts`: what is set; heard.change(name, text) hears of each
// change, heard.focus(name) of the field that a drawn shape would go into.
export function stepFields(form, texts, heard) {
  const made = form.args.map(argument => {
    const text = texts[argument.name];
    if (argument.rows) return null;
    const hint = argument.needed ? "needed" : argument.default || "not set";
    let input;
    if (argument.choices && argument.choices.length) {
      const values = [["", hint + " (default)"], ...argument.choices.map(c => [c, c])];
      input = select(values, text ?? "", v => heard.change(argument.name, v));
    } else {
      input = textInput(text, v => heard.change(argument.name, v), {
        placeholder: hint, onfocus: () => heard.focus(argument.name),
      });
    }
    if (argument.file) offerFiles(input, heard.files);
    input.dataset.argument = argument.name;
    const made = field(argument.name, input);
    const share = /^\s*([\d.]+) ?%\s*$/.exec(text ?? argument.default ?? "");
    if (share) made.append(shareSlider(Number(share[1]), input, heard, argument.name));
    return made;
  });
  return made.filter(Boolean);
}

// Files of the desk's folders to choose from, while another may be typed.
function offerFiles(input, files) {
  const id = "files-" + Math.random().toString(36).slice(2);
  input.setAttribute("list", id);
  const list = element("datalist", { id }, ...files.map(f => element("option", { value: f })));
  input.addEventListener("focus", () => input.after(list), { once: true });
}

function shareSlider(value, input, heard, name) {
  const slider = element("input", {
    type: "range", class: "form-range", min: 0, max: 50, step: 0.5, value,
    "aria-label": name + " in percent",
  });
  slider.addEventListener("input", () => { input.value = slider.value + " %"; });
  slider.addEventListener("change", () => heard.change(name, slider.value + " %"));
  return slider;
}
