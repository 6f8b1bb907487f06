// Regions and paths as a method writes them, {box: [left, top, right, bottom]} and so on, drawn,
// dragged by handles, and read back.

const lengths = { box: 4, circle: 3, ring: 4, arc: 5 };
export const paths = ["line", "arc", "polyline"];
const kinds = ["box", "circle", "ring", "polygon", "line", "arc", "polyline"];

const to = v => Math.round(100 * v) / 100;

// What is written besides the numbers stays as it is, but for the width across.
export function shapeText(shape) {
  const numbers = shape.numbers.map(v => String(to(v))).join(", ");
  const more = (shape.more || []).filter(m => !m.startsWith("across:"));
  if (shape.across) more.unshift("across: " + shape.across + " px");
  return "{" + [shape.kind + ": [" + numbers + "]", ...more].join(", ") + "}";
}

// A shape of plain pixels, or null: what has units or names is not drawn.
export function readShape(text) {
  const found = /^\{\s*(\w+):\s*\[([-\d\s.,e]*)\]\s*(?:,\s*([^\[\]{}]*))?\}$/.exec((text || "").trim());
  if (!found || !kinds.includes(found[1])) return null;
  const kind = found[1], numbers = found[2].split(",").map(Number);
  const fits = lengths[kind] ? numbers.length === lengths[kind] : numbers.length >= 4 && numbers.length % 2 === 0;
  if (!fits || !numbers.every(Number.isFinite)) return null;
  const more = (found[3] || "").split(",").map(m => m.trim()).filter(Boolean);
  const across = /^across:\s*([\d.]+)(?:\s*px)?$/.exec(more.find(m => m.startsWith("across:")) || "");
  return { kind, numbers, more, across: across ? Number(across[1]) : null };
}

// A shape begun at one place and drawn to another.
export function shapeBetween(kind, [x1, y1], [x2, y2]) {
  const r = Math.max(1, to(Math.hypot(x2 - x1, y2 - y1)));
  const numbers = {
    box: [Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2)],
    circle: [x1, y1, r], ring: [x1, y1, to(r / 2), r], line: [x1, y1, x2, y2],
    arc: [x1, y1, r, 0, 180],
  }[kind] || [x1, y1, x2, y2];
  return { kind, numbers, across: paths.includes(kind) ? 5 : null };
}

export const isByCorners = kind => kind === "polygon" || kind === "polyline";

const angleTo = (n, x, y) => {
  const a = Math.atan2(n[1] - y, x - n[0]) * 180 / Math.PI;
  return to(a < 0 ? a + 360 : a);
};

export function handlesOf(shape) {
  const n = shape.numbers;
  const pair = i => ({ x: n[i], y: n[i + 1], to: (x, y) => { n[i] = x; n[i + 1] = y; } });
  if (shape.kind === "box") {
    return [[0, 1], [2, 1], [0, 3], [2, 3]].map(([i, j]) => ({
      x: n[i], y: n[j],
      to: (x, y) => { n[i] = x; n[j] = y; },
    }));
  }
  const middle = { x: n[0], y: n[1], to: (x, y) => { n[0] = x; n[1] = y; } };
  const radius = i => ({
    x: n[0] + n[i], y: n[1],
    to: (x, y) => { n[i] = Math.max(0.5, to(Math.hypot(x - n[0], y - n[1]))); },
  });
  if (shape.kind === "circle") return [middle, radius(2)];
  if (shape.kind === "ring") return [middle, radius(2), radius(3)];
  if (shape.kind === "arc") {
    const at = i => {
      const a = n[i] * Math.PI / 180;
      return {
        x: n[0] + n[2] * Math.cos(a), y: n[1] - n[2] * Math.sin(a),
        to: (x, y) => {
          n[i] = angleTo(n, x, y);
          n[2] = Math.max(0.5, to(Math.hypot(x - n[0], y - n[1])));
        },
      };
    };
    return [middle, at(3), at(4)];
  }
  const corners = n.filter((_, i) => i % 2 === 0).map((_, k) => pair(2 * k));
  if (!shape.across) return corners;
  const length = Math.hypot(n[2] - n[0], n[3] - n[1]) || 1;
  const side = [-(n[3] - n[1]) / length, (n[2] - n[0]) / length];
  corners.push({
    x: (n[0] + n[2]) / 2 + side[0] * shape.across / 2, y: (n[1] + n[3]) / 2 + side[1] * shape.across / 2,
    to: (x, y) => {
      const off = (x - (n[0] + n[2]) / 2) * side[0] + (y - (n[1] + n[3]) / 2) * side[1];
      shape.across = Math.max(1, Math.round(2 * Math.abs(off)));
    },
  });
  return corners;
}

