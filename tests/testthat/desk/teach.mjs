// A part taught by a box is found at once, by a chain that ends there.
export default async ({ page, go, changed, drag, view, more }) => {
  await page.click('[data-tool="box"]');
  const [x, y] = more.at;
  await drag(x - 58, y - 58, x + 58, y + 58);
  await page.click("#teach");
  await page.fill("#teach-name", "one clip");
  await changed(() => page.click("#teach-now"));
  await go("rows");
  return { rows: (await view()).rows, chain: (await view()).chain.map(e => e.step) };
};
