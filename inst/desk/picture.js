// The picture: greys at the window's resolution, a mask that follows a level, outlines, and what is
// drawn by hand. Places are in pixels of the field that is shown, from its outer corner.

import { asTaught, drawShape, handlesOf, inField } from "./shapes.js";

const ink = { accepted: "#56B4E9", out: "#E69F00", chosen: "#FFFFFF", hand: "#CC3D00", halo: "#22313A" };

// Halves of halves, so that the whole picture is drawn from about as many pixels as the window has.
// Each knows how many pixels of the field one of its own is wide.
function halves(first) {
  const levels = [first];
  while (Math.max(levels.at(-1).width, levels.at(-1).height) > 600) {
    const from = levels.at(-1);
    const width = Math.ceil(from.width / 2), height = Math.ceil(from.height / 2);
    const data = new from.data.constructor(width * height);
    for (let y = 0; y < height; y++) {
      const a = 2 * y * from.width, b = Math.min(2 * y + 1, from.height - 1) * from.width;
      for (let x = 0; x < width; x++) {
        const l = 2 * x, r = Math.min(l + 1, from.width - 1);
        data[y * width + x] = (from.data[a + l] + from.data[a + r] + from.data[b + l] + from.data[b + r] + 2) >> 2;
      }
    }
    levels.push({ width, height, data, times: 2 * from.times });
  }
  return levels;
}

export class Picture {
  constructor(canvas, heard) {
    this.canvas = canvas;
    this.pen = canvas.getContext("2d", { alpha: false });
    this.heard = heard;  // functions that hear of clicks, lines, shapes, the pointer
    this.levels = null;
    this.rings = null;
    this.zoom = 1;
    this.left = 0;
    this.top = 0;
    this.contrast = [0, 1];
    this.tool = "move";
    this.shapes = [];  // drawn by hand: {shape, colour, active}
    this.lines = [];
    this.draft = null;
    this.chosen = null;
    this.accepted = null;
    this.level = null;
    this.shift = [0, 0];
    this.outlinesShown = true;
    this.listen();
    new ResizeObserver(() => this.fitCanvas()).observe(canvas.parentElement);
  }

  fitCanvas() {
    const box = this.canvas.parentElement.getBoundingClientRect();
    const ratio = window.devicePixelRatio || 1;
    const fresh = !this.canvas.width || this.whole;
    this.ratio = ratio;
    this.canvas.width = Math.max(1, Math.round(box.width * ratio));
    this.canvas.height = Math.max(1, Math.round(box.height * ratio));
    if (fresh) this.showWhole(); else this.redraw();
  }

  // `times`: how many pixels of the field one of the data is wide; it is 1 in the end, but large
  // pictures are shown from fewer until the others are there
  setGreys(size, data, times, scale, kept) {
    this.size = size;
    this.levels = halves({ width: Math.ceil(size.width / times), height: Math.ceil(size.height / times), data, times });
    this.scale = scale;
    if (!kept) this.showWhole();
    this.redraw();
  }

  // rings: {id, first, points}; strokes are rings of two points
  setShapes(buffer) {
    const [n, m, bits] = new Int32Array(buffer, 0, 3);
    const id = new Int32Array(buffer, 12, n), first = new Int32Array(buffer, 12 + 4 * n, n);
    const points = new (bits === 16 ? Uint16Array : Float32Array)(buffer, 12 + 8 * n, 2 * m);
    const boxes = new Float32Array(4 * n);
    for (let k = 0; k < n; k++) {
      const end = k + 1 < n ? first[k + 1] : m;
      let l = Infinity, t = Infinity, r = -Infinity, b = -Infinity;
      for (let i = first[k]; i < end; i++) {
        const x = points[2 * i], y = points[2 * i + 1];
        if (x < l) l = x;
        if (x > r) r = x;
        if (y < t) t = y;
        if (y > b) b = y;
      }
      boxes.set([l, t, r, b], 4 * k);
    }
    this.rings = { id, first, points, boxes, n, m };
    this.redraw();
  }

  showWhole() {
    if (!this.levels) return;
    const { width, height } = this.size;
    this.zoom = Math.min(this.canvas.width / width, this.canvas.height / height) * 0.985;
    this.left = (width - this.canvas.width / this.zoom) / 2;
    this.top = (height - this.canvas.height / this.zoom) / 2;
    this.whole = true;
    this.redraw();
  }

  zoomAt(x, y, times) {
    const px = this.left + x / this.zoom, py = this.top + y / this.zoom;
    this.zoom = Math.min(64, Math.max(0.02, this.zoom * times));
    this.left = px - x / this.zoom;
    this.top = py - y / this.zoom;
    this.whole = false;
    this.redraw();
  }

