// node validate_gltf.mjs MODULES FILE...: the report of Khronos' validator, as JSON on a line for each file
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";

const [modules, ...files] = process.argv.slice(2);
const validator = createRequire(path.join(modules, "x.js"))("gltf-validator");
for (const file of files) {
  const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(file)));
  console.log(JSON.stringify(report.issues));
}
