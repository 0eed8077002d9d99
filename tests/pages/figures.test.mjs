// Figures as pages, as a browser shows them.
import assert from "node:assert/strict";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { endsOnPhone, faults, folder, keep, marks, open, startBrowser, stopBrowser, tanzen } from "./browser.mjs";

before(startBrowser);
after(stopBrowser);

const kinds = {
  "run.html": ["solve", "himmelblau", "--with", "nelder-mead", "--from", "0,0", "--quiet", "--figure", "run.html"],
  "many.html": ["solve", "sphere:dim=4", "--with", "bfgs", "--quiet", "--figure", "many.html"],
  "paths.html": ["figure", "paths", "rosenbrock", "--with", "bfgs", "--with", "nelder-mead", "--output", "paths.html"],
  "surface.html": ["figure", "paths", "rosenbrock", "--with", "bfgs", "--from", "-1.8,2.2", "--surface", "--output", "surface.html"],
  "landscape.html": ["figure", "landscape", "ackley:dim=3", "--output", "landscape.html"],
  "sample.html": ["figure", "sample", "zdt-1", "--points", "200", "--output", "sample.html"],
  "ends.html": ["figure", "ends", "eggholder", "--with", "nelder-mead", "--repeats", "5", "--output", "ends.html"],
  "front.html": ["solve", "zdt-3", "--with", "nondominated-sorting", "--evaluations", "3000", "--quiet", "--figure", "front.html"],
  "basins.html": ["sweep", "himmelblau", "--with", "newton", "--vary", "start=grid:30x20", "--figure", "basins.html"],
};

for (const [name, words] of Object.entries(kinds))
  test(`${name}: every panel has marks, and nobody is kept out`, async () => {
    tanzen(...words);
    const page = await keep(name);
    for (const count of await marks(page)) assert.ok(count > 0);
    assert.deepEqual(await faults(page), []);
  });

const place = (page, panel = 0) => page.evaluate((k) => {
  const view = figureViews[0].panels[k];
  const mark = view.moving().at(-1).trace.layer, [first] = mark.shown[view.frame];
  return { frame: view.frame, x: mark.x[first], y: mark.y[first], painted: view.canvas.getContext("2d").getImageData(0, 0, view.canvas.width, view.canvas.height).data.some(Boolean) };
}, panel);

test("play moves the path, pause holds it, and the slider and the steps go where they say", async () => {
  const page = await keep("paths.html");
  const end = await place(page);
  await page.getByRole("button", { name: "play" }).click();
  await page.waitForFunction(() => figureViews[0].player.frame > 10 && figureViews[0].player.playing);
  const midway = await place(page);
  assert.ok(midway.frame > 0 && midway.frame < end.frame);
  assert.ok(midway.painted);
  assert.notDeepEqual([midway.x, midway.y], [end.x, end.y]);
  await page.getByRole("button", { name: "pause" }).click();
  const held = await page.evaluate(() => figureViews[0].player.frame);
  await page.waitForTimeout(300);
  assert.equal(await page.evaluate(() => figureViews[0].player.frame), held);
  assert.equal((await place(page)).painted, false); // what stands still can be pointed at
  await page.getByRole("button", { name: "one frame forward" }).click();
  assert.equal(await page.evaluate(() => figureViews[0].player.frame), held + 1);
  await page.getByRole("slider", { name: "frame" }).fill("7");
  assert.equal((await place(page)).frame, 7);
  assert.equal(await page.locator(".player output").textContent(), await page.evaluate(() => pageData.figures[0].frames[7]));
  const shown = await page.evaluate(() => figureViews[0].panels[0].plot.data.filter((trace) => trace.layer.shown && trace.mode === "lines").map((trace) => trace.x.length));
  assert.deepEqual(shown, await page.evaluate(() => figureViews[0].panels[0].moving().filter(({ trace }) => trace.mode === "lines").map(({ trace }) => trace.layer.shown[7][1])));
  await page.getByRole("slider", { name: "frame" }).press("ArrowRight");
  assert.equal(await page.evaluate(() => figureViews[0].player.frame), 8);
});

// By a clock that only the test moves: what a busy machine does is none of the player's business.
test("the speed is what it says", async () => {
  const page = await open("paths.html");
  await page.clock.install();
  await page.clock.pauseAt(Date.now() + 60_000);
  const seconds = await page.evaluate(() => pageData.figures[0].seconds), frame = 1 / 60;
  for (const speed of [4, 16]) {
    await page.getByRole("combobox", { name: "speed" }).selectOption(String(speed));
    await page.evaluate(() => figureViews[0].player.go(0, true));
    await page.getByRole("button", { name: "play" }).click();
    await page.clock.runFor(1000 * (seconds / speed + 10 * frame));
    const { playing, lasted } = await page.evaluate(() => ({ playing: figureViews[0].player.playing, lasted: figureViews[0].player.lasted }));
    assert.equal(playing, false);
    assert.ok(lasted >= seconds / speed && lasted < seconds / speed + 3 * frame, `${lasted} of ${seconds} at ${speed}`);
  }
  await page.close();
});

