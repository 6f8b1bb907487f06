// The story of a day: calibrate from the bar, choose a level, cut a pair, leave out dust, set a
// limit, save, run the batch.
export default async ({ page, go, changed, drag, view, rows, settled, click, more }) => {
  await go("scale");
  await page.fill("#scale-length", "50 um");
  await changed(() => page.click("#scale-bar"));
  const scale = (await view()).scale;

  await go(3);
  const bars = await page.locator("#level-bars[data-bars]").boundingBox();
  await page.mouse.move(bars.x + bars.width * 0.57, bars.y + 40);
  await page.mouse.down();
  await page.mouse.move(bars.x + bars.width * 0.50, bars.y + 40, { steps: 4 });
  const dragged = await page.evaluate(() => window.desk.picture.level);
  await changed(() => page.mouse.up());
  const level = (await view()).chain[2];

  await go("rows");
  await page.keyboard.press("c");
  const before = await rows();
  const largest = before.columns.area_um2.indexOf(Math.max(...before.columns.area_um2.filter((_, k) => before.columns.accepted[k])));
  const x = before.columns.x_px[largest], y = before.columns.y_px[largest], r = 40;
  await changed(() => drag(x - r, y, x + r, y));
  const cut = await rows(), heads = await page.textContent(".rows-head");

  await page.keyboard.press("m");
  const dust = cut.columns.accepted.indexOf(true);
  await click(cut.columns.x_px[dust], cut.columns.y_px[dust]);
  const chosen = await page.evaluate(() => window.desk.chosen);
  const marked = await page.locator(".row-line.chosen").getAttribute("data-id");
  await page.fill("#why", "dust <img src=x onerror=alert(1)>");
  await changed(() => page.click("#leave-out"));

  const accept = (await view()).chain.findIndex(e => e.step === "accept_objects") + 1;
  await go(accept);
  const limits = await page.locator("#limit-bars[data-bars]").boundingBox();
  await page.mouse.move(limits.x + 3, limits.y + 40);
  await page.mouse.down();
  await page.mouse.move(limits.x + limits.width * 0.3, limits.y + 40, { steps: 4 });
  const told = await page.textContent("#limit-count");
  await changed(() => page.mouse.up());

  await page.click("#save");
  await page.fill("#save-name", "day");
  await page.click("#save-now");
  await page.waitForFunction(() => document.getElementById("said-text").textContent.startsWith("Saved"));
  await go("verdict");
  await page.click("#judge");
  await page.waitForFunction(() => document.getElementById("verdict").querySelector("table"));
  await page.fill("#run-name", "day");
  await page.click("#run-batch");
  await page.waitForFunction(() => document.getElementById("run-after").querySelector("a"), null, { timeout: 90000 });
  const report = await page.evaluate(async () => {
    const reply = await fetch("/results/report.html");
    return { status: reply.status, length: (await reply.text()).length };
  });
  return {
    scale, dragged, level, counts: [before.rows, cut.rows], chosen, marked, heads, told, report,
    verdict: await page.textContent("#verdict"), rows: await rows(), view: await view(),
    html: await page.evaluate(() => document.querySelectorAll("#side img[src=x]").length),
  };
};
