// node read_ktx.mjs MODULES CHROMIUM FILE...: what libktx uploads to WebGL, read back, as JSON on a line for each file
// Of files called *.float.ktx2 the layers are float pixels, fetched by a shader: not all such textures can be drawn into.
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";

const [modules, executablePath, ...files] = process.argv.slice(2);
const { chromium } = createRequire(path.join(modules, "x.js"))("playwright-core");
const libs = path.join(modules, "@khronosgroup/gltf-viewer/dist/libs");
const args = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"];
const browser = await chromium.launch({ executablePath, args });
const page = await browser.newPage();
await page.setContent("<canvas id=c></canvas>");
await page.addScriptTag({ content: fs.readFileSync(path.join(libs, "libktx.js"), "utf8") });
const wasm = fs.readFileSync(path.join(libs, "libktx.wasm")).toString("base64");
for (const file of files) {
  const content = fs.readFileSync(file);
  const data = content.toString("base64");
  const floatLayers = file.endsWith(".float.ktx2") ? content.readUInt32LE(32) : 0;
  const found = await page.evaluate(
    async ({ wasm, data, floatLayers }) => {
      const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
      const gl = document.createElement("canvas").getContext("webgl2");
      const ktx = await LIBKTX({ wasmBinary: bytes(wasm), preinitializedWebGLContext: gl });
      ktx.GL.makeContextCurrent(ktx.GL.createContext(gl.canvas, { majorVersion: 2.0 }));
      const texture = new ktx.ktxTexture(bytes(data));
      const { target, error, texture: name } = texture.glUpload();
      if (error) return { error };
      gl.bindTexture(target, name);
      const fetched = (level, layer, width, height) => {
        gl.getExtension("EXT_color_buffer_float");
        const program = gl.createProgram();
        const shader = (kind, text) => {
          const made = gl.createShader(kind);
          gl.shaderSource(made, text);
          gl.compileShader(made);
          gl.attachShader(program, made);
        };
        shader(gl.VERTEX_SHADER, `#version 300 es
          void main() { gl_Position = vec4(vec2(gl_VertexID == 1, gl_VertexID == 2) * 4.0 - 1.0, 0, 1); }`);
        shader(gl.FRAGMENT_SHADER, `#version 300 es
          precision highp float; precision highp sampler2DArray;
          uniform sampler2DArray layers; uniform ivec2 place; out vec4 found;
          void main() { found = texelFetch(layers, ivec3(ivec2(gl_FragCoord.xy), place.y), place.x); }`);
        gl.linkProgram(program);
        gl.useProgram(program);
        gl.uniform2i(gl.getUniformLocation(program, "place"), level, layer);
        gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, gl.NEAREST_MIPMAP_NEAREST);
        const drawn = gl.createRenderbuffer();
        gl.bindRenderbuffer(gl.RENDERBUFFER, drawn);
        gl.renderbufferStorage(gl.RENDERBUFFER, gl.RGBA32F, width, height);
        gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.RENDERBUFFER, drawn);
        gl.viewport(0, 0, width, height);
        gl.drawArrays(gl.TRIANGLES, 0, 3);
        const pixels = new Float32Array(4 * width * height);
        gl.readPixels(0, 0, width, height, gl.RGBA, gl.FLOAT, pixels);
        return new Uint8Array(pixels.buffer);
      };
      gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
      const levels = [];
      const layered = target === gl.TEXTURE_2D_ARRAY;
      for (let level = 0; ; level++) {
        const layers = [];
        const width = Math.max(1, texture.baseWidth >> level);
        const height = Math.max(1, texture.baseHeight >> level);
        for (let layer = 0; layer < floatLayers; layer++)
          layers.push(btoa(String.fromCharCode(...fetched(level, layer, width, height))));
        for (let layer = 0; !floatLayers && layer < (layered ? 4096 : 1); layer++) {
          if (layered) gl.framebufferTextureLayer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, name, level, layer);
          else gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, target, name, level);
          if (gl.getError() || gl.checkFramebufferStatus(gl.FRAMEBUFFER) !== gl.FRAMEBUFFER_COMPLETE) break;
          const pixels = new Uint8Array(4 * width * height);
          gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
          if (gl.getError()) break;
          layers.push(btoa(String.fromCharCode(...pixels)));
        }
        if (layers.length) levels.push(layers);
        if (!layers.length || (width === 1 && height === 1)) break;
      }
      return { width: texture.baseWidth, height: texture.baseHeight, layered, levels };
    },
    { wasm, data, floatLayers },
  );
  console.log(JSON.stringify({ file, ...found }));
}
await browser.close();
