// Opens a desk in a browser, runs a script at it, and writes down what it found out.
import { createRequire } from "node:module";
import { writeFileSync } from "node:fs";
import { pathToFileURL } from "node:url";
import { resolve } from "node:path";

const given = JSON.parse(process.argv[2]);
const { chromium } = createRequire(import.meta.url)(given.driver);
const browser = await chromium.launch({ executablePath: given.browser, args: ["--no-sandbox", "--disable-gpu"] });
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
const page = await context.newPage();
page.setDefaultTimeout(30000);
const errors = [], asked = [];
page.on("pageerror", e => errors.push(e.message));
page.on("request", r => asked.push(r.url()));

// What a script needs most: a place on the trail opened, the desk at rest, a place of the picture.
export const tools = {
  page, context, more: given.more,
  settled: () => page.waitForFunction(() => window.desk.forms.length && document.getElementById("side").dataset.place === String(window.desk.open) && !document.body.classList.contains("busy") && !window.desk.picture.asked),
  async go(place) {
    await page.click(`.chip[data-place="${place}"]`);
    await page.waitForFunction(p => document.getElementById("side").dataset.place === p, String(place));
    await tools.settled();
  },
  async changed(act) {
    const before = await page.evaluate(() => window.desk.view.actions);
    await act();
    await page.waitForFunction(n => window.desk.view.actions > n, before);
    await tools.settled();
  },
  async at(x, y) {
    const place = await page.evaluate(([x, y]) => {
      const p = window.desk.picture, box = p.canvas.getBoundingClientRect();
      return [box.left + (x + p.shift[0] - p.left) * p.zoom / p.ratio, box.top + (y + p.shift[1] - p.top) * p.zoom / p.ratio];
    }, [x, y]);
    return place;
  },
  async drag(x1, y1, x2, y2) {
    const from = await tools.at(x1, y1), to = await tools.at(x2, y2);
    await page.mouse.move(...from);
    await page.mouse.down();
    await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2);
    await page.mouse.move(...to);
    await page.mouse.up();
  },
  async click(x, y) { await page.mouse.click(...await tools.at(x, y)); },
  view: () => page.evaluate(() => window.desk.view),
  rows: () => page.evaluate(() => window.desk.rows),
};

try {
  await page.goto(given.address);
  await tools.settled();
  const { default: script } = await import(pathToFileURL(resolve(given.script)));
  const found = await script(tools);
  writeFileSync(given.out, JSON.stringify({ ...found, errors, asked }));
} finally {
  await browser.close();
}