  showPlace(x, y, reach) {
    const wanted = Math.min(this.canvas.width, this.canvas.height) / Math.max(reach, 20);
    if (this.zoom < wanted / 3) this.zoom = Math.min(wanted / 3, 12);
    this.left = x + this.shift[0] - this.canvas.width / this.zoom / 2;
    this.top = y + this.shift[1] - this.canvas.height / this.zoom / 2;
    this.whole = false;
    this.redraw();
  }

  redraw() {
    if (this.asked) return;
    this.asked = true;
    requestAnimationFrame(() => {
      this.asked = false;
      this.draw();
    });
  }

  // Colours of the grey codes: stretched for the eye, tinted where the level takes them as objects.
  colours() {
    const most = this.levels[0].data.BYTES_PER_ELEMENT === 1 ? 255 : 65535;
    const table = new Uint32Array(most + 1);
    const low = this.contrast[0] * most, span = Math.max(1, (this.contrast[1] - this.contrast[0]) * most);
    for (let code = 0; code <= most; code++) {
      const g = Math.max(0, Math.min(255, Math.round(255 * (code - low) / span)));
      table[code] = 0xff000000 | (g << 16) | (g << 8) | g;
      if (this.level && this.inMask(code / this.scale)) {
        const r = Math.round(0.55 * g), t = Math.round(0.55 * g + 0.45 * 190);
        table[code] = 0xff000000 | (t << 16) | (t << 8) | r;
      }
    }
    return table;
  }

  inMask(grey) {
    const { low, high } = this.level;
    return (low === null || grey >= low) && (high === null || grey <= high);
  }

  draw() {
    const { pen, canvas } = this;
    if (!this.levels) {
      pen.fillStyle = "#d9d5cb";
      pen.fillRect(0, 0, canvas.width, canvas.height);
      return;
    }
    this.drawGreys();
    if (this.outlinesShown) this.drawRings();
    this.drawHand();
    this.drawScaleBar();
  }

  drawGreys() {
    const { canvas, zoom, left, top } = this;
    let level = 0;
    while (level + 1 < this.levels.length && zoom * this.levels[level + 1].times <= 1) level++;
    const { width, height, data, times } = this.levels[level];
    const table = this.colours();
    if (!this.image || this.image.width !== canvas.width || this.image.height !== canvas.height) {
      this.image = this.pen.createImageData(canvas.width, canvas.height);
      this.words = new Uint32Array(this.image.data.buffer);
    }
    const out = this.words, ground = 0xffcbd5d9;
    const columns = new Int32Array(canvas.width);
    for (let i = 0; i < canvas.width; i++) {
      const x = Math.floor((left + (i + 0.5) / zoom) / times);
      columns[i] = x >= 0 && x < width ? x : -1;
    }
    for (let j = 0, at = 0; j < canvas.height; j++) {
      const y = Math.floor((top + (j + 0.5) / zoom) / times);
      if (y < 0 || y >= height) {
        out.fill(ground, at, at + canvas.width);
        at += canvas.width;
        continue;
      }
      const row = y * width;
      for (let i = 0; i < canvas.width; i++, at++) {
        const x = columns[i];
        out[at] = x < 0 ? ground : table[data[row + x]];
      }
    }
    this.pen.putImageData(this.image, 0, 0);
  }

  // Rings in the window, those of left-out rows in their own colour and dashed; points nearer than a
  // pixel of the window are passed over.
  drawRings() {
    const rings = this.rings;
    if (!rings) return;
    const { pen, zoom, canvas } = this;
    const ox = this.shift[0] - this.left, oy = this.shift[1] - this.top;
    const within = k => {
      const box = rings.boxes, i = 4 * k;
      return (box[i + 2] + ox) * zoom >= 0 && (box[i + 3] + oy) * zoom >= 0 &&
        (box[i] + ox) * zoom <= canvas.width && (box[i + 1] + oy) * zoom <= canvas.height;
    };
    const trace = k => {
      const end = k + 1 < rings.n ? rings.first[k + 1] : rings.m;
      let lastX = Infinity, lastY = Infinity;
      for (let i = rings.first[k]; i < end; i++) {
        const x = (rings.points[2 * i] + ox) * zoom, y = (rings.points[2 * i + 1] + oy) * zoom;
        if (i === rings.first[k]) {
          pen.moveTo(x, y);
        } else if (Math.abs(x - lastX) + Math.abs(y - lastY) < 1.5 && i !== end - 1) {
          continue;
        } else {
          pen.lineTo(x, y);
        }
        lastX = x;
        lastY = y;
      }
      if (end - rings.first[k] > 2) pen.closePath();
    };
    const stroke = (wanted, colour, width, dash) => {
      pen.setLineDash(dash);
      pen.strokeStyle = colour;
      pen.lineWidth = width * this.ratio;
      let open = 0;
      pen.beginPath();
      for (let k = 0; k < rings.n; k++) {
        if (!wanted(rings.id[k]) || !within(k)) continue;
        trace(k);
        if (++open % 100 === 0) {
          pen.stroke();
          pen.beginPath();
        }
      }
      pen.stroke();
    };
    const isOut = id => this.accepted && !this.accepted.get(id);
    stroke(id => !isOut(id), ink.accepted, 1.6, []);
    stroke(isOut, ink.out, 1.6, [5, 3]);
    if (this.chosen !== null) {
      stroke(id => id === this.chosen, ink.halo, 5, []);
      stroke(id => id === this.chosen, ink.chosen, 2.4, []);
    }
    pen.setLineDash([]);
  }

