// Draws frames by WebGL 2. Textures are uploaded as they are stored, straight alpha, and fetched texel by texel.
"use strict";

const VERTEX = `#version 300 es
in vec2 corner;
void main() { gl_Position = vec4(corner, 0.0, 1.0); }`;

const FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
precision highp sampler2D;
uniform sampler2D page, next, normals, glow;
uniform ivec4 rect, nextRect;
uniform ivec4 box, nextBox;       // offset, and the canvas
uniform ivec4 lies, nextLies;     // turned, mirrored across, mirrored down, parts of the page's sides
uniform vec2 origin;              // of the canvas, in pixels from the top left of the view
uniform float zoom, weight, level, opacity, viewHeight;
uniform int mode;                 // 0 the picture, 1 alpha, 2 with its glow, 3 lit by a lamp, 4 a page
uniform bool smoothly, tiled, hasNext;
uniform vec3 tint, lamp;
out vec4 result;

vec3 toLight(vec3 c) { return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), c)); }
vec3 toStored(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(c * 12.92, 1.055 * pow(max(c, vec3(0.0031308)), vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}
vec4 texelOf(sampler2D from, ivec4 r, ivec4 b, ivec4 l, ivec2 p, vec2 within) {
  ivec2 local = p - b.xy;
  ivec2 size = l.x == 1 ? r.wz : r.zw;
  if (any(lessThan(local, ivec2(0))) || any(greaterThanEqual(local, size))) return vec4(0.0);
  vec2 place = vec2(local) + within;
  if (l.y == 1) place.x = float(size.x) - place.x;
  if (l.z == 1) place.y = float(size.y) - place.y;
  if (l.x == 1) place = vec2(float(r.z) - place.y, place.x);
  vec2 texel = (vec2(r.xy) + place) / float(l.w);
  if (level > 0.0) return textureLod(from, texel / vec2(textureSize(from, 0)), level);
  return texelFetch(from, ivec2(floor(texel)), 0);
}
vec4 near(sampler2D from, ivec4 r, ivec4 b, ivec4 l, vec2 p) {
  ivec2 whole = ivec2(floor(p));
  if (tiled) whole = ((whole % b.zw) + b.zw) % b.zw;
  return texelOf(from, r, b, l, whole, level > 0.0 ? fract(p) : vec2(0.5));
}
vec4 taken(sampler2D from, ivec4 r, ivec4 b, ivec4 l, vec2 p) {
  if (!smoothly || level > 0.0) return near(from, r, b, l, p);
  vec2 q = p - 0.5, share = fract(q);
  vec4 total = vec4(0.0);
  for (int i = 0; i < 4; i++) {
    vec2 step = vec2(i & 1, i >> 1);
    vec4 c = near(from, r, b, l, floor(q) + step + 0.5);
    vec2 w = mix(1.0 - share, share, step);
    total += vec4(c.rgb * c.a, c.a) * w.x * w.y;
  }
  return total.a > 0.0 ? vec4(total.rgb / total.a, total.a) : vec4(0.0);
}
vec4 mixed(vec4 a, vec4 b, float w) {
  if (w <= 0.0) return a;
  float alpha = mix(a.a, b.a, w);
  vec3 light = mix(toLight(a.rgb) * a.a, toLight(b.rgb) * b.a, w);
  return vec4(alpha > 0.0 ? toStored(light / alpha) : vec3(0.0), alpha);
}
void main() {
  vec2 view = vec2(gl_FragCoord.x, viewHeight - gl_FragCoord.y);
  vec2 p = (view - origin) / zoom;
  ivec2 canvas = box.zw;
  if (tiled) {
    if (any(lessThan(p, vec2(0.0))) || any(greaterThanEqual(p, vec2(canvas * 3)))) discard;
  } else if (any(lessThan(p, vec2(0.0))) || any(greaterThanEqual(p, vec2(canvas)))) discard;
  vec4 c = taken(page, rect, box, lies, p);
  if (hasNext) c = mixed(c, taken(next, nextRect, nextBox, nextLies, p), weight);
  if (mode == 1) c = vec4(vec3(c.a), 1.0);
  if (mode == 2) {
    vec4 g = taken(glow, rect, box, lies, p);
    vec3 light = toLight(c.rgb) * c.a + toLight(g.rgb) * g.a;
    float alpha = max(c.a, g.a * max(max(g.r, g.g), g.b));
    c = vec4(alpha > 0.0 ? toStored(light / alpha) : vec3(0.0), alpha);
  }
  if (mode == 3) {
    vec3 n = normalize(taken(normals, rect, box, lies, p).rgb * 2.0 - 1.0);
    vec3 ray = normalize(vec3(lamp.xy - p, lamp.z));
    float lit = 0.15 + 0.95 * max(0.0, dot(n, vec3(ray.x, -ray.y, ray.z)));
    c.rgb = toStored(toLight(c.rgb) * lit);
  }
  result = vec4(mix(c.rgb, tint, tint == vec3(0.0) ? 0.0 : 0.6), c.a * opacity);
}`;

class Drawing {
  constructor(canvas, data, bytesOf) {
    const settings = { alpha: true, premultipliedAlpha: false, preserveDrawingBuffer: true, antialias: false };
    const gl = canvas.getContext("webgl2", settings);
    if (!gl) throw new Error("This page draws by WebGL 2, which this browser does not offer; another one will.");
    Object.assign(this, { canvas, data, bytesOf, gl, textures: new Map(), wanted: new Set(), most: 48 });
    this.program = gl.createProgram();
    for (const [kind, source] of [[gl.VERTEX_SHADER, VERTEX], [gl.FRAGMENT_SHADER, FRAGMENT]]) {
      const shader = gl.createShader(kind);
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader));
      gl.attachShader(this.program, shader);
    }
    gl.linkProgram(this.program);
    gl.useProgram(this.program);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
    const corner = gl.getAttribLocation(this.program, "corner");
    gl.enableVertexAttribArray(corner);
    gl.vertexAttribPointer(corner, 2, gl.FLOAT, false, 0, 0);
    this.places = new Map();
  }

  place(name) {
    if (!this.places.has(name)) this.places.set(name, this.gl.getUniformLocation(this.program, name));
    return this.places.get(name);
  }

  // The texture of an image, loaded when it is first asked for; null until it is there.
  texture(image) {
    const known = this.textures.get(image);
    if (known !== undefined) {
      this.textures.delete(image);
      this.textures.set(image, known);
      return known;
    }
    if (!this.wanted.has(image)) {
      this.wanted.add(image);
      this.load(image).then(() => this.loaded?.());
    }
    return null;
  }

  async load(image) {
    if (this.textures.has(image)) return;
    const { gl } = this;
    const blob = new Blob([this.bytesOf(image)], { type: "image/png" });
    const bitmap = await createImageBitmap(blob, { premultiplyAlpha: "none", colorSpaceConversion: "none" });
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, bitmap);
    gl.generateMipmap(gl.TEXTURE_2D);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
    this.textures.set(image, texture);
    this.wanted.delete(image);
    for (const [old, one] of this.textures) {
      if (this.textures.size <= this.most) break;
      gl.deleteTexture(one);
      this.textures.delete(old);
    }
  }

  // Everything of a view at once. A layer is {frame, next, weight, x, y, zoom, opacity, tint}.
  draw(view, layers) {
    const { gl, canvas } = this;
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    const blends = layers.length > 1;
    if (blends) gl.enable(gl.BLEND);
    else gl.disable(gl.BLEND);
    gl.blendFuncSeparate(gl.SRC_ALPHA, gl.ONE_MINUS_SRC_ALPHA, gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    let complete = true;
    for (const layer of layers) complete = this.layer(view, layer) && complete;
    gl.disable(gl.SCISSOR_TEST);
    if (this.fence) gl.deleteSync(this.fence);
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    return complete;
  }

  busy() {
    const { gl } = this;
    return Boolean(this.fence) && gl.getSyncParameter(this.fence, gl.SYNC_STATUS) !== gl.SIGNALED;
  }

  layer(view, { frame, next = null, weight = 0, x, y, zoom, opacity = 1, tint = [0, 0, 0] }) {
    const { gl } = this;
    const images = { page: this.imageOf(frame, view.map) };
    if (next !== null) images.next = this.imageOf(next, view.map);
    if (view.mode === 2) images.glow = this.imageOf(frame, view.glow);
    if (view.mode === 3) images.normals = this.imageOf(frame, view.normals);
    const bound = Object.entries(images).map(([name, image]) => [name, image === null ? null : this.texture(image)]);
    if (bound.some(([, texture]) => texture === null)) return false;
    ["page", "next", "normals", "glow"].forEach((name, unit) => {
      const texture = (bound.find(([one]) => one === name) ?? bound[0])[1];
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.uniform1i(this.place(name), unit);
    });
    this.frame("", frame, view.map);
    if (next !== null) this.frame("next", next, view.map);
    gl.uniform1i(this.place("hasNext"), next !== null);
    for (const [name, value] of Object.entries({ zoom, weight, opacity, level: view.level, viewHeight: this.canvas.height }))
      gl.uniform1f(this.place(name), value);
    gl.uniform2f(this.place("origin"), x, y);
    gl.uniform1i(this.place("mode"), view.mode);
    gl.uniform1i(this.place("smoothly"), view.smooth);
    gl.uniform1i(this.place("tiled"), view.tiled);
    gl.uniform3f(this.place("tint"), ...tint);
    gl.uniform3f(this.place("lamp"), ...view.lamp);
    const many = view.tiled ? 3 : 1;
    const [wide, high] = this.data.frames[frame].canvas.map((side) => Math.ceil(side * many * zoom));
    gl.enable(gl.SCISSOR_TEST);
    gl.scissor(Math.floor(x), Math.floor(this.canvas.height - y - high), wide + 1, high + 1);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    return true;
  }

  imageOf(frame, map) {
    return this.data.pages[this.data.frames[frame].page].maps[map]?.image ?? null;
  }

  frame(name, number, map) {
    const { gl } = this;
    const frame = this.data.frames[number];
    const parts = this.data.pages[frame.page].maps[map].parts;
    const key = (word) => (name ? name + word[0].toUpperCase() + word.slice(1) : word);
    gl.uniform4i(this.place(key("rect")), ...frame.rect);
    gl.uniform4i(this.place(key("box")), ...frame.offset, ...frame.canvas);
    gl.uniform4i(this.place(key("lies")), frame.turn ? 1 : 0, frame.flip.includes("x") ? 1 : 0, frame.flip.includes("y") ? 1 : 0, parts);
  }
}
