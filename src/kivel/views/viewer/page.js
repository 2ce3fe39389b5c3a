// The page: what is chosen, how it is looked at, and what the keys do.
"use strict";

const data = JSON.parse(document.getElementById("data").textContent);
const { frames, sources, clips: made } = data;
const $ = (id) => document.getElementById(id);
// The bytes of an image; it may lie further behind in the file than has been read.
async function bytesOf(image) {
  while (!$(`image-${image}`)?.nextSibling && document.readyState === "loading") await new Promise((done) => setTimeout(done, 20));
  const text = atob($(`image-${image}`).textContent);
  const bytes = new Uint8Array(text.length);
  for (let place = 0; place < text.length; place++) bytes[place] = text.charCodeAt(place);
  return bytes;
}
for (const clip of made) clip.first = sources[clip.source].first;
const clips = new Map(made.map((clip) => [clip.key, clip]));
const byName = sources.map((_, source) => new Map(made.filter((clip) => clip.source === source).map((clip) => [clip.name, clip])));
const maps = [...new Set(data.pages.flatMap((page) => Object.keys(page.maps)))];
const glow = maps.find((name) => name.startsWith("emission"));
const normals = maps.find((name) => name.startsWith("normal"));
// whole pages are frames behind all others
data.whole = frames.length;
data.pages.forEach((page, number) => frames.push(
  { name: `page ${number}`, page: number, rect: [0, 0, ...page.size], turn: 0, flip: "", canvas: page.size, offset: [0, 0], pivot: [0.5, 0.5] }));

const SPEEDS = ["1/16", "1/8", "1/4", "1/3", "1/2", "1", "2", "4", "8"];
const BACKDROPS = { checker: "", dark: "#14161a", light: "#f4f2ec", magenta: "#ff00ff" };
const TILES = ["1x1", "2x2", "3x3"];
const COUNTS = [0, 2, 4, 6, 9, 12, 16, 25, 36];
const state = {
  clip: made[0]?.key ?? "", speed: "1", zoom: 0, x: 0, y: 0, show: "color", backdrop: "checker", smooth: false, fadesStored: false, tile: "1x1",
  page: false, before: 0, after: 0, pivot: false, trim: false, outline: false, level: 0, tab: "play", theme: "", beside: "", wipe: false,
  at: 50, many: 0, of: "", seed: 0, phases: false, hand: false, leave: "", blend: true, ...data.view,
};
const initial = { ...state };
const FLAGS = Object.keys(state).filter((key) => typeof state[key] === "boolean");
const CHOICES = ["clip", "speed", "show", "level", "tile", "before", "after", "beside", "many", "of", "seed"];
const clock = new Clock();
const lamp = { x: 0.3, y: 0.2 };
const BEFORE = fraction(-1n);
const TABS = ["play", "frames", "timing"];
let chain, beside, drawing, picture = null, instances = [], told = BEFORE, asked = false;

const parse = (text) => { const [n, d = "1"] = text.split("/"); return fraction(BigInt(n), BigInt(d)); };
const written = (f) => (f.d === 1n ? `${f.n}` : `${f.n}/${f.d}`);
const seconds = (f) => decimal(f).toFixed(3);
const beat = () => performance.now();
const now = () => clock.at(beat());
const within = (value, low, high) => min(high, max(low, value));
const shows = ["color", "alpha", ...maps.filter((name) => name !== "color"), ...(glow ? ["with glow"] : []), ...(normals ? ["lit"] : [])];

