// How long a page takes to open, against the same without its figures: a report may take four times.
//   node bench/pages.mjs PAGE.html...
// Needs scripts/fetch_packages.sh and chromium (TANZEN_BROWSER names another).
import { copyFileSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { folder, open, startBrowser, stopBrowser } from "../tests/pages/browser.mjs";

// The least of three, in seconds.
async function opened(name) {
  const times = [];
  for (let k = 0; k < 3; ++k) {
    const began = performance.now();
    await (await open(name)).close();
    times.push(performance.now() - began);
  }
  return Math.min(...times) / 1000;
}

await startBrowser();
for (const page of process.argv.slice(2)) {
  copyFileSync(page, join(folder, "whole.html"));
  writeFileSync(join(folder, "empty.html"), readFileSync(page, "utf8").replace(/<section[^>]* data-figure=[^>]*><\/section>/g, ""));
  const least = await opened("empty.html"), whole = await opened("whole.html");
  console.log(`${page}: ${whole.toFixed(2)} s, without its figures ${least.toFixed(2)} s: ${(whole / least).toFixed(1)} times`);
}
await stopBrowser();