  drawHand() {
    const toWindow = (x, y) => [
      (x + this.shift[0] - this.left) * this.zoom, (y + this.shift[1] - this.top) * this.zoom,
    ];
    const { pen } = this;
    for (const line of this.lines) {
      const [a, b] = toWindow(line.x1, line.y1), [c, d] = toWindow(line.x2, line.y2);
      pen.strokeStyle = ink.hand;
      pen.lineWidth = 2 * this.ratio;
      pen.setLineDash(line.dashed ? [3, 4] : []);
      pen.beginPath();
      pen.moveTo(a, b);
      pen.lineTo(c, d);
      pen.stroke();
    }
    pen.setLineDash([]);
    for (const drawn of this.shapes.concat(this.draft ? [this.draft] : [])) {
      drawShape(pen, drawn.shape, drawn.frame, toWindow, this.zoom, ink.hand, this.ratio, drawn.active !== false);
    }
  }

  drawScaleBar() {
    if (!this.pixel) return;
    const { pen, canvas, ratio } = this;
    const pixel = this.pixel[0], longest = 0.22 * canvas.width / this.zoom * pixel;
    const power = 10 ** Math.floor(Math.log10(longest));
    const length = power * [5, 2, 1].find(n => n * power <= longest);
    const wide = length / pixel * this.zoom, x = 18 * ratio, y = 40 * ratio;
    pen.fillStyle = "rgba(247, 244, 236, 0.88)";
    pen.fillRect(x - 8 * ratio, y - 26 * ratio, wide + 16 * ratio, 36 * ratio);
    pen.fillStyle = "#10181c";
    pen.fillRect(x, y, wide, 4 * ratio);
    pen.font = 13 * ratio + "px system-ui, sans-serif";
    pen.fillText(Number(length.toPrecision(2)) + " " + this.unit, x, y - 7 * ratio);
  }

  // The row under a place of the field: the smallest ring round it, or the nearest stroke.
  rowAt(x, y) {
    const rings = this.rings;
    if (!rings) return null;
    x -= this.shift[0];
    y -= this.shift[1];
    let found = null, least = Infinity;
    const near = 6 * this.ratio / this.zoom;
    for (let k = 0; k < rings.n; k++) {
      const l = rings.boxes[4 * k], t = rings.boxes[4 * k + 1];
      const r = rings.boxes[4 * k + 2], b = rings.boxes[4 * k + 3];
      if (x < l - near || x > r + near || y < t - near || y > b + near) continue;
      const end = k + 1 < rings.n ? rings.first[k + 1] : rings.m;
      if (end - rings.first[k] === 2) {
        const off = this.distance(x, y, rings.first[k]);
        if (off < near && off < least) [found, least] = [rings.id[k], off];
      } else if ((r - l) * (b - t) < least && this.isInside(x, y, rings.first[k], end)) {
        [found, least] = [rings.id[k], (r - l) * (b - t)];
      }
    }
    return found;
  }

  isInside(x, y, first, end) {
    const p = this.rings.points;
    let inside = false;
    for (let i = first, j = end - 1; i < end; j = i++) {
      const yi = p[2 * i + 1], yj = p[2 * j + 1];
      if ((yi > y) !== (yj > y) && x < (p[2 * j] - p[2 * i]) * (y - yi) / (yj - yi) + p[2 * i]) inside = !inside;
    }
    return inside;
  }

  distance(x, y, i) {
    const p = this.rings.points, ax = p[2 * i], ay = p[2 * i + 1];
    const dx = p[2 * i + 2] - ax, dy = p[2 * i + 3] - ay;
    const share = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
    return Math.hypot(x - ax - share * dx, y - ay - share * dy);
  }

  boxOf(id) {
    const rings = this.rings;
    let box = null;
    for (let k = 0; rings && k < rings.n; k++) {
      if (rings.id[k] !== id) continue;
      const [l, t, r, b] = rings.boxes.subarray(4 * k, 4 * k + 4);
      box = box ? [Math.min(box[0], l), Math.min(box[1], t), Math.max(box[2], r), Math.max(box[3], b)] : [l, t, r, b];
    }
    return box;
  }