// A frame [x, y, ax, ay, bx, by] takes points of the taught picture to pixels of the field.
export const inField = (f, x, y) => f ? [f[0] + f[2] * x + f[4] * y, f[1] + f[3] * x + f[5] * y] : [x, y];

export function asTaught(f, x, y) {
  if (!f) return [x, y];
  const u = x - f[0], v = y - f[1], size = f[2] * f[5] - f[3] * f[4];
  return [(u * f[5] - v * f[4]) / size, (v * f[2] - u * f[3]) / size];
}

// A drawn shape as an argument takes it: edges are lines of corners, and only paths have a width.
export function shapeAs(drawnAs, shape) {
  if (drawnAs === "path") return shape;
  const kind = drawnAs === "edge" && shape.kind === "polyline" ? "line" : shape.kind;
  return { ...shape, kind, across: null };
}

const sizeOf = f => f ? Math.hypot(f[2], f[3]) : 1;
const turnOf = f => f ? Math.atan2(-f[3], f[2]) : 0;

// A shape drawn over the field, as a method names it after a part was followed. A box that is turned
// is a polygon there.
export function shapeAsTaught(shape, f) {
  if (!f) return shape;
  const n = shape.numbers, size = sizeOf(f), turn = turnOf(f) * 180 / Math.PI;
  const points = flat => flat.flatMap((_, i) => i % 2 ? [] : asTaught(f, flat[i], flat[i + 1]).map(to));
  const made = (kind, numbers) => ({ ...shape, kind, numbers, across: shape.across && Math.max(1, Math.round(shape.across / size)) });
  if (shape.kind === "box") {
    const corners = points([n[0], n[1], n[2], n[1], n[2], n[3], n[0], n[3]]);
    const straight = Math.abs(corners[1] - corners[3]) < 0.05 && corners[0] < corners[2];
    return straight ? made("box", [corners[0], corners[1], corners[4], corners[5]]) : made("polygon", corners);
  }
  if (shape.kind === "circle" || shape.kind === "ring") {
    return made(shape.kind, [...points(n.slice(0, 2)), ...n.slice(2).map(r => to(r / size))]);
  }
  if (shape.kind === "arc") {
    return made("arc", [...points(n.slice(0, 2)), to(n[2] / size), to(n[3] - turn), to(n[4] - turn)]);
  }
  return made(shape.kind, points(n));
}

function trace(pen, shape, place, zoom, turn) {
  const n = shape.numbers;
  pen.beginPath();
  if (shape.kind === "box") {
    [[0, 1], [2, 1], [2, 3], [0, 3]].forEach(([i, j], k) => pen[k ? "lineTo" : "moveTo"](...place(n[i], n[j])));
    pen.closePath();
  } else if (shape.kind === "circle" || shape.kind === "ring") {
    const [x, y] = place(n[0], n[1]);
    for (const r of n.slice(2)) {
      pen.moveTo(x + r * zoom, y);
      pen.arc(x, y, r * zoom, 0, 2 * Math.PI);
    }
  } else if (shape.kind === "arc") {
    const [x, y] = place(n[0], n[1]);
    const angle = a => -(a * Math.PI / 180 + turn);
    pen.arc(x, y, n[2] * zoom, angle(n[3]), angle(n[4]), n[4] > n[3]);
  } else {
    for (let i = 0; i < n.length; i += 2) pen[i ? "lineTo" : "moveTo"](...place(n[i], n[i + 1]));
    if (shape.kind === "polygon") pen.closePath();
  }
}

// `toWindow` takes a place of the field into the window; `frame` says where the shape is meant.
export function drawShape(pen, shape, frame, toWindow, magnified, colour, ratio, active) {
  const place = (x, y) => toWindow(...inField(frame, x, y)), zoom = magnified * sizeOf(frame);
  trace(pen, shape, place, zoom, turnOf(frame));
  if (shape.across) {
    pen.lineWidth = shape.across * zoom;
    pen.strokeStyle = colour + "38";
    pen.stroke();
  }
  pen.lineWidth = 2 * ratio;
  pen.strokeStyle = colour;
  pen.stroke();
  if (!active) return;
  pen.fillStyle = "#FFFFFF";
  for (const handle of handlesOf(shape)) {
    const [x, y] = place(handle.x, handle.y);
    pen.fillRect(x - 4 * ratio, y - 4 * ratio, 8 * ratio, 8 * ratio);
    pen.strokeRect(x - 4 * ratio, y - 4 * ratio, 8 * ratio, 8 * ratio);
  }
}
