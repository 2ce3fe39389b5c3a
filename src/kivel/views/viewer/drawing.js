// Draws frames by WebGL 2. Textures are uploaded as they are stored, straight alpha, and fetched texel by texel.
"use strict";

const VERTEX = `#version 300 es
in vec2 corner;
void main() { gl_Position = vec4(corner, 0.0, 1.0); }`;

const FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
precision highp sampler2D;
uniform sampler2D page, next, normals, glow, under, motion;
uniform ivec4 rect, nextRect;
uniform ivec4 box, nextBox;       // offset, and the canvas
uniform ivec4 lies, nextLies;     // turned, mirrored across, mirrored down, parts of the page's sides
uniform ivec4 motionRect, motionBox, motionLies;
uniform vec2 reach;               // of the motion map, in pixels of the canvas
uniform int way;                  // 0 fades, 1 is warped along the motion of this frame, -1 against that of the next
uniform bool wraps;
uniform vec2 origin;              // of the canvas, in pixels from the top left of the view
uniform float zoom, weight, level, opacity, viewHeight;
uniform int mode;                 // 0 the picture, 1 alpha, 2 with its glow, 3 lit by a lamp, 4 what is under it alone
uniform ivec2 tiles;              // how often a canvas is repeated across and down
uniform bool smoothly, hasNext, hasUnder, premultiplied, dashed, fadesStored;
uniform vec3 tint, lamp;
out vec4 result;

