// A picture of a page as a browser shows it: node scripts/page_shot.mjs PAGE PICTURE [SECTION], scrolled to the section.
import { resolve } from "node:path";
import { pathToFileURL } from "node:url";
import { chromium } from "../web/node_modules/playwright-core/index.mjs";

const [page, picture, section] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: process.env.TANZEN_BROWSER || "/usr/bin/chromium", args: ["--no-sandbox", "--enable-unsafe-swiftshader"],
});
const tab = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await tab.goto(pathToFileURL(resolve(page)).href);
await tab.waitForFunction(() => document.documentElement.dataset.ready === "yes", null, { timeout: 60_000 });
if (section) await tab.evaluate((title) => [...document.querySelectorAll("main h2")].find((heading) => heading.textContent === title).parentElement.scrollIntoView(), section);
await tab.waitForTimeout(300);
await tab.screenshot({ path: picture });
await browser.close();