function timeIn(text) {
  try { return text ? latest(ZERO, parse(text)) : null; } catch { return null; }
}
function fromAddress() {
  const given = new URLSearchParams(location.hash.slice(1));
  for (const key of Object.keys(state)) {
    const text = given.get(key);
    if (text === null) continue;
    const kind = typeof state[key];
    state[key] = kind === "boolean" ? text === "1" : kind === "number" ? Number(text) || 0 : text;
  }
  const known = { clip: [...clips.keys()], beside: ["", ...clips.keys()], speed: SPEEDS, show: shows, tab: TABS, many: COUNTS };
  for (const [key, values] of Object.entries(known)) if (!values.includes(state[key])) state[key] = initial[key];
  if (!(state.backdrop in BACKDROPS || /^#[0-9a-f]{6}$/i.test(state.backdrop))) state.backdrop = initial.backdrop;
  if (!/^\d\d?x\d\d?$/.test(state.tile) || /(^|x)0/.test(state.tile)) state.tile = initial.tile;
  if (timeIn(state.leave) === null) state.leave = "";
  for (const [key, low, high] of [["zoom", 0, 64], ["level", 0, 5], ["before", 0, 3], ["after", 0, 3], ["at", 0, 100], ["seed", 0, 2 ** 53]])
    state[key] = within(state[key], low, high);
  clock.time = timeIn(given.get("t")) ?? ZERO;
}
function toAddress() {
  const kept = new URLSearchParams();
  for (const [key, value] of Object.entries(state))
    if (value !== initial[key]) kept.set(key, typeof value === "boolean" ? Number(value) : value);
  if (!clock.runs && clock.time.n) kept.set("t", written(clock.time));
  history.replaceState(null, "", `#${kept}`);
}

// Everything that plays, as it is chosen; the time stays.
function build() {
  const clip = clips.get(state.clip);
  const leaveAt = timeIn(state.leave);
  chain = new Chain(clip, byName[clip.source], leaveAt);
  const other = clips.get(state.beside);
  beside = other ? new Chain(other, byName[other.source], leaveAt) : null;
  const names = byName[clip.source];
  const group = sources[clip.source].groups.find(({ name }) => state.of === `group ${name}`);
  const members = group ? group.members.map((name) => names.get(name)).filter(Boolean) : state.of === "every clip" ? [...names.values()] : [clip];
  if (!group && state.of !== "every clip") state.of = "";
  const how = { count: state.many, seed: state.seed, group: group?.choose === "random" ? group : null, randomPhase: state.phases, leaveAt };
  instances = state.many ? instancesOf(members, names, how) : [];
  fill($("of"), ["", "every clip", ...sources[clip.source].groups.map(({ name }) => `group ${name}`)], ["this clip"]);
  $("leave").hidden = !chain.canBeLeft;
}
function choose(key) {
  state.clip = key;
  state.leave = "";
  build();
  act.begin();
}
function refresh() {
  for (const key of CHOICES) $(key).value = state[key];
  for (const key of FLAGS) $(key)?.setAttribute("aria-pressed", state[key]);
  for (const tab of document.querySelectorAll("[role=tab]")) tab.setAttribute("aria-selected", tab.dataset.tab === state.tab);
  for (const panel of document.querySelectorAll("[data-panel]")) panel.hidden = panel.dataset.panel !== state.tab;
  const still = $(`still-${state.tab}`);
  if (still && !still.src) bytesOf(state.tab).then((bytes) => { still.src = URL.createObjectURL(new Blob([bytes], { type: "image/png" })); });
  $("play").setAttribute("aria-label", clock.runs ? "Pause" : state.hand ? "A step further" : "Play");
  $("play").dataset.runs = clock.runs;
  $("backdrop").value = state.backdrop in BACKDROPS ? state.backdrop : "colour";
  if (picture) $("backdrop").value = "image";
  $("stage").dataset.backdrop = picture ? "image" : state.backdrop;
  $("stage").style.background = picture ? `url(${picture.url}) no-repeat #14161a` : BACKDROPS[state.backdrop] ?? state.backdrop;
  document.documentElement.dataset.theme = state.theme;
  $("zoom").textContent = state.zoom ? `${state.zoom < 1 ? "1/" + round(1 / state.zoom) : state.zoom}x` : "fit";
  toAddress();
  ask();
}

// What can be done; the page shows its outcome each time.
const act = {
  play() {
    if (state.hand) act.forward();
    else clock[clock.runs ? "stop" : "run"](beat());
  },
  forward() { clock.stop(beat()); clock.time = chain.next(clock.time) ?? clock.time; },
  back() { clock.stop(beat()); clock.time = chain.before(clock.time); },
  begin() {
    clock.set(ZERO, beat());
    told = BEFORE;
    $("log").replaceChildren();
    if (state.leave) act.set("leave", "");
  },
  hand() { act.flip("hand"); clock.stop(beat()); },
  leave() { if (chain.canBeLeft && !state.leave) act.set("leave", written(now())); },
  speed(text) { state.speed = text; clock.change(parse(text), beat()); },
  faster(by) { act.speed(SPEEDS[within(SPEEDS.indexOf(state.speed) + by, 0, SPEEDS.length - 1)]); },
  zoom(by) {
    const current = stage().zoom;
    state.zoom = by > 0 ? (current < 1 ? min(1, current * 2) : Math.floor(current) + 1) : current <= 1 ? max(1 / 16, current / 2) : ceil(current) - 1;
  },
  view(zoom) { Object.assign(state, { zoom, x: 0, y: 0 }); },
  pan(x, y) { state.x += x * 32; state.y += y * 32; },
  line(by) { state.at = within(state.at + by, 0, 100); },
  flip(key) { act.set(key, !state[key]); },
  set(key, value) { state[key] = value; build(); },
  next(key, list) { act.set(key, list[(list.indexOf(state[key]) + 1) % list.length]); },
  clip(by) { const keys = [...clips.keys()]; choose(keys[(keys.indexOf(state.clip) + by + keys.length) % keys.length]); },
  backdrop(name) { if (picture) URL.revokeObjectURL(picture.url); picture = null; state.backdrop = name; },
  help() { $("keysOf").open ? $("keysOf").close() : $("keysOf").showModal(); },
  theme() { state.theme = state.theme === "light" ? "" : "light"; },
  tab(name) { state.tab = name; },
};
for (const [name, run] of Object.entries(act)) act[name] = (...given) => { run(...given); refresh(); };
const KEYS = {
  " ": ["play or pause", act.play], a: ["step manually: each press a step", act.hand], ArrowRight: ["a step forward", act.forward], ArrowLeft: ["a step back", act.back],
  Home: ["restart", act.begin], ArrowUp: ["faster", () => act.faster(1)], ArrowDown: ["slower", () => act.faster(-1)], e: ["leave the loop", act.leave],
  n: ["next clip", () => act.clip(1)], p: ["previous clip", () => act.clip(-1)], i: ["blend between frames on or off", () => act.flip("blend")],
  c: ["compare with another clip", () => act.next("beside", ["", ...clips.keys()])], w: ["side by side or wipe", () => act.flip("wipe")],
  "[": ["move the wipe left", () => act.line(-5)], "]": ["move the wipe right", () => act.line(5)],
  k: ["number of instances", () => act.next("many", COUNTS)], j: ["next seed", () => act.set("seed", state.seed + 1)], f: ["random phases on or off", () => act.flip("phases")],
  "+": ["zoom in", () => act.zoom(1)], "-": ["zoom out", () => act.zoom(-1)], 0: ["zoom to fit", () => act.view(0)], 1: ["actual pixels", () => act.view(1)],
  "Shift+ArrowLeft": ["pan, with any arrow", () => act.pan(1, 0)],
  b: ["backdrop", () => act.backdrop(Object.keys(BACKDROPS)[(Object.keys(BACKDROPS).indexOf(state.backdrop) + 1) % 4])],
  y: ["an image as backdrop", () => $("file").click()], m: ["next map, alpha or light", () => act.next("show", shows)],
  l: ["mip level", () => act.next("level", [0, 1, 2, 3, 4, 5])], s: ["nearest or smooth", () => act.flip("smooth")], t: ["tiling", () => act.next("tile", TILES)],
  g: ["the whole page", () => act.flip("page")], o: ["onion skin: steps before", () => act.next("before", [0, 1, 2, 3])], z: ["onion skin: steps after", () => act.next("after", [0, 1, 2, 3])],
  x: ["pivot", () => act.flip("pivot")], r: ["trim box", () => act.flip("trim")], u: ["outline", () => act.flip("outline")],
  v: ["play, frames or timing", () => act.next("tab", TABS)], d: ["dark or light", act.theme], "?": ["list of keys", act.help],
};
for (const [shift, x, y] of [["Right", 1, 0], ["Up", 0, -1], ["Down", 0, 1]])
  KEYS[`Shift+Arrow${shift}`] = ["", () => act.pan(-x, -y)];
const MARKS = { " ": "Space", ArrowRight: "→", ArrowLeft: "←", ArrowUp: "↑", ArrowDown: "↓", "Shift+ArrowLeft": "Shift ←" };

function fill(select, values, names = []) {
  select.replaceChildren(...values.map((value, index) => {
    const one = document.createElement("option");
    [one.value, one.textContent] = [value, names[index] ?? value];
    return one;
  }));
}
function fillAll() {
  fill($("clip"), [...clips.keys()]);
  fill($("beside"), ["", ...clips.keys()], ["none"]);
  fill($("speed"), SPEEDS, SPEEDS.map((text) => `${text}x`));
  fill($("show"), shows);
  fill($("backdrop"), [...Object.keys(BACKDROPS), "colour", "image"], { 4: "a colour", 5: "an image" });
  fill($("level"), [0, 1, 2, 3, 4, 5]);
  fill($("tile"), [...new Set([...TILES, state.tile])], ["once"]);
  for (const key of ["before", "after"]) fill($(key), [0, 1, 2, 3]);
  fill($("many"), COUNTS, ["one"]);
  $("keys").replaceChildren(...Object.entries(KEYS).filter(([, [text]]) => text).map(([key, [text]]) => {
    const line = document.createElement("div");
    const mark = document.createElement("kbd");
    mark.textContent = MARKS[key] ?? key;
    line.append(mark, text);
    return line;
  }));
}
function listen() {
  const chosen = (keys, run) => { for (const key of keys) $(key).onchange = ({ target: { value } }) => run(value, key); };
  chosen(["clip"], choose);
  chosen(["speed"], act.speed);
  chosen(["show", "tile", "beside", "of"], (value, key) => act.set(key, value));
  chosen(["level", "before", "after", "many"], (value, key) => act.set(key, Number(value)));
  chosen(["seed"], (value) => act.set("seed", within(Math.floor(value) || 0, 0, 2 ** 53)));
  chosen(["backdrop"], (value) => (value === "image" ? $("file").click() : act.backdrop(value === "colour" ? $("color").value : value)));
  for (const key of FLAGS) if ($(key)) $(key).onclick = () => (act[key] ?? act.flip)(key);
  const buttons = { play: [], forward: [], back: [], begin: [], leave: [], theme: [], help: [], larger: ["zoom", 1], smaller: ["zoom", -1], fit: ["view", 0] };
  for (const [id, [name = id, value]] of Object.entries(buttons)) $(id).onclick = () => act[name](value);
  for (const tab of document.querySelectorAll("[role=tab]")) tab.onclick = () => act.tab(tab.dataset.tab);
  $("helpClose").onclick = act.help;
  $("color").oninput = (event) => act.backdrop(event.target.value);
  $("file").onchange = (event) => behind(event.target.files[0]);
  addEventListener("dragover", (event) => event.preventDefault());
  addEventListener("drop", (event) => { event.preventDefault(); behind(event.dataTransfer.files[0]); });
  addEventListener("keydown", pressed);
  addEventListener("resize", ask);
}
function pressed(event) {
  if (event.ctrlKey || event.metaKey || event.altKey || ["SELECT", "INPUT"].includes(event.target.tagName)) return;
  if ([" ", "Enter"].includes(event.key) && event.target.tagName === "BUTTON") return;
  const found = KEYS[event.shiftKey && event.key.startsWith("Arrow") ? `Shift+${event.key}` : event.key] ?? KEYS[event.key.toLowerCase()];
  if (!found || ($("keysOf").open && event.key !== "?")) return;
  event.preventDefault();
  found[1]();
}
// An image of the reader's own as the backdrop, at the zoom of the picture; it is not kept in the address.
async function behind(file) {
  if (!file) return refresh();
  const bitmap = await createImageBitmap(file).catch(() => null);
  if (!bitmap) return refresh();
  act.backdrop(state.backdrop);
  picture = { url: URL.createObjectURL(file), width: bitmap.width, height: bitmap.height };
  bitmap.close();
  refresh();
}

function start() {
  document.title = `${sources[0].name} - Kivel`;
  $("name").textContent = sources.map(({ name }) => name).join("  |  ");
  const isPaused = new URLSearchParams(location.hash.slice(1)).has("t") || matchMedia("(prefers-reduced-motion: reduce)").matches;
  fromAddress();
  if (!data.timing) $("still-timing").replaceWith("This page was made without its timing chart. To add it: pip install 'kivel[charts]'");
  fillAll();
  try {
    drawing = new Drawing($("canvas"), data, bytesOf);
  } catch (error) {
    $("stage").textContent = error.message;
    $("stage").className = "message";
    return;
  }
  drawing.loaded = ask;
  clock.speed = parse(state.speed);
  build();
  if (clock.time.n) told = clock.time;
  listen();
  scrubbing();
  panning();
  if (data.reload) watching();
  if (!isPaused && !state.hand) clock.run(beat());
  refresh();
}
// A page that is served looks whether its sources have changed, and starts over with the same view.
function watching() {
  let known = null;
  setInterval(async () => {
    const answer = await fetch(data.reload, { cache: "no-store" }).catch(() => null);
    if (!answer?.ok) return;
    const stamp = await answer.text();
    if (known !== null && stamp !== known) { toAddress(); location.reload(); }
    known = stamp;
  }, 500);
}
function scrubbing() {
  const bar = $("bar");
  const seek = (event) => {
    const { player, since } = chain.part(now());
    const box = bar.getBoundingClientRect();
    const share = within((event.clientX - box.left) / box.width, 0, 1 - 1e-9);
    const ticks = fraction(BigInt(round(share * 1e6)) * player.total, 1000000n);
    let time = over(minus(ticks, player.phase), player.timebase);
    if (time.n < 0n) time = sum(time, player.cycle);
    clock.stop(beat());
    clock.time = told = sum(since, time);
    refresh();
  };
  bar.onpointerdown = (event) => { bar.setPointerCapture(event.pointerId); seek(event); bar.onpointermove = seek; };
  bar.onpointerup = () => { bar.onpointermove = null; };
}
function panning() {
  const box = $("stage");
  const ratio = () => devicePixelRatio || 1;
  const shine = (event) => {
    const { x, y, zoom, canvas } = stage();
    const edge = box.getBoundingClientRect();
    lamp.x = ((event.clientX - edge.left) * ratio() - x) / zoom / canvas[0];
    lamp.y = ((event.clientY - edge.top) * ratio() - y) / zoom / canvas[1];
    ask();
  };
  box.onwheel = (event) => { event.preventDefault(); act.zoom(event.deltaY < 0 ? 1 : -1); };
  box.onpointerdown = (event) => {
    const [x, y, left, top] = [event.clientX, event.clientY, state.x, state.y];
    const edge = box.getBoundingClientRect();
    const { line } = arranged(now());
    const wipes = line !== null && Math.abs((x - edge.left) * ratio() - line) < 14 * ratio();
    const lights = state.show === "lit" && chain;
    if (lights) shine(event);
    box.setPointerCapture(event.pointerId);
    box.onpointermove = (move) => {
      if (lights) shine(move);
      else if (wipes) state.at = within(round(((move.clientX - edge.left) / edge.width) * 1000) / 10, 0, 100);
      else Object.assign(state, { x: left + (move.clientX - x) * ratio(), y: top + (move.clientY - y) * ratio() });
      refresh();
    };
    box.onpointerup = (up) => {
      box.onpointermove = null;
      if (state.hand && Math.abs(up.clientX - x) < 4) act.forward();
    };
  };
}
start();
