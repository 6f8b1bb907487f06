// A histogram with bounds to drag: of grey levels, or of a measure.

export class Bars {
  // heard: {moved(bounds), set(bounds)}; bounds are [low, high], null for none
  constructor(canvas, heard) {
    this.canvas = canvas;
    this.heard = heard;
    this.bounds = [null, null];
    this.range = [0, 1];
    this.counts = [];
    canvas.tabIndex = 0;
    canvas.addEventListener("pointerdown", event => this.press(event));
    canvas.addEventListener("pointermove", event => this.move(event));
    canvas.addEventListener("pointerup", () => this.release());
    canvas.addEventListener("keydown", event => this.key(event));
  }

  show(counts, range, bounds, options = {}) {
    this.counts = counts;
    this.range = range;
    this.bounds = [...bounds];
    this.sides = options.sides || [0, 1];
    this.whole = !!options.whole;
    this.canvas.dataset.bars = counts.length;
    this.draw();
  }

  draw() {
    const ratio = window.devicePixelRatio || 1, pen = this.canvas.getContext("2d");
    const box = this.canvas.getBoundingClientRect();
    const width = this.canvas.width = Math.round(box.width * ratio);
    const height = this.canvas.height = Math.round(box.height * ratio);
    const foot = 18 * ratio, most = Math.max(1, ...this.counts.map(Math.sqrt));
    pen.clearRect(0, 0, width, height);
    this.counts.forEach((count, k) => {
      const tall = Math.sqrt(count) / most * (height - foot - 4 * ratio);
      const middle = this.range[0] + (k + 0.5) / this.counts.length * (this.range[1] - this.range[0]);
      pen.fillStyle = this.isInside(middle) ? "#56B4E9" : "#9DB4BF";
      const left = Math.floor(k / this.counts.length * width);
      pen.fillRect(left, height - foot - tall, Math.ceil(width / this.counts.length), tall);
    });
    pen.fillStyle = "#22313A";
    pen.fillRect(0, height - foot, width, ratio);
    pen.font = 11 * ratio + "px system-ui, sans-serif";
    pen.fillText(this.shown(this.range[0]), 2, height - 4 * ratio);
    const last = this.shown(this.range[1]);
    pen.fillText(last, width - pen.measureText(last).width - 2, height - 4 * ratio);
    this.bounds.forEach((bound, side) => {
      if (!this.sides.includes(side)) return;
      const x = this.placeOf(bound === null ? this.range[side] : bound) * width;
      const at = Math.max(2 * ratio, Math.min(width - 2 * ratio, x));
      pen.fillStyle = bound === null ? "#8A979E" : "#CC3D00";
      pen.fillRect(at - ratio, 0, 2 * ratio, height - foot);
      pen.beginPath();
      pen.arc(at, 7 * ratio, 6 * ratio, 0, 2 * Math.PI);
      pen.fill();
      if (bound === null) return;
      const text = this.shown(bound), wide = pen.measureText(text).width;
      pen.fillStyle = "#22313A";
      pen.fillText(text, Math.max(2, Math.min(width - wide - 2, at - wide / 2)), height - 4 * ratio);
    });
  }

  shown(v) {
    return String(Number(v.toPrecision(4)));
  }

  isInside(v) {
    const [low, high] = this.bounds;
    return (low === null || v >= low) && (high === null || v <= high);
  }

  placeOf(v) {
    return (v - this.range[0]) / (this.range[1] - this.range[0] || 1);
  }

  valueAt(event) {
    const box = this.canvas.getBoundingClientRect();
    const share = Math.max(0, Math.min(1, (event.clientX - box.left) / box.width));
    const v = this.range[0] + share * (this.range[1] - this.range[0]);
    return this.whole ? Math.round(v) : Number(v.toPrecision(4));
  }

  press(event) {
    if (!this.counts.length) return;
    this.canvas.setPointerCapture(event.pointerId);
    const v = this.valueAt(event);
    const far = side => Math.abs(v - (this.bounds[side] ?? this.range[side]));
    this.side = this.sides.length === 1 ? this.sides[0] : far(0) <= far(1) ? 0 : 1;
    this.move(event);
  }

  move(event) {
    if (this.side === undefined) return;
    this.put(this.side, this.valueAt(event));
  }

  put(side, v) {
    const other = this.bounds[1 - side];
    if (other !== null && this.sides.length === 2) v = side ? Math.max(v, other) : Math.min(v, other);
    this.bounds[side] = v === this.range[side] ? null : v;
    this.draw();
    this.heard.moved([...this.bounds]);
  }

  release() {
    if (this.side === undefined) return;
    this.side = undefined;
    this.heard.set([...this.bounds]);
  }

  // arrows move the bound that was moved last, by a hundredth of the range or one level
  key(event) {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    const side = this.sides[0], step = this.whole ? 1 : (this.range[1] - this.range[0]) / 100;
    this.put(side, Number(((this.bounds[side] ?? this.range[side]) + way * step).toPrecision(6)));
    this.heard.set([...this.bounds]);
  }
}