test("a method off in the key is off in every panel; a double click shows it alone, and again shows all", async () => {
  const page = await keep("paths.html");
  const visible = () => page.evaluate(() => {
    const all = {};
    for (const { plot } of figureViews[0].panels)
      for (const trace of plot.data) if (trace.series) (all[trace.series] ??= []).push(trace.visible !== false);
    return Object.fromEntries(Object.entries(all).map(([name, each]) => [name, [...new Set(each)]]));
  });
  assert.deepEqual(await visible(), { bfgs: [true], "nelder-mead": [true] });
  const bfgs = page.getByRole("button", { name: "bfgs" });
  await bfgs.focus();
  await page.keyboard.press("Enter");
  await page.waitForFunction(() => figureViews[0].panels.every(({ plot }) => plot.data.every((trace) => trace.series !== "bfgs" || trace.visible === false)));
  assert.deepEqual(await visible(), { bfgs: [false], "nelder-mead": [true] });
  assert.equal(await bfgs.getAttribute("aria-pressed"), "false");
  await page.keyboard.press("Enter");
  await bfgs.dblclick();
  await page.waitForFunction(() => figureViews[0].panels.every(({ plot }) => plot.data.every((trace) => trace.series !== "nelder-mead" || trace.visible === false)));
  assert.deepEqual(await visible(), { bfgs: [true], "nelder-mead": [false] });
  await bfgs.dblclick();
  await page.waitForFunction(() => figureViews[0].panels.every(({ plot }) => plot.data.every((trace) => trace.visible !== false)));
});

test("keys zoom and move, and zero shows all; the pointer is told the value below it", async () => {
  const page = await keep("run.html");
  const range = () => page.evaluate(() => figureViews[0].panels[0].plot._fullLayout.xaxis.range.slice());
  const all = await range();
  await page.locator(".plot").first().focus();
  await page.keyboard.press("+");
  const near = await range();
  assert.ok(Math.abs((near[1] - near[0]) / (all[1] - all[0]) - 0.8) < 1e-9);
  await page.keyboard.press("ArrowRight");
  assert.ok((await range())[0] > near[0]);
  await page.keyboard.press("0");
  assert.deepEqual(await range(), all);
  const box = await page.locator(".plot").first().boundingBox();
  const at = await page.evaluate(() => {
    const { xaxis, yaxis } = figureViews[0].panels[0].plot._fullLayout;
    return [xaxis._offset + xaxis.d2p(3), yaxis._offset + yaxis.d2p(2)];
  });
  await page.mouse.move(box.x + at[0], box.y + at[1]);
  const told = await page.locator(".readout").first().textContent();
  const value = Number(told.split(": ")[1]);
  assert.ok(value >= 0 && value < 2, told); // a minimum of himmelblau, whose value is 0
});

test("a picture is taken away as SVG and as PNG", async () => {
  const page = await keep("run.html");
  for (const [form, magic] of [["SVG", "<svg"], ["PNG", "\x89PNG"]]) {
    const waiting = page.waitForEvent("download");
    await page.getByRole("button", { name: `save as ${form}` }).click();
    const file = await waiting;
    const { createReadStream } = await import("node:fs");
    let content = "";
    for await (const part of createReadStream(await file.path(), "latin1")) content += part;
    assert.ok(content.startsWith(magic));
    assert.ok(content.length > 20_000);
  }
});

test("the surface is see-through at a button, and solid again at the next press", async () => {
  const page = await keep("surface.html");
  const opacity = () => page.evaluate(() => figureViews[0].panels[0].plot.data.find((trace) => trace.type === "surface").opacity ?? 1);
  assert.equal(await opacity(), 1);
  for (const isReached of ["opacity < 1", "opacity === 1"]) {
    await page.getByRole("button", { name: "make the surface see-through or solid" }).click();
    await page.waitForFunction(`figureViews[0].panels[0].plot.data.find((trace) => trace.type === "surface").${isReached}`);
  }
});

test("hostile names are shown as text", async () => {
  const hostile = "</script><img src=x onerror=alert(1)><b>kiln</b>";
  writeFileSync(join(folder, "hostile.toml"), `[problem]\nname = "kiln"\ntitle = "${hostile}"\nminimize = "(x - 1)^2 + y^2"\n[variables]\nx = { start = 3, unit = "${hostile}" }\ny = { start = 2, unit = "%{x} $a$ <b>" }\n`);
  tanzen("figure", "landscape", "hostile.toml", "--output", "hostile.html");
  const page = await open("hostile.html");
  page.on("dialog", () => page.wrong.push("a dialog opened"));
  assert.deepEqual(page.wrong, []);
  assert.equal(page.requests.length, 1);
  assert.ok((await page.locator("h1").textContent()).includes(hostile));
  assert.equal(await page.evaluate(() => document.querySelectorAll("img, b").length), 0);
  assert.ok((await page.locator(".xtitle").textContent()).includes(hostile));
  assert.ok((await page.locator(".ytitle").textContent()).includes("%{x} $a$ <b>"));
  await page.close();
});

test("fifty thousand iterations are light and play at thirty frames a second in ten seconds", async () => {
  tanzen("solve", "rosenbrock", "--with", "gradient-descent:step=1e-4", "--iterations", "50000", "--evaluations", "1000000", "--quiet", "--figure", "long.html");
  const page = await open("long.html");
  const size = await page.evaluate(() => document.getElementById("page-data").textContent.length);
  assert.ok(size < 3e6, `${size} bytes of data`);
  await page.getByRole("button", { name: "play" }).click();
  await page.waitForFunction(() => figureViews[0].player.frame > 0 && !figureViews[0].player.playing, null, { timeout: 60_000 });
  const { painted, lasted } = await page.evaluate(() => ({ painted: figureViews[0].player.painted, lasted: figureViews[0].player.lasted }));
  console.log(`${(size / 1e6).toFixed(2)} MB of data; ${(painted / lasted).toFixed(1)} frames a second over ${lasted.toFixed(2)} s`);
  assert.ok(lasted > 9.9); // a busy machine may be slower, never faster
  await page.close();
});

for (const name of Object.keys(kinds))
  test(`${name}: it fits a phone, nothing went wrong, and nothing was asked of anybody`, () => endsOnPhone(name));
