// node read_viewer.mjs MODULES CHROMIUM JOBS: what the viewer page shows. A job is {file, looks: [[clip, time], ...],
// pixels: how many of them, from the first, are read back, acts: keys to press ({press}) and scripts to run in the page
// ({run}), whose results are `said`}; a line of JSON for each, with what went wrong in the page
import fs from "node:fs";
import path from "node:path";
import { pathToFileURL } from "node:url";
import { createRequire } from "node:module";

const [modules, executablePath, jobs] = process.argv.slice(2);
const { chromium } = createRequire(path.join(modules, "x.js"))("playwright-core");
const args = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"];
const browser = await chromium.launch({ executablePath, args });
for (const { file, looks = [], pixels = 0, acts = [] } of JSON.parse(fs.readFileSync(jobs, "utf8"))) {
  const page = await browser.newPage({ viewport: { width: 700, height: 600 } });
  const wrong = [];
  page.on("pageerror", (error) => wrong.push(error.message));
  page.on("console", (message) => message.type() === "error" && wrong.push(message.text()));
  page.on("dialog", (dialog) => wrong.push(`a dialog: ${dialog.message()}`) && dialog.dismiss());
  page.on("request", (request) => /^https?:/.test(request.url()) && wrong.push(`a request: ${request.url()}`));
  const started = Date.now();
  await page.goto(pathToFileURL(file).href + "#t=0&zoom=1");
  await page.waitForFunction(() => document.getElementById("stage").dataset.complete === "1");
  const opened = Date.now() - started;
  await page.evaluate(() => {
    // the pixels of a pane at zoom 1, the lowest row first, as base64
    window.readPane = ({ x, y, canvas: [width, height] }) => {
      const bytes = new Uint8Array(4 * width * height);
      const { gl, canvas } = drawing;
      gl.readPixels(x, canvas.height - y - height, width, height, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
      return btoa(String.fromCharCode(...bytes));
    };
  });
  const shown = [];
  for (const [index, [clip, time]] of looks.entries())
    shown.push(
      await page.evaluate(
        async ([clip, time, reads]) => {
          if (state.clip !== clip) choose(clip);
          clock.time = parse(time);
          const { moment, player } = chain.at(clock.time);
          const found = { clip: player.clip.name, frame: moment.frame, following: moment.following, weight: decimal(moment.weight) };
          if (!reads || moment.frame === null) return found;
          for (const frame of [moment.frame, moment.following])
            for (const map of ["color", "motion"]) await drawing.load(drawing.imageOf(frame, map));
          draw();
          return { ...found, pixels: readPane(stage()) };
        },
        [clip, time, index < pixels],
      ),
    );
  const said = [];
  for (const { press, run } of acts) {
    if (press) await page.keyboard.press(press);
    else said.push(await page.evaluate(`(async () => { ${run} })()`));
  }
  const texts = await page.evaluate(() => ({
    names: [...document.getElementById("clip").options].map((one) => one.textContent),
    scripts: document.scripts.length,
    time: document.getElementById("time").textContent,
  }));
  console.log(JSON.stringify({ shown, said, wrong, opened, ...texts }));
  await page.close();
}
await browser.close();
