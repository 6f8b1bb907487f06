// Shows a large picture by its tiles: level 0 has the picture's own pixels, each further one half as
// many along each side. Drag, turn the wheel, or use the keys + - 0 and the arrows.
"use strict";
const pane = document.querySelector("#pane");
const about = pane.dataset;
const width = Number(about.width), height = Number(about.height);
const levels = Number(about.levels), side = Number(about.side);
const pixel = Number(about.pixel);  // in the unit of length
const view = { x: 0, y: 0, scale: 1 };  // the picture's place at the pane's corner; pane pixels a pixel
const shown = new Map();
let fitted = false;  // whether the whole picture is shown, also when the window changes

function whole() {
  view.scale = Math.min(pane.clientWidth / width, pane.clientHeight / height);
  view.x = (width - pane.clientWidth / view.scale) / 2;
  view.y = (height - pane.clientHeight / view.scale) / 2;
  fitted = true;
  draw();
}

function tile(level, row, col) {
  const name = level + "-" + row + "-" + col;
  let image = shown.get(name);
  if (!image) {
    image = document.createElement("img");
    image.alt = "";
    image.draggable = false;
    image.src = about.folder + "/" + name + ".jpg";
    pane.append(image);
    shown.set(name, image);
  }
  const size = side * 2 ** level;
  const left = (col * size - view.x) * view.scale, top = (row * size - view.y) * view.scale;
  image.style.left = left + "px";
  image.style.top = top + "px";
  // the last tiles end with the picture
  image.style.width = Math.min(size, width - col * size) * view.scale + 0.5 + "px";
  image.style.height = Math.min(size, height - row * size) * view.scale + 0.5 + "px";
  image.style.imageRendering = view.scale > 2 ? "pixelated" : "auto";
  return name;
}

function draw() {
  const level = Math.max(0, Math.min(levels - 1, Math.floor(Math.log2(1 / view.scale) + 0.3)));
  const size = side * 2 ** level, wanted = new Set();
  const first = (at) => Math.max(0, Math.floor(at / size));
  const last = (at, most) => Math.min(Math.ceil(most / size) - 1, Math.floor(at / size));
  for (let row = first(view.y); row <= last(view.y + pane.clientHeight / view.scale, height); row++) {
    for (let col = first(view.x); col <= last(view.x + pane.clientWidth / view.scale, width); col++) {
      wanted.add(tile(level, row, col));
    }
  }
  for (const [name, image] of shown) {
    if (wanted.has(name)) continue;
    image.remove();
    shown.delete(name);
  }
  bar();
}

// A scale bar of a round length, at most a quarter of the pane.
function bar() {
  const most = pane.clientWidth / 4 / view.scale * pixel;
  const ten = 10 ** Math.floor(Math.log10(most));
  const length = [5, 2, 1].map((k) => k * ten).find((l) => l <= most);
  document.querySelector("#bar").style.width = length / pixel * view.scale + "px";
  document.querySelector("#length").textContent = Number(length.toPrecision(3)) + " " + about.unit;
}

function zoom(times, x, y) {
  const scale = Math.min(16, Math.max(view.scale * times, 0.5 * Math.min(
    pane.clientWidth / width, pane.clientHeight / height)));
  view.x += x / view.scale - x / scale;
  view.y += y / view.scale - y / scale;
  view.scale = scale;
  fitted = false;
  draw();
}

function move(x, y) {
  view.x += x / view.scale;
  view.y += y / view.scale;
  fitted = false;
  draw();
}

pane.addEventListener("wheel", (event) => {
  event.preventDefault();
  const box = pane.getBoundingClientRect();
  zoom(event.deltaY < 0 ? 1.25 : 0.8, event.clientX - box.left, event.clientY - box.top);
}, { passive: false });
pane.addEventListener("pointerdown", (event) => pane.setPointerCapture(event.pointerId));
pane.addEventListener("pointermove", (event) => {
  if (event.buttons) move(-event.movementX, -event.movementY);
});
const middle = () => [pane.clientWidth / 2, pane.clientHeight / 2];
const actions = {
  "+": () => zoom(1.5, ...middle()), "-": () => zoom(1 / 1.5, ...middle()), "0": whole,
  ArrowLeft: () => move(-80, 0), ArrowRight: () => move(80, 0),
  ArrowUp: () => move(0, -80), ArrowDown: () => move(0, 80)
};
document.addEventListener("keydown", (event) => {
  const action = actions[event.key];
  if (!action) return;
  event.preventDefault();
  action();
});
for (const button of document.querySelectorAll("button")) {
  button.addEventListener("click", () => actions[button.dataset.key]());
}
window.addEventListener("resize", () => fitted ? whole() : draw());

// #x,y,scale in the address: where to look at first, the picture's place in the middle of the pane
const asked = location.hash.slice(1).split(",").map(Number);
if (asked.length === 3 && asked.every(Number.isFinite) && asked[2] > 0) {
  view.scale = Math.min(16, asked[2]);
  view.x = asked[0] - pane.clientWidth / 2 / view.scale;
  view.y = asked[1] - pane.clientHeight / 2 / view.scale;
  draw();
} else {
  whole();
}
