// The table of measures: only the rows and columns in sight are in the page.

import { shownUnits, words } from "./names.js";

const tall = 24, wide = 92, narrow = 74;  // the first two columns are narrow

const leftOf = column => column < 2 ? column * narrow : 2 * narrow + (column - 2) * wide;

// Columns by name from the bytes of a table: texts and flags stand in its head, numbers behind it.
export function readRows(buffer) {
  const size = new Int32Array(buffer, 0, 1)[0];
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 8, size)));
  const values = new Float64Array(buffer, 8 + size);
  const columns = {};
  for (const name of head.order) {
    const k = head.numbers.indexOf(name);
    columns[name] = k < 0 ? head.others[name] : Array.from(
      values.subarray(k * head.rows, (k + 1) * head.rows), v => Number.isNaN(v) ? null : v);
  }
  return { columns, rows: head.rows };
}

export class Rows {
  constructor(pane, heard) {
    this.pane = pane;
    this.heard = heard;
    this.body = document.createElement("div");
    this.head = document.createElement("div");
    this.head.className = "rows-head";
    this.body.className = "rows-body";
    pane.replaceChildren(this.head, this.body);
    pane.tabIndex = 0;
    pane.addEventListener("scroll", () => this.draw());
    pane.addEventListener("keydown", event => this.key(event));
    this.sorted = { by: "id", down: false };
    this.which = "all";
    this.chosen = null;
    this.setRows({ columns: {}, rows: 0 }, []);
  }

  // columns: arrays by name; shown: the names of those to show, in order
  setRows(table, shown) {
    this.table = table;
    this.shown = shown;
    this.order();
  }

  order() {
    const { columns, rows } = this.table;
    const picked = [];
    for (let k = 0; k < rows; k++) {
      if (this.which === "all" || columns.accepted[k] === (this.which === "accepted")) picked.push(k);
    }
    const by = columns[this.sorted.by] || columns.id || [];
    const sign = this.sorted.down ? -1 : 1;
    const less = (a, b) => (a === null) - (b === null) || (a < b ? -1 : a > b ? 1 : 0) * sign;
    picked.sort((a, b) => less(by[a], by[b]) || a - b);
    this.picked = picked;
    this.drawHead();
    this.draw();
  }

  // Columns in sight, with one more on either side.
  inSight() {
    const from = this.pane.scrollLeft, to = from + this.pane.clientWidth;
    return this.shown.map((name, k) => k).filter(k => leftOf(k + 1) > from - wide && leftOf(k) < to + wide);
  }

  drawHead() {
    const cells = this.shown.map(name => {
      const cell = document.createElement("button");
      const arrow = this.sorted.by === name ? (this.sorted.down ? " \u2193" : " \u2191") : "";
      cell.textContent = shownUnits(words(name)) + arrow;
      cell.title = "Sort by " + name;
      cell.style.width = (leftOf(this.shown.indexOf(name) + 1) - leftOf(this.shown.indexOf(name))) + "px";
      cell.addEventListener("click", () => {
        this.sorted = { by: name, down: this.sorted.by === name && !this.sorted.down };
        this.order();
      });
      return cell;
    });
    this.head.replaceChildren(...cells);
  }

  draw() {
    const first = Math.max(0, Math.floor(this.pane.scrollTop / tall) - 3);
    const last = Math.min(this.picked.length, first + Math.ceil(this.pane.clientHeight / tall) + 8);
    const { columns } = this.table;
    this.body.style.height = this.picked.length * tall + "px";
    this.body.style.width = leftOf(this.shown.length) + "px";
    const lines = [], sight = this.inSight();
    for (let i = first; i < last; i++) {
      const k = this.picked[i], line = document.createElement("div");
      line.className = "row-line" + (columns.accepted[k] ? "" : " out") +
        (columns.id[k] === this.chosen ? " chosen" : "");
      line.style.top = i * tall + "px";
      line.dataset.id = columns.id[k];
      for (const column of sight) {
        const cell = document.createElement("span");
        cell.textContent = shownValue(columns[this.shown[column]][k]);
        cell.style.left = leftOf(column) + "px";
        cell.style.width = (leftOf(column + 1) - leftOf(column)) + "px";
        cell.title = cell.textContent;
        line.append(cell);
      }
      line.addEventListener("click", () => this.heard.choose(columns.id[k]));
      lines.push(line);
    }
    this.body.replaceChildren(...lines);
  }

  // The row of that number, scrolled into sight.
  choose(id) {
    this.chosen = id;
    const at = this.picked.findIndex(k => this.table.columns.id[k] === id);
    const { scrollTop, clientHeight } = this.pane, top = at * tall;
    if (at >= 0 && (top < scrollTop || top > scrollTop + clientHeight - 3 * tall)) {
      this.pane.scrollTop = top - clientHeight / 2;
    }
    this.draw();
  }

  key(event) {
    const way = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    const at = this.picked.findIndex(k => this.table.columns.id[k] === this.chosen);
    const next = this.picked[Math.max(0, Math.min(this.picked.length - 1, at + way))];
    if (next !== undefined) this.heard.choose(this.table.columns.id[next]);
  }
}

export function shownValue(v) {
  if (v === null || v === undefined) return "";
  if (v === true) return "yes";
  if (v === false) return "no";
  return String(v);
}
