// What the tests of pages share: the program that writes them, and a browser without a screen that shows them.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { chromium } from "../../web/node_modules/playwright-core/index.mjs";

const program = process.env.TANZEN_PROGRAM;
const axe = readFileSync(new URL("../../web/node_modules/axe-core/axe.min.js", import.meta.url), "utf8");

export const folder = mkdtempSync(join(tmpdir(), "tanzen-pages-"));
process.on("exit", () => rmSync(folder, { recursive: true, force: true }));

// Runs the program; what it prints. A run that did not converge is none of a page's business.
export function tanzen(...words) {
  try {
    return execFileSync(program, words, { cwd: folder, encoding: "utf8" });
  } catch (error) {
    if (error.status === 1) return error.stdout;
    throw error;
  }
}

let browser;

export async function startBrowser() {
  browser = await chromium.launch({
    executablePath: process.env.TANZEN_BROWSER || "/usr/bin/chromium",
    args: ["--no-sandbox", "--enable-unsafe-swiftshader"],
  });
}

export async function stopBrowser() {
  await browser.close();
}

// A page of the folder, drawn whole, with all that went wrong on it and all that it asked for.
export async function open(name, { width = 1280, height = 800, ...more } = {}) {
  const page = await browser.newPage({ viewport: { width, height }, ...more });
  page.wrong = [];
  page.requests = [];
  page.on("console", (message) => message.type() === "error" && page.wrong.push(message.text()));
  page.on("pageerror", (error) => page.wrong.push(String(error)));
  page.on("request", (request) => {
    const url = request.url();
    if (!url.startsWith("data:") && !url.startsWith("blob:")) page.requests.push(url);
  });
  await page.goto(pathToFileURL(join(folder, name)).href);
  await drawn(page);
  return page;
}

// A page that several tests look at, opened by the first of them: what one changes it puts back.
const kept = new Map();

export async function keep(name) {
  if (!kept.has(name)) kept.set(name, await open(name));
  return kept.get(name);
}

// The last look at a page: on a phone held in the dark it is drawn anew, and nothing went wrong all the while.
export async function endsOnPhone(name) {
  const page = await keep(name);
  await page.emulateMedia({ colorScheme: "dark" });
  await page.setViewportSize({ width: 390, height: 844 });
  await page.waitForFunction(() => window.innerWidth === 390);
  await drawn(page);
  for (const count of await marks(page)) assert.ok(count > 0);
  assert.equal(await page.evaluate(() => document.documentElement.scrollWidth > document.documentElement.clientWidth), false);
  assert.deepEqual(await faults(page), []);
  assert.deepEqual(page.wrong, []);
  assert.equal(page.requests.length, 1); // the page itself
  await page.close();
}

// Until the page says that it is drawn whole. What it was told before, such as another size, it has heard by its next
// frame, and then no longer says so.
export async function drawn(page) {
  await page.evaluate(() => new Promise((go) => requestAnimationFrame(() => requestAnimationFrame(go))));
  await page.waitForFunction(() => document.documentElement.dataset.ready === "yes", null, { timeout: 60_000 });
}

// How many marks each panel of a page has: what is drawn of lines, points, words, images and surfaces.
export function marks(page) {
  return page.evaluate(() =>
    [...document.querySelectorAll(".plot")].map((plot) => {
      const count = (selector) => plot.querySelectorAll(selector).length;
      const surfaces = plot.querySelectorAll("canvas").length > 1 ? 1 : 0;
      return count(".scatterlayer path") + count(".scatterlayer text") + count(".imagelayer image, .layer-below image") + surfaces;
    }));
}

// Faults that keep somebody out, by the rules of the accessibility checker; one that takes a fifth of its time knows only
// lesser ones.
export async function faults(page) {
  await page.evaluate(axe);
  const { violations } = await page.evaluate(() => window.axe.run(document, { resultTypes: ["violations"], rules: { region: { enabled: false } } }));
  return violations.filter(({ impact }) => impact === "serious" || impact === "critical").map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html).slice(0, 2)}`);
}
