// How long a page takes to open, against an empty one with the same library: the design allows a report four times.
//   node bench/pages.mjs PAGE.html...
// Needs scripts/fetch_packages.sh and chromium (TANZEN_BROWSER names another).
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { pathToFileURL } from "node:url";
import { chromium } from "../web/node_modules/playwright-core/index.mjs";

const pages = process.argv.slice(2);
if (!pages.length) throw new Error("name the pages: node bench/pages.mjs PAGE.html...");
const browser = await chromium.launch({ executablePath: process.env.TANZEN_BROWSER || "/usr/bin/chromium", args: ["--no-sandbox", "--enable-unsafe-swiftshader"] });

// The least of three, in seconds.
async function opened(file) {
  const times = [];
  for (let k = 0; k < 3; ++k) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const began = performance.now();
    await page.goto(pathToFileURL(resolve(file)).href);
    await page.waitForFunction(() => document.documentElement.dataset.ready === "yes", null, { timeout: 60_000 });
    times.push(performance.now() - began);
    await page.close();
  }
  return Math.min(...times) / 1000;
}

const folder = mkdtempSync(join(tmpdir(), "tanzen-pages-"));
try {
  for (const page of pages) {
    // The same library, and nothing to draw.
    const empty = join(folder, "empty.html");
    writeFileSync(empty, readFileSync(page, "utf8").replace(/<section[^>]* data-figure=[^>]*><\/section>/g, ""));
    const least = await opened(empty), whole = await opened(page);
    console.log(`${page}: ${whole.toFixed(2)} s, without its figures ${least.toFixed(2)} s: ${(whole / least).toFixed(1)} times`);
  }
} finally {
  rmSync(folder, { recursive: true });
  await browser.close();
}