vec3 toLight(vec3 c) { return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), c)); }
vec3 toStored(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(c * 12.92, 1.055 * pow(max(c, vec3(0.0031308)), vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}
vec3 toMix(vec3 c) { return fadesStored ? c : toLight(c); }
vec3 ofMix(vec3 c) { return fadesStored ? c : toStored(c); }
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
  if (tiles != ivec2(1)) whole = ((whole % b.zw) + b.zw) % b.zw;
  return texelOf(from, r, b, l, whole, level > 0.0 ? fract(p) : vec2(0.5));
}
ivec2 kept(ivec2 p, ivec2 size) { return wraps ? ((p % size) + size) % size : clamp(p, ivec2(0), size - 1); }
vec4 four(sampler2D from, ivec4 r, ivec4 b, ivec4 l, vec2 p, bool warps) {  // premultiplied; to warp, as light
  vec2 q = p - 0.5, share = fract(q);
  vec4 total = vec4(0.0);
  for (int i = 0; i < 4; i++) {
    vec2 step = vec2(i & 1, i >> 1), w = mix(1.0 - share, share, step), at = floor(q) + step;
    vec4 c = warps ? texelOf(from, r, b, l, kept(ivec2(at), b.zw), vec2(0.5)) : near(from, r, b, l, at + 0.5);
    total += vec4((warps ? toMix(c.rgb) : c.rgb) * c.a, c.a) * w.x * w.y;
  }
  return total;
}
vec4 taken(sampler2D from, ivec4 r, ivec4 b, ivec4 l, vec2 p) {
  if (!smoothly || level > 0.0) return near(from, r, b, l, p);
  vec4 c = four(from, r, b, l, p, false);
  return c.a > 0.0 ? vec4(c.rgb / c.a, c.a) : vec4(0.0);
}
vec4 mixed(vec4 a, vec4 b, float w) {
  if (w <= 0.0) return a;
  float alpha = mix(a.a, b.a, w);
  vec3 light = mix(toMix(a.rgb) * a.a, toMix(b.rgb) * b.a, w);
  return vec4(alpha > 0.0 ? ofMix(light / alpha) : vec3(0.0), alpha);
}
vec2 moves(vec2 p) {                // bilinear over the texels of the motion map, in full precision
  int parts = motionLies.w;
  ivec2 size = motionLies.x == 1 ? motionRect.wz : motionRect.zw;
  ivec2 from = motionBox.xy / parts, to = (motionBox.xy + size) / parts - 1;
  vec2 q = p / float(parts) - 0.5, share = fract(q), total = vec2(0.0);
  for (int i = 0; i < 4; i++) {
    vec2 step = vec2(i & 1, i >> 1);
    ivec2 at = clamp(kept(ivec2(floor(q) + step), motionBox.zw / parts), from, to);
    vec2 codes = texelOf(motion, motionRect, motionBox, motionLies, at * parts, vec2(float(parts) * 0.5)).rg;
    vec2 w = mix(1.0 - share, share, step);
    total += codes * w.x * w.y;
  }
  return (total * 255.0 - 128.0) / 127.0 * reach;
}
vec4 warped(vec2 p) {
  vec2 at = smoothly ? p : floor(p) + 0.5;
  at -= floor(at / vec2(box.zw)) * vec2(box.zw);
  vec2 v = moves(at) * float(way);
  vec4 c = mix(four(page, rect, box, lies, at - weight * v, true),
               four(next, nextRect, nextBox, nextLies, at + (1.0 - weight) * v, true), weight);
  return vec4(c.a > 0.0 ? ofMix(c.rgb / c.a) : vec3(0.0), c.a);
}
vec4 over(vec4 a, vec4 b) {         // straight over premultiplied, straight again
  float alpha = a.a + b.a * (1.0 - a.a);
  return vec4(alpha > 0.0 ? (a.rgb * a.a + b.rgb * (1.0 - a.a)) / alpha : vec3(0.0), alpha);
}
void main() {
  if (mode == 4) { result = over(vec4(0.0), texelFetch(under, ivec2(gl_FragCoord.xy), 0)); return; }
  vec2 view = vec2(gl_FragCoord.x, viewHeight - gl_FragCoord.y);
  vec2 p = (view - origin) / zoom;
  ivec2 canvas = box.zw;
  if (any(lessThan(p, vec2(0.0))) || any(greaterThanEqual(p, vec2(canvas * tiles)))) discard;
  vec4 c = taken(page, rect, box, lies, p);
  if (hasNext && way != 0) c = warped(p);
  else if (hasNext) c = mixed(c, taken(next, nextRect, nextBox, nextLies, p), weight);
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
  float share = dashed && mod(view.x + view.y, 8.0) < 3.0 ? 0.3 : 1.0;
  result = vec4(mix(c.rgb, tint, tint == vec3(0.0) ? 0.0 : 0.75), c.a * opacity * share);
  if (premultiplied) result.rgb *= result.a;
  if (hasUnder) result = over(result, texelFetch(under, ivec2(gl_FragCoord.xy), 0));
}`;

// What is held at once: 256 MiB, and a third more with mip levels.
const MOST_TEXELS = 1 << 26;

const UNITS = ["page", "next", "normals", "glow", "under", "motion"];

class Drawing {
  constructor(canvas, data, bytesOf) {
    const settings = { alpha: true, premultipliedAlpha: false, preserveDrawingBuffer: true, antialias: false };
    const gl = canvas.getContext("webgl2", settings);
    if (!gl) throw new Error("This page draws by WebGL 2, which this browser does not offer; another one will.");
    Object.assign(this, { canvas, data, bytesOf, gl, textures: new Map(), wanted: new Set(), held: 0 });
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

  set(kind, name, ...values) {
    if (!this.places.has(name)) this.places.set(name, this.gl.getUniformLocation(this.program, name));
    this.gl[`uniform${kind}`](this.places.get(name), ...values);
  }

  // Whether the texture of an image is there; it is loaded when it is first asked for.
  has(image) {
    const known = this.textures.get(image);
    if (known !== undefined) {
      this.textures.delete(image);
      this.textures.set(image, known);
      return true;
    }
    if (!this.wanted.has(image)) {
      this.wanted.add(image);
      this.load(image).then(() => this.loaded?.());
    }
    return false;
  }

  async load(image) {
    if (this.textures.has(image)) return;
    const { gl } = this;
    const blob = new Blob([await this.bytesOf(image)], { type: "image/png" });
    const bitmap = await createImageBitmap(blob, { premultiplyAlpha: "none", colorSpaceConversion: "none" });
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, bitmap);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
    const texels = bitmap.width * bitmap.height;
    bitmap.close();
    this.textures.set(image, { texture, texels, hasLevels: false });
    this.wanted.delete(image);
    this.held += texels;
    for (const [old, one] of this.textures) {
      if (this.held <= MOST_TEXELS || old === image) break;
      gl.deleteTexture(one.texture);
      this.textures.delete(old);
      this.held -= one.texels;
    }
  }

  // Everything of a view at once; false, and the last picture stays, while something of it is not loaded. A layer is
  // {frame, next, weight, warps, x, y, zoom, part, opacity, tint, dashed}; `ghosts` lie under the layers, which do not overlap.
  draw(view, layers, ghosts = []) {
    const { gl, canvas } = this;
    const images = [...layers, ...ghosts].flatMap((layer) => Object.values(this.imagesOf(view, layer)));
    if (images.map((image) => this.has(image)).includes(false)) return false;
    gl.viewport(0, 0, canvas.width, canvas.height);
    if (ghosts.length) this.under(view, ghosts);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    if (ghosts.length) {
      this.set("1i", "mode", 4);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
    }
    for (const layer of layers) this.layer(view, layer, { hasUnder: ghosts.length > 0 });
    if (this.fence) gl.deleteSync(this.fence);
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    return true;
  }

  // Ghosts, blended premultiplied, as the texture that lies under the layers.
  under(view, ghosts) {
    const { gl, canvas } = this;
    gl.deleteTexture(this.below ?? null);
    gl.activeTexture(gl.TEXTURE0 + UNITS.indexOf("under"));
    gl.bindTexture(gl.TEXTURE_2D, null);
    this.below = gl.createTexture();
    this.frames ??= gl.createFramebuffer();
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.below);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, canvas.width, canvas.height, 0, gl.RGBA, gl.UNSIGNED_BYTE, null);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.frames);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, this.below, 0);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    for (const ghost of ghosts) this.layer(view, ghost, { premultiplied: true });
    gl.disable(gl.BLEND);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.activeTexture(gl.TEXTURE0 + UNITS.indexOf("under"));
    gl.bindTexture(gl.TEXTURE_2D, this.below);
  }

  busy() {
    const { gl } = this;
    return Boolean(this.fence) && gl.getSyncParameter(this.fence, gl.SYNC_STATUS) !== gl.SIGNALED;
  }

  layer(view, layer, { hasUnder = false, premultiplied = false } = {}) {
    const { gl } = this;
    const { frame, next = null, weight = 0, x, y, zoom, part = null, opacity = 1, tint = [0, 0, 0], dashed = false } = layer;
    const images = this.imagesOf(view, layer);
    UNITS.forEach((name, unit) => {
      this.set("1i", name, unit);
      if (name === "under") return;
      gl.activeTexture(gl.TEXTURE0 + unit);
      this.bind(this.textures.get(images[name] ?? images.page), view.level);
    });
    this.frame("", frame, view.map);
    if (next !== null) this.frame("next", next, view.map);
    const leads = this.leads(layer);
    if (leads) {
      this.frame("motion", leads.from, leads.map);
      this.set("2f", "reach", ...leads.reach);
      this.set("1i", "wraps", leads.wraps ? 1 : 0);
    }
    this.set("1i", "way", leads ? leads.way : 0);
    const lacks = (view.mode === 2 && images.glow === undefined) || (view.mode === 3 && images.normals === undefined);
    const flags = { hasNext: next !== null, hasUnder, premultiplied, dashed, smoothly: view.smooth, fadesStored: view.fadesStored ? 1 : 0, mode: lacks ? 0 : view.mode };
    for (const [name, value] of Object.entries(flags)) this.set("1i", name, value);
    for (const [name, value] of Object.entries({ zoom, weight, opacity, level: view.level, viewHeight: this.canvas.height }))
      this.set("1f", name, value);
    this.set("2f", "origin", x, y);
    this.set("2i", "tiles", ...view.tiles);
    this.set("3f", "tint", ...tint);
    this.set("3f", "lamp", ...view.lamp);
    const [wide, high] = this.data.frames[frame].canvas.map((side, axis) => ceil(side * view.tiles[axis] * zoom));
    const left = max(Math.floor(x), part ? part[0] : 0);
    const right = min(Math.floor(x) + wide + 1, part ? part[1] : this.canvas.width);
    gl.enable(gl.SCISSOR_TEST);
    gl.scissor(left, Math.floor(this.canvas.height - y - high), max(0, right - left), high + 1);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.disable(gl.SCISSOR_TEST);
  }

  bind(held, level) {
    const { gl } = this;
    gl.bindTexture(gl.TEXTURE_2D, held.texture);
    if (!level || held.hasLevels) return;
    gl.generateMipmap(gl.TEXTURE_2D);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    held.hasLevels = true;
  }

  // The images that a layer needs, by what they are for; a page that lacks the map shows its colour.
  imagesOf(view, { frame, next = null, warps = false }) {
    const found = { page: this.imageOf(frame, view.map), glow: undefined, normals: undefined };
    if (next !== null) found.next = this.imageOf(next, view.map);
    const leads = this.leads({ frame, next, warps });
    if (leads) found.motion = this.mapOf(leads.from, leads.map).image;
    if (view.mode === 2) found.glow = this.mapOf(frame, view.glow)?.image;
    if (view.mode === 3) found.normals = this.mapOf(frame, view.normals)?.image;
    return Object.fromEntries(Object.entries(found).filter(([, image]) => image !== undefined));
  }

  // The motion by which a frame is warped into the next: that of either, if its vectors lead to the other.
  leads({ frame, next = null, warps = false }) {
    if (next === null || !warps) return null;
    const { frames } = this.data;
    const way = frames[frame].leads === next ? 1 : frames[next].leads === frame ? -1 : 0;
    const from = way === 1 ? frame : next;
    return way ? { way, from, ...this.data.sources[frames[from].source].motion } : null;
  }

  mapOf(frame, map) {
    return this.data.pages[this.data.frames[frame].page].maps[map];
  }

  imageOf(frame, map) {
    return (this.mapOf(frame, map) ?? this.mapOf(frame, "color")).image;
  }

  frame(name, number, map) {
    const { gl } = this;
    const frame = this.data.frames[number];
    const { parts } = this.mapOf(number, map) ?? this.mapOf(number, "color");
    const key = (word) => (name ? name + word[0].toUpperCase() + word.slice(1) : word);
    this.set("4i", key("rect"), ...frame.rect);
    this.set("4i", key("box"), ...frame.offset, ...frame.canvas);
    this.set("4i", key("lies"), frame.turn ? 1 : 0, frame.flip.includes("x") ? 1 : 0, frame.flip.includes("y") ? 1 : 0, parts);
  }
}
