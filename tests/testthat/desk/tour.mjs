// Round the page: names that look like markup, a damaged picture, regions drawn and dragged, keys,
// a step moved and switched off, refusals in words.
export default async ({ page, go, changed, drag, at, view, settled }) => {
  const found = {};
  const strip = page.locator("#strip .thumb");
  found.names = await strip.locator("span").allTextContents();
  found.injected = await page.evaluate(() => window.injected === undefined && !document.querySelector("#strip img"));

  // the damaged one
  const damaged = found.names.findIndex(n => n === "damaged.png");
  await changed(() => strip.nth(damaged).click());
  found.problem = await page.textContent("#problem");
  found.mark = (await view()).pictures[damaged].mark;
  for (const place of ["scale", "rows", "sizes", "verdict", "picture"]) await go(place);
  const beads = found.names.findIndex(n => n.includes("beads"));
  await changed(() => strip.nth(beads).click());
  found.again = (await view()).rows.count;
  found.hidden = await page.locator("#problem").isHidden();

  // a box drawn, taken as a region, dragged by a handle, read back
  await page.keyboard.press("Escape");
  await page.keyboard.press("b");
  await drag(100, 100, 500.25, 400);
  found.drawn = await page.evaluate(() => window.desk.drawn.shape);
  await page.click("#add-step");
  await page.fill("#find-step", "keep within");
  await page.click('[data-step="keep_within"]');
  await page.waitForFunction(() => document.querySelector('#dialog [data-argument="region"]'));
  await changed(() => page.click("#add-chosen"));
  await page.waitForFunction(() => typeof window.desk.open === "number");
  const step = await page.evaluate(() => window.desk.open);
  found.region = (await view()).chain[step - 1];
  const box = await page.evaluate(() => window.desk.picture.shapes[0].shape.numbers);
  await changed(() => drag(box[2], box[3], 560, 450));
  found.dragged = (await view()).chain[step - 1].args.region;
  found.within = (await view()).rows.count;
  await page.evaluate(() => document.activeElement.blur());
  await changed(() => page.keyboard.press("Control+z"));
  found.undone = (await view()).chain[step - 1].args.region;
  await changed(() => page.keyboard.press("Control+y"));

  // a step switched off, and one that cannot be
  await changed(() => page.click("text=Switch off"));
  found.off = [(await view()).chain[step - 1].on, (await view()).rows.count];
  const segment = (await view()).chain.findIndex(e => e.step.startsWith("segment_")) + 1;
  await go(segment);
  await page.click("#side >> text=Remove");
  await page.waitForFunction(() => document.getElementById("said-text").textContent.length > 0);
  found.refused = await page.textContent("#said-text");
  found.kept = (await view()).chain.length;

  // a form's field that makes no sense is said, and stays as it was
  const accept = (await view()).chain.findIndex(e => e.step === "accept_objects") + 1;
  await go(accept);
  await page.selectOption('[data-argument="edge"]', "keep");
  await settled();
  await page.waitForFunction(() => window.desk.view.chain.some(e => e.args.edge === "keep"));
  await page.fill('[data-argument="resolve"]', "5 stone");
  await page.keyboard.press("Enter");
  await page.waitForFunction(() => document.getElementById("said-text").textContent.includes("stone"));
  found.resolve = (await view()).chain[accept - 1].args.resolve || null;

  // places are shown where they are
  const [x, y] = await at(200.5, 150.5);
  await page.mouse.move(x, y);
  found.readout = await page.textContent("#readout");
  found.grey = await page.evaluate(() => window.desk.picture.greyAt(200.5, 150.5));
  await page.evaluate(() => window.desk.picture.canvas.focus());
  await page.keyboard.press("1");
  await settled();
  found.zoom = await page.evaluate(() => window.desk.picture.zoom / window.desk.picture.ratio);
  await page.keyboard.press("0");
  return found;
};
