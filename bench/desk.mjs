// What a person waits for at a desk, in milliseconds: medians of what the page needs for itself, and
// of whole actions from the click to the picture and the table drawn again.
export default async ({ page, go, settled, rows, more }) => {
  const opened = await page.evaluate(() => performance.now());
  const seen = await page.evaluate(() => performance.getEntriesByName("picture")[0].startTime);
  await go("rows");
  const own = await page.evaluate(async () => {
    const desk = window.desk, p = desk.picture;
    const median = v => v.sort((a, b) => a - b)[Math.floor(v.length / 2)];
    const timed = (n, act) => median(Array.from({ length: n }, (_, k) => {
      const from = performance.now();
      act(k);
      p.draw();
      return performance.now() - from;
    }));
    p.draw();
    const last = desk.view.stages.length - 1;
    const bytes = await (await fetch("/shapes?stage=" + last)).arrayBuffer();
    const found = {
      outlines: timed(9, () => p.setShapes(bytes.slice(0))),
      click: timed(21, k => desk.choose(desk.rows.columns.id[(37 * k) % desk.rows.rows], true)),
    };
    p.showWhole();
    found.whole = timed(9, () => {});
    p.zoomAt(p.canvas.width / 2, p.canvas.height / 2, 1 / p.zoom);
    found.pan = timed(21, () => { p.left += 7; });
    p.showWhole();
    p.rings = null;
    found.mask = timed(21, k => { p.level = { low: 90 + k, high: null }; });
    p.level = null;
    desk.keys = {};
    await desk.showStage();
    return found;
  });
  const table = await rows();
  // when the page draws what was done (the lines by hand, what is accepted), and when all is there
  const act = async action => page.evaluate(async action => {
    const desk = window.desk, from = performance.now();
    const found = {};
    const hand = desk.showHand.bind(desk);
    desk.showHand = stage => {
      hand(stage);
      if (action.do === "cut") found.shown ??= performance.now() - from;
    };
    desk.loadRows = (load => async () => {
      await load();
      found.rows = performance.now() - from;
      found.shown ??= found.rows;
    })(Object.getPrototypeOf(desk).loadRows.bind(desk));
    await desk.act(action);
    delete desk.showHand;
    delete desk.loadRows;
    found.all = performance.now() - from;
    return found;
  }, action);
  const times = { exclude: [], cut: [], limit: [], level: [] };
  for (const k of [100, 900, 1700]) {
    const x = table.columns.x_px[k], y = table.columns.y_px[k];
    times.exclude.push(await act({ do: "exclude", id: table.columns.id[k + 1], why: "dust" }));
    times.cut.push(await act({ do: "cut", x1: x - 30, y1: y, x2: x + 30, y2: y }));
    times.limit.push(await act({ do: "limit", measure: "ecd", low: k / 100 + " px" }));
  }
  for (const low of [120, 125, 130]) {
    times.level.push(await act({ do: "change_step", at: 1, step: "segment_level", args: { low } }));
  }
  return { opened, seen, own, times, rows: table.rows };
};
