// The four main views of the desk, from the demo's beads, into docs/screenshots.
export default async ({ page, go, changed, drag, rows, settled }) => {
  const shot = async name => {
    await page.mouse.move(640, 60);
    await page.waitForTimeout(900);
    await page.screenshot({ path: "docs/screenshots/desk-" + name + ".png" });
  };
  await go("scale");
  await page.fill("#scale-length", "50 um");
  await changed(() => page.click("#scale-bar"));
  await shot("scale");
  await go(3);
  const bars = await page.locator("#level-bars[data-bars]").boundingBox();
  await page.mouse.move(bars.x + bars.width * 0.57, bars.y + 40);
  await page.mouse.down();
  await page.mouse.move(bars.x + bars.width * 0.52, bars.y + 40, { steps: 4 });
  await changed(() => page.mouse.up());
  await shot("level");
  await go("rows");
  const table = await rows(), one = table.columns.ecd_um.indexOf(Math.max(...table.columns.ecd_um));
  const x = table.columns.x_px[one], y = table.columns.y_px[one];
  await page.evaluate(([x, y]) => {
    const p = window.desk.picture;
    p.showPlace(x, y, 60);
  }, [x, y]);
  await changed(() => page.evaluate(([x, y]) => window.desk.act({ do: "cut", x1: x - 36, y1: y - 6, x2: x + 36, y2: y + 6 }), [x, y]));
  await page.evaluate(([x, y]) => {
    const p = window.desk.picture;
    window.desk.choose(p.rowAt(x + p.shift[0], y + p.shift[1] + 12), false);
  }, [x, y]);
  await shot("rows");
  await changed(() => page.click("#undo"));
  await go("verdict");
  await page.click("#whole");
  await page.click("#run-batch");
  await page.waitForFunction(() => document.getElementById("run-after").querySelector("a"), null, { timeout: 90000 });
  await page.evaluate(() => { document.getElementById("side").scrollTop = 160; });
  await shot("verdict");
  return {};
};
