// The report of the demo's campaign, as a colleague's browser shows it.
import assert from "node:assert/strict";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { drawn, endsOnPhone, faults, folder, keep, marks, open, startBrowser, stopBrowser, tanzen } from "./browser.mjs";

before(async () => {
  await startBrowser();
  tanzen("demo", "--folder", "tour");
});
after(stopBrowser);

const name = "tour/5-families.report.html";
const shownFigures = (page) => page.evaluate(() => [...document.querySelectorAll("[data-figure]:not([data-folded])")].filter((root) => !root.hidden).length);

test("everything is there, and nobody is kept out", async () => {
  const page = await keep(name);
  assert.deepEqual(await page.locator("main > section > h2").allTextContents(), ["What was asked, and how it was run", "What the data support", "The tables",
    "The figures", "Problem by problem", "What failed, and why", "Single runs", "How to repeat it"]);
  for (const count of await marks(page)) assert.ok(count > 0);
  assert.deepEqual(await faults(page), []);
});

test("a method off in the key is off in every figure and every table", async () => {
  const page = await keep(name);
  await page.evaluate(() => {
    window.began = 0;
    document.querySelector(".key button").addEventListener("click", () => (window.began = performance.now()), true);
    new MutationObserver(() => (window.switched ??= performance.now() - window.began)).observe(document.documentElement, { attributes: true, attributeFilter: ["data-switched"] });
  });
  await page.locator("[data-figure]").first().scrollIntoViewIfNeeded();
  await page.locator(".key button", { hasText: "bfgs" }).click();
  await page.waitForFunction(() => document.documentElement.dataset.switched === "bfgs");
  assert.equal(await page.evaluate(() => figureViews.flatMap(({ panels }) => panels.flatMap(({ plot }) => plot.data.flatMap(({ series }, k) =>
    (series === "bfgs" ? [plot.querySelector(`.scatter${plot._fullData[k].uid}`)] : [])))).filter((drawn) => drawn && drawn.style.display !== "none" && drawn.getClientRects().length).length), 0);
  await page.waitForFunction(() => document.documentElement.dataset.allSwitched === "bfgs");
  const { left, rows, switched } = await page.evaluate(() => ({
    left: figureViews.flatMap(({ panels }) => panels.flatMap(({ plot }) => plot.data.filter((trace) => trace.series === "bfgs" && trace.visible !== false))).length,
    rows: [...document.querySelectorAll("tr[data-method=bfgs]")].filter((row) => !row.hidden).length,
    switched: window.switched,
  }));
  assert.equal(left, 0);
  assert.equal(rows, 0);
  console.log(`a method is off everywhere after ${switched.toFixed(0)} ms`);
  await page.locator("#group").selectOption("multimodal");
  await drawn(page);
  const stillOff = await page.evaluate(() => figureViews.filter(({ root }) => !root.hidden).flatMap(({ panels }) => panels.flatMap(({ plot }) => plot.data.filter((trace) => trace.series === "bfgs" && trace.visible !== false))).length);
  assert.equal(stillOff, 0); // also in figures that were drawn after it was switched off
  await page.locator("#group").selectOption({ index: 0 });
  await page.locator(".key button", { hasText: "bfgs" }).click();
  await page.waitForFunction(() => document.documentElement.dataset.allSwitched === "");
  await drawn(page);
});

test("a group and a problem filter figures and rows together", async () => {
  const page = await keep(name);
  const all = await shownFigures(page);
  await page.locator("#group").selectOption("multimodal");
  await drawn(page);
  assert.ok((await shownFigures(page)) >= all - 2);
  const captions = await page.evaluate(() => [...document.querySelectorAll("[data-group=multimodal] .caption")].map((caption) => caption.textContent));
  assert.ok(captions.length > 3);
  for (const caption of captions) assert.match(caption, /multimodal/);
  const problems = () => page.evaluate(() => [...new Set([...document.querySelectorAll("tr[data-problem]")].filter((row) => !row.hidden).map((row) => row.dataset.problem))].filter(Boolean));
  assert.ok((await problems()).every((label) => /rastrigin|ackley|griewank|levy/.test(label)));
  await page.locator("#problem").selectOption("rastrigin:dim=2");
  assert.deepEqual(await problems(), ["rastrigin:dim=2"]);
  await page.locator("#group").selectOption({ index: 0 });
  await drawn(page);
});

test("tables sort by a column, up and down, by numbers where there are any", async () => {
  const page = await keep(name);
  const table = page.locator("table", { hasText: "critical distance" }).first();
  const cells = async (column) => (await table.locator(`tbody tr td:nth-child(${column})`).allTextContents()).map(Number);
  await table.getByRole("button", { name: "sort by mean rank" }).click();
  const up = await cells(5);
  assert.deepEqual(up, [...up].sort((a, b) => a - b));
  await table.getByRole("button", { name: "sort by mean rank" }).click();
  assert.deepEqual(await cells(5), [...up].reverse());
  assert.equal(await table.locator("th").nth(4).getAttribute("aria-sort"), "descending");
});

test("a landscape and a single run are drawn when they are asked for", async () => {
  const page = await keep(name);
  const before = await page.evaluate(() => document.querySelectorAll(".js-plotly-plot").length);
  await page.getByText("What rastrigin:dim=2 looks like").click();
  await page.waitForFunction((count) => document.querySelectorAll(".js-plotly-plot").length > count, before);
  const run = page.locator("#run");
  await run.selectOption({ index: 1 });
  await page.waitForFunction((count) => document.querySelectorAll(".js-plotly-plot").length > count + 1, before);
  assert.match(await page.locator("h3", { hasText: "bfgs on rosenbrock" }).first().textContent(), /rosenbrock:dim=2/);
});

test("it fits a phone, nothing went wrong, and nothing was asked of anybody", () => endsOnPhone(name));

test("hostile names in a plan are shown as text", async () => {
  const hostile = "</script><img src=x onerror=alert(1)>";
  writeFileSync(join(folder, "sly.toml"), `title = "${hostile}"\nrepeats = 2\nproblems = ["sphere:dim=2", "rosenbrock"]\n[methods]\n"${hostile}" = { use = "bfgs" }\nsimplex = { use = "nelder-mead" }\n[stop]\nevaluations = 200\n`);
  tanzen("report", "sly.toml", "--output", "sly.html");
  const page = await open("sly.html");
  assert.deepEqual(page.wrong, []);
  assert.equal(page.requests.length, 1);
  assert.equal(await page.locator("h1").textContent(), hostile);
  assert.equal(await page.evaluate(() => document.querySelectorAll("img").length), 0);
  await page.close();
});
