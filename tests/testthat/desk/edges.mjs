// Both edges of a layer drawn over a cross-section.
export default async ({ page, go, changed, drag, click, view }) => {
  await page.keyboard.press("l");
  await drag(20, 200, 800, 205);
  const first = await page.evaluate(() => window.desk.drawn.shape.numbers);
  await page.click("#add-step");
  await page.fill("#find-step", "layer between");
  await page.click('[data-step="layer_between"]');
  await page.waitForSelector('#dialog [data-argument="second"]');
  await page.fill('#dialog [data-argument="second"]', "{line: [20, 400, 800, 410]}");
  await page.keyboard.press("Tab");
  await page.evaluate(() => window.desk.closeDialog());
  const text = await page.inputValue('#dialog [data-argument="first"]');
  await changed(() => page.evaluate(first => window.desk.act({
    do: "end_with", after: 0, step: "layer_between",
    texts: { first, second: "{line: [20, 400, 800, 410]}" },
  }), text));
  await changed(() => page.evaluate(() => window.desk.act({ do: "add_step", step: "layer_thickness", texts: { step: "20 px" } })));
  await go(1);
  await page.keyboard.press("Escape");
  await page.click('[data-tool="polyline"]');
  for (const [x, y] of [[20, 420], [300, 430], [800, 425]]) {
    await click(x, y);
    await page.waitForTimeout(60);
  }
  await page.keyboard.press("Enter");
  await page.click('#side [data-argument="second"]');
  await changed(() => page.click("text=Use the drawn shape"));
  return { first, text, args: (await view()).chain[0].args, rows: (await view()).rows };
};