  greyAt(x, y) {
    const first = this.levels && this.levels[0];
    if (!first || first.times > 1 || x < 0 || y < 0 || x >= first.width || y >= first.height) return null;
    return first.data[Math.floor(y) * first.width + Math.floor(x)] / this.scale;
  }

  // Where the pointer is, in the window's pixels and in those of the field.
  place(event) {
    const box = this.canvas.getBoundingClientRect();
    const wx = (event.clientX - box.left) * this.ratio, wy = (event.clientY - box.top) * this.ratio;
    return { wx, wy, x: this.left + wx / this.zoom, y: this.top + wy / this.zoom };
  }

  // The same in pixels of the field that objects were found in, to a hundredth.
  inField(at) {
    const to = v => Math.round(100 * v) / 100;
    return [to(at.x - this.shift[0]), to(at.y - this.shift[1])];
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("wheel", event => {
      event.preventDefault();
      const at = this.place(event);
      this.zoomAt(at.wx, at.wy, Math.exp(-event.deltaY / 400));
    }, { passive: false });
    canvas.addEventListener("pointerdown", event => this.press(event));
    canvas.addEventListener("pointermove", event => this.move(event));
    canvas.addEventListener("pointerup", event => this.release(event));
    canvas.addEventListener("dblclick", () => this.finish());
    canvas.addEventListener("keydown", event => this.key(event));
  }

  press(event) {
    if (!this.levels) return;
    this.canvas.focus();
    this.canvas.setPointerCapture(event.pointerId);
    const at = this.place(event);
    this.from = at;
    this.moved = false;
    const handle = this.handleAt(at);
    if (event.button === 1 || event.shiftKey || (this.tool === "move" && !handle)) {
      this.panning = { left: this.left, top: this.top };
    } else if (handle) {
      this.dragged = handle;
    } else if (this.drawable) {
      this.heard.begin(this.inField(at));
    } else {
      this.from = null;
      this.heard.refused();
    }
  }

  move(event) {
    const at = this.place(event);
    this.heard.pointer(at.x, at.y, this.greyAt(at.x, at.y), this.from && this.tool !== "move" ? this.from : null);
    if (!this.from) {
      if (this.draft) this.heard.hover(this.inField(at));
      return;
    }
    if (Math.hypot(at.wx - this.from.wx, at.wy - this.from.wy) > 3 * this.ratio) this.moved = true;
    if (this.panning) {
      this.left = this.panning.left - (at.wx - this.from.wx) / this.zoom;
      this.top = this.panning.top - (at.wy - this.from.wy) / this.zoom;
      this.whole = false;
      this.redraw();
    } else if (this.dragged) {
      this.dragged.to(...this.inField(at));
      this.redraw();
    } else {
      this.heard.drag(this.inField(at));
    }
  }

  release(event) {
    if (!this.from) return;
    const at = this.place(event);
    const { panning, dragged, moved } = this;
    this.from = this.panning = this.dragged = null;
    if (dragged) this.heard.dropped(dragged.drawn);
    else if (panning && moved) return;
    else if (panning || !moved) this.heard.click(this.inField(at), this.rowAt(at.x, at.y));
    else this.heard.end(this.inField(at));
  }

  finish() { this.heard.finish(); }

  handleAt(at) {
    const [x, y] = this.inField(at), near = 9 * this.ratio / this.zoom;
    for (const drawn of this.shapes) {
      if (!drawn.movable) continue;
      for (const handle of handlesOf(drawn.shape)) {
        const [hx, hy] = inField(drawn.frame, handle.x, handle.y);
        if (Math.hypot(hx - x, hy - y) > near) continue;
        const rounded = v => Math.round(100 * v) / 100;
        return { drawn, to: (x, y) => handle.to(...asTaught(drawn.frame, x, y).map(rounded)) };
      }
    }
    return null;
  }

  key(event) {
    const step = 60 * this.ratio / this.zoom;
    const moves = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    if (moves[event.key]) {
      this.left += step * moves[event.key][0];
      this.top += step * moves[event.key][1];
      this.whole = false;
    } else if (event.key === "+" || event.key === "-") {
      this.zoomAt(this.canvas.width / 2, this.canvas.height / 2, event.key === "+" ? 1.4 : 1 / 1.4);
    } else if (event.key === "0") {
      this.showWhole();
    } else if (event.key === "1") {
      this.zoomAt(this.canvas.width / 2, this.canvas.height / 2, this.ratio / this.zoom);
    } else if (event.key === "Enter") {
      this.finish();
    } else {
      return;
    }
    event.preventDefault();
    this.redraw();
  }
}
