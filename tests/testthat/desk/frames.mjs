// Shapes over a plate that lies askew: those of the method lie on the part, what is drawn comes back
// as it would be named in the taught picture.
export default async ({ page, go, changed, drag, at, view }) => {
  const found = {};
  const steps = (await view()).chain.map(e => e.step);
  await go(steps.indexOf("measure_region") + 1);
  const [shape, frame, first] = await page.evaluate(() => {
    const d = window.desk, s = d.picture.shapes[0];
    return [s.shape.numbers, s.frame, [d.rows.columns.x_px[0], d.rows.columns.y_px[0]]];
  });
  const corner = [frame[0] + frame[2] * shape[0] + frame[4] * shape[1], frame[1] + frame[3] * shape[0] + frame[5] * shape[1]];
  found.away = Math.hypot(corner[0] - first[0], corner[1] - first[1]);
  const x = corner[0] + 3, y = corner[1] - 2;
  await changed(() => drag(corner[0], corner[1], x, y));
  found.region = (await view()).chain[steps.indexOf("measure_region")].args.region;
  found.expected = await page.evaluate(async ([f, x, y]) => {
    const m = await import("/part/shapes.js");
    return m.asTaught(f, x, y);
  }, [frame, x, y]);

  await go(steps.indexOf("keep_within") + 1);
  await page.keyboard.press("b");
  await drag(300, 200, 500, 350);
  found.frame = await page.evaluate(() => window.desk.frameBefore(window.desk.open));
  await changed(() => page.click("text=Use the drawn shape"));
  found.taken = (await view()).chain[steps.indexOf("keep_within")].args.region;
  found.count = (await view()).rows.count;
  return found;
};
