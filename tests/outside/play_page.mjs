// node play_page.mjs MODULES CHROMIUM JOBS: for each {file, times} of a JSON file, what the box shows at each time in
// milliseconds, and a picture of it at each of `pictures`, as JSON on a line for each job
import fs from "node:fs";
import path from "node:path";
import { pathToFileURL } from "node:url";
import { createRequire } from "node:module";

const [modules, executablePath, jobs] = process.argv.slice(2);
const { chromium } = createRequire(path.join(modules, "x.js"))("playwright-core");
const browser = await chromium.launch({ executablePath, args: ["--no-sandbox"] });
const page = await browser.newPage({ viewport: { width: 400, height: 300 } });
for (const { file, times, pictures } of JSON.parse(fs.readFileSync(jobs, "utf8"))) {
  await page.goto(pathToFileURL(file).href);
  const shown = await page.evaluate((times) => {
    const box = document.querySelector("div");
    const [animation] = document.getAnimations();
    animation.pause();
    return times.map((time) => {
      animation.currentTime = time;
      const style = getComputedStyle(box);
      return style.visibility === "hidden" ? null : style.backgroundPosition;
    });
  }, times);
  const shots = [];
  for (const time of pictures ?? []) {
    await page.evaluate((time) => (document.getAnimations()[0].currentTime = time), time);
    const box = await page.locator("div").boundingBox();
    shots.push((await page.screenshot({ clip: box, omitBackground: true })).toString("base64"));
  }
  console.log(JSON.stringify({ shown, shots }));
}
await browser.close();
