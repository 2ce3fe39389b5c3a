// The page: what is chosen, how it is looked at, and what the keys do.
"use strict";

const data = JSON.parse(document.getElementById("data").textContent);
const $ = (id) => document.getElementById(id);
const bytesOf = (image) => Uint8Array.from(atob($(`image-${image}`).textContent), (c) => c.charCodeAt(0));
const byName = new Map(data.clips.map((clip) => [clip.name, clip]));
const maps = Object.keys(data.pages[0].maps);
const glow = maps.find((name) => name.startsWith("emission"));
const normals = maps.find((name) => name.startsWith("normal"));
data.wholePages = data.frames.length;
data.pages.forEach((page, number) => data.frames.push(
  { name: `page ${number}`, page: number, rect: [0, 0, ...page.size], turn: 0, flip: "", canvas: page.size, offset: [0, 0], pivot: [0.5, 0.5] }));

const SPEEDS = ["1/16", "1/8", "1/4", "1/3", "1/2", "1", "2", "4", "8"];
const BACKDROPS = { checker: "", dark: "#14161a", light: "#f4f2ec", magenta: "#ff00ff" };
const state = {
  clip: data.clips[0]?.name ?? "", speed: "1", zoom: 0, x: 0, y: 0, show: "color", backdrop: "checker", smooth: false,
  tiled: false, page: false, onion: 0, pivot: false, trim: false, outline: false, level: 0, tab: "play", theme: "", beside: "", blend: true,
};
const KEPT = Object.keys(state);
const clock = new Clock();
const lamp = { x: 0.3, y: 0.2 };
let chain, beside, drawing, told = ZERO, asked = false;

const parse = (text) => { const [n, d = "1"] = text.split("/"); return fraction(BigInt(n), BigInt(d)); };
const written = (f) => (f.d === 1n ? `${f.n}` : `${f.n}/${f.d}`);
const seconds = (f) => decimal(f).toFixed(3);

function fromAddress() {
  const given = new URLSearchParams(location.hash.slice(1));
  for (const key of KEPT) {
    const text = given.get(key);
    if (text === null) continue;
    const kind = typeof state[key];
    state[key] = kind === "boolean" ? text === "1" : kind === "number" ? Number(text) || 0 : text;
  }
  if (!byName.has(state.clip)) state.clip = data.clips[0]?.name ?? "";
  if (!SPEEDS.includes(state.speed)) state.speed = "1";
  try { if (given.get("t")) clock.time = parse(given.get("t")); } catch { clock.time = ZERO; }
}
function toAddress() {
  const kept = new URLSearchParams();
  const usual = { ...initial };
  for (const key of KEPT) if (state[key] !== usual[key]) kept.set(key, typeof state[key] === "boolean" ? Number(state[key]) : state[key]);
  if (!clock.runs && clock.time.n) kept.set("t", written(clock.time));
  history.replaceState(null, "", `#${kept}`);
}
const initial = { ...state };

function choose(name) {
  state.clip = name;
  chain = new Chain(byName.get(name), byName);
  beside = byName.has(state.beside) ? new Chain(byName.get(state.beside), byName) : null;
  clock.set(ZERO, performance.now());
  told = ZERO;
  $("log").replaceChildren();
  refresh();
}

// What is drawn, and the pixel of the view at which the canvas begins.
function stage() {
  const [width, height] = [drawing.canvas.width, drawing.canvas.height];
  const { player, moment } = chain.at(now());
  const shown = state.page && moment.frame !== null ? data.wholePages + data.frames[moment.frame].page : moment.frame;
  const frame = data.frames[shown ?? 0];
  const many = state.tiled && !state.page ? 3 : 1;
  const other = beside && !state.page ? beside.at(now()).moment.frame : null;
  const columns = beside && !state.page ? 2 : 1;
  const canvases = [frame, ...(other === null ? [] : [data.frames[other]])].map((one) => one.canvas);
  const [wide, high] = [0, 1].map((axis) => Math.max(...canvases.map((canvas) => canvas[axis])) * many);
  const fit = Math.min(((width / columns) * 0.94) / wide, (height * 0.94) / high);
  const zoom = state.zoom || (fit >= 1 ? Math.floor(fit) : fit);
  const x = Math.round((width / columns - frame.canvas[0] * many * zoom) / 2 + state.x);
  const y = Math.round((height - frame.canvas[1] * many * zoom) / 2 + state.y);
  return { player, moment, shown, frame, zoom, x, y, width, height, columns, many };
}
const now = () => clock.at(performance.now());

function layers(at, of = chain, column = 0) {
  const { moment, player } = of.at(now());
  if (moment.frame === null) return [];
  const base = { x: at.x, y: at.y, zoom: at.zoom };
  if (column) {
    const [wide, high] = data.frames[moment.frame].canvas.map((side) => side * at.many * at.zoom);
    base.x = Math.round((at.width / 2) * 1.5 - wide / 2 + state.x);
    base.y = Math.round((at.height - high) / 2 + state.y);
  }
  if (state.page) return [{ ...base, frame: data.wholePages + data.frames[moment.frame].page }];
  const found = [];
  for (let ghost = state.onion; ghost > 0; ghost--) {
    const { length } = player.clip.cycle;
    for (const [place, tint] of [[moment.place - ghost, [0.9, 0.3, 0.3]], [moment.place + ghost, [0.3, 0.6, 1]]])
      found.push({ ...base, frame: player.clip.cycle[((place % length) + length) % length][1], opacity: 0.35 / ghost, tint });
  }
  const mixes = state.blend && moment.weight.n > 0n;
  return [...found, { ...base, frame: moment.frame, next: mixes ? moment.following : null, weight: mixes ? decimal(moment.weight) : 0 }];
}

function draw() {
  asked = false;
  if (!chain) return;
  // a card that is still busy with the last picture is not given another
  const looked = state.tab === "play" && !(clock.runs && drawing.busy());
  if (looked) resize();
  const at = stage();
  const mode = { alpha: 1, "with glow": 2, lit: 3 }[state.show] ?? 0;
  const view = {
    map: maps.includes(state.show) ? state.show : "color", mode: state.page ? 0 : mode, glow, normals, smooth: state.smooth,
    tiled: state.tiled && !state.page, level: state.level,
    lamp: [lamp.x * at.frame.canvas[0], lamp.y * at.frame.canvas[1], at.frame.canvas[0] / 3],
  };
  const all = layers(at);
  if (beside && !state.page) all.push(...layers(at, beside, 1));
  if (looked) {
    $("stage").dataset.complete = drawing.draw(view, all) ? "1" : "";
    overlay(at);
  }
  timeline(at);
  tell(at);
  if (clock.runs) ask();
}
function ask() {
  if (asked) return;
  asked = true;
  requestAnimationFrame(draw);
}
function refresh() {
  for (const [id, key] of [["clip", "clip"], ["speed", "speed"], ["show", "show"], ["backdrop", "backdrop"], ["level", "level"], ["onion", "onion"], ["beside", "beside"]])
    $(id).value = state[key];
  for (const key of ["smooth", "tiled", "page", "pivot", "trim", "outline", "blend"]) $(key).setAttribute("aria-pressed", state[key]);
  for (const tab of document.querySelectorAll("[role=tab]")) tab.setAttribute("aria-selected", tab.dataset.tab === state.tab);
  for (const panel of document.querySelectorAll("[data-panel]")) panel.hidden = panel.dataset.panel !== state.tab;
  $("play").setAttribute("aria-label", clock.runs ? "Pause" : "Play");
  $("play").dataset.runs = clock.runs;
  $("stage").dataset.backdrop = state.backdrop;
  $("stage").style.background = BACKDROPS[state.backdrop] ?? state.backdrop;
  document.documentElement.dataset.theme = state.theme;
  $("zoom").textContent = state.zoom ? `${state.zoom < 1 ? `1/${Math.round(1 / state.zoom)}` : state.zoom}x` : "fit";
  toAddress();
  ask();
}
function resize() {
  const box = $("stage").getBoundingClientRect();
  const ratio = window.devicePixelRatio || 1;
  for (const canvas of [drawing.canvas, $("marks")]) {
    const [width, height] = [Math.max(1, Math.round(box.width * ratio)), Math.max(1, Math.round(box.height * ratio))];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  }
}

const style = (name) => getComputedStyle(document.documentElement).getPropertyValue(name);
function overlay({ frame, shown, moment, zoom, x, y }) {
  const pen = $("marks").getContext("2d");
  pen.clearRect(0, 0, pen.canvas.width, pen.canvas.height);
  const box = (left, top, width, height, color) => {
    pen.strokeStyle = color;
    pen.strokeRect(Math.round(x + left * zoom) + 0.5, Math.round(y + top * zoom) + 0.5, Math.round(width * zoom) - 1, Math.round(height * zoom) - 1);
  };
  pen.lineWidth = 1;
  if (shown === null) return;
  if (state.page) {
    const cell = data.frames[moment.frame];
    box(...cell.rect, style("--accent"));
    return;
  }
  const side = frame.turn ? [frame.rect[3], frame.rect[2]] : [frame.rect[2], frame.rect[3]];
  if (state.trim) box(...frame.offset, ...side, style("--accent"));
  if (state.outline && frame.outline) {
    pen.strokeStyle = style("--good");
    pen.beginPath();
    for (const [px, py] of frame.outline) pen.lineTo(x + px * zoom, y + py * zoom);
    pen.closePath();
    pen.stroke();
  }
  if (state.pivot) {
    const [px, py] = [Math.round(x + frame.pivot[0] * frame.canvas[0] * zoom) + 0.5, Math.round(y + frame.pivot[1] * frame.canvas[1] * zoom) + 0.5];
    for (const [color, width] of [["#000", 3], ["#fff", 1]]) {
      pen.strokeStyle = color;
      pen.lineWidth = width;
      pen.beginPath();
      pen.moveTo(px - 9, py); pen.lineTo(px + 9, py); pen.moveTo(px, py - 9); pen.lineTo(px, py + 9);
      pen.stroke();
    }
  }
}

// The steps of a cycle to scale, each with its frame's number; the one that shows is lit.
function timeline({ player, moment }) {
  const canvas = $("bar");
  const ratio = window.devicePixelRatio || 1;
  const [width, height] = [Math.round(canvas.clientWidth * ratio), Math.round(canvas.clientHeight * ratio)];
  if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  const pen = canvas.getContext("2d");
  pen.clearRect(0, 0, width, height);
  pen.font = `${11 * ratio}px system-ui, sans-serif`;
  pen.textBaseline = "middle";
  pen.textAlign = "center";
  const scale = width / Number(player.total);
  player.clip.cycle.forEach(([step, frame, hold], place) => {
    const [left, wide] = [Number(player.starts[place]) * scale, hold * scale];
    pen.fillStyle = style(place === moment.place ? "--accent" : place % 2 ? "--step-b" : "--step-a");
    pen.fillRect(left, 0, Math.max(1, wide - (wide > 4 ? 1 : 0)), height);
    if (wide > 14 * ratio) {
      pen.fillStyle = style(place === moment.place ? "--on-accent" : "--text");
      pen.fillText(String(frame), left + wide / 2, height / 2);
    }
    if (player.clip.events.some((event) => event.step === step)) {
      pen.fillStyle = style("--good");
      pen.fillRect(left, 0, 3 * ratio, height);
    }
  });
  if (moment.ticks) {
    pen.fillStyle = style("--text");
    pen.fillRect(Math.round(decimal(moment.ticks) * scale) - ratio, 0, 2 * ratio, height);
  }
}

function tell({ player, moment, frame, shown, zoom }) {
  const time = now();
  const last = data.wholePages - 1;
  const parts = [`${seconds(time)} s`, moment.frame === null ? "nothing shows" : `frame ${moment.frame} of 0-${last}`];
  if (moment.step !== null) parts.push(`step ${moment.step} of 0-${player.clip.cycle.length - 1}`);
  parts.push(moment.ended ? "ended" : `cycle ${moment.round}`);
  $("time").textContent = parts.join("   ");
  $("what").textContent = `${frame.name}   ${frame.canvas[0]}x${frame.canvas[1]} px   ${zoom >= 1 ? Math.round(zoom * 100) / 100 : zoom.toFixed(2)}x`;
  if (player.clip.name !== state.clip) $("what").textContent += `   now "${player.clip.name}"`;
  if (below(time, told)) told = time;
  for (const one of chain.between(told, time, 40)) {
    if (one.kind === "show") continue;
    const line = document.createElement("li");
    line.textContent = `${seconds(one.time)} s  ${one.kind === "event" ? one.name : one.kind}  (${one.clip})`;
    line.dataset.kind = one.kind;
    $("log").prepend(line);
    while ($("log").children.length > 60) $("log").lastChild.remove();
  }
  told = time;
}

const act = {
  play() { clock.runs ? clock.stop(performance.now()) : clock.run(performance.now()); refresh(); },
  forward() { clock.stop(performance.now()); const next = chain.next(clock.time); if (next) clock.time = next; refresh(); },
  back() { clock.stop(performance.now()); clock.time = chain.before(clock.time); refresh(); },
  begin() { clock.set(ZERO, performance.now()); told = ZERO; refresh(); },
  speed(text) { state.speed = text; clock.change(parse(text), performance.now()); refresh(); },
  faster() { act.speed(SPEEDS[Math.min(SPEEDS.length - 1, SPEEDS.indexOf(state.speed) + 1)]); },
  slower() { act.speed(SPEEDS[Math.max(0, SPEEDS.indexOf(state.speed) - 1)]); },
  zoom(by) {
    const current = stage().zoom;
    state.zoom = by > 0 ? (current < 1 ? Math.min(1, current * 2) : Math.floor(current) + 1) : current <= 1 ? Math.max(1 / 16, current / 2) : Math.ceil(current) - 1;
    refresh();
  },
  fit() { Object.assign(state, { zoom: 0, x: 0, y: 0 }); refresh(); },
  one() { Object.assign(state, { zoom: 1, x: 0, y: 0 }); refresh(); },
  flip(key) { state[key] = !state[key]; refresh(); },
  next(key, list) { state[key] = list[(list.indexOf(state[key]) + 1) % list.length]; refresh(); },
  clip(by) { const names = [...byName.keys()]; choose(names[(names.indexOf(state.clip) + by + names.length) % names.length]); },
  help() { $("help").open ? $("help").close() : $("help").showModal(); },
  theme() { state.theme = state.theme === "light" ? "" : "light"; refresh(); },
};
const shows = ["color", "alpha", ...maps.filter((name) => name !== "color"), ...(glow ? ["with glow"] : []), ...(normals ? ["lit"] : [])];
const KEYS = {
  " ": ["play or pause", act.play], ArrowRight: ["a step forward", act.forward], ArrowLeft: ["a step back", act.back],
  Home: ["to the beginning", act.begin], ArrowUp: ["faster", act.faster], ArrowDown: ["slower", act.slower],
  "+": ["larger", () => act.zoom(1)], "-": ["smaller", () => act.zoom(-1)], 0: ["to fit", act.fit], 1: ["one pixel for one", act.one],
  n: ["next clip", () => act.clip(1)], p: ["clip before", () => act.clip(-1)], b: ["backdrop", () => act.next("backdrop", Object.keys(BACKDROPS))],
  m: ["map, alpha, light", () => act.next("show", shows)], s: ["crisp or smooth", () => act.flip("smooth")], t: ["three by three", () => act.flip("tiled")],
  g: ["the page", () => act.flip("page")], o: ["onion skin", () => act.next("onion", [0, 1, 2, 3])], x: ["pivot", () => act.flip("pivot")],
  r: ["trim box", () => act.flip("trim")], u: ["outline", () => act.flip("outline")], l: ["mip level", () => act.next("level", [0, 1, 2, 3, 4, 5])],
  i: ["blend steps or not", () => act.flip("blend")], d: ["dark or light page", act.theme], "?": ["these keys", act.help],
};

function fill(select, values, names = values) {
  select.replaceChildren(...values.map((value, index) => {
    const one = document.createElement("option");
    [one.value, one.textContent] = [value, names[index]];
    return one;
  }));
}
function start() {
  document.title = `${data.name} - Kivel`;
  $("name").textContent = data.name;
  const stands = location.hash.includes("t=") || matchMedia("(prefers-reduced-motion: reduce)").matches;
  fromAddress();
  fill($("clip"), [...byName.keys()]);
  fill($("beside"), ["", ...byName.keys()], ["nothing", ...byName.keys()]);
  fill($("speed"), SPEEDS, SPEEDS.map((text) => `${text}x`));
  fill($("show"), shows);
  fill($("backdrop"), Object.keys(BACKDROPS));
  fill($("level"), ["0", "1", "2", "3", "4", "5"]);
  fill($("onion"), ["0", "1", "2", "3"]);
  $("keys").replaceChildren(...Object.entries(KEYS).map(([key, [text]]) => {
    const line = document.createElement("div");
    const mark = document.createElement("kbd");
    mark.textContent = { " ": "Space", ArrowRight: "→", ArrowLeft: "←", ArrowUp: "↑", ArrowDown: "↓" }[key] ?? key;
    line.append(mark, text);
    return line;
  }));
  try {
    drawing = new Drawing($("canvas"), data, bytesOf);
  } catch (error) {
    $("stage").textContent = error.message;
    $("stage").className = "message";
    return;
  }
  drawing.loaded = ask;
  const time = clock.time;
  clock.speed = parse(state.speed);
  choose(state.clip);
  clock.time = time;
  told = time;
  $("clip").onchange = (event) => choose(event.target.value);
  $("beside").onchange = (event) => { state.beside = event.target.value; choose(state.clip); };
  $("speed").onchange = (event) => act.speed(event.target.value);
  for (const key of ["show", "backdrop"]) $(key).onchange = (event) => { state[key] = event.target.value; refresh(); };
  for (const key of ["level", "onion"]) $(key).onchange = (event) => { state[key] = Number(event.target.value); refresh(); };
  for (const key of ["smooth", "tiled", "page", "pivot", "trim", "outline", "blend"]) $(key).onclick = () => act.flip(key);
  for (const [id, run] of Object.entries({ play: act.play, forward: act.forward, back: act.back, begin: act.begin, larger: () => act.zoom(1), smaller: () => act.zoom(-1), fit: act.fit, theme: act.theme, keysOpen: act.help, helpClose: act.help }))
    $(id).onclick = run;
  for (const tab of document.querySelectorAll("[role=tab]")) tab.onclick = () => { state.tab = tab.dataset.tab; refresh(); };
  addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || ["SELECT", "INPUT"].includes(event.target.tagName)) return;
    if (event.key === " " && event.target.tagName === "BUTTON") return;
    const found = KEYS[event.key] ?? KEYS[event.key.toLowerCase()];
    if (!found || ($("help").open && event.key !== "?")) return;
    event.preventDefault();
    found[1]();
  });
  addEventListener("resize", ask);
  $("color").oninput = (event) => { state.backdrop = event.target.value; refresh(); };
  scrubbing();
  panning();
  if (data.reload) watching();
  if (!stands) clock.run(performance.now());
  refresh();
}
// A page that is served looks whether its sources have changed, and begins anew with the same view.
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
    const { player } = chain.part(now());
    const box = bar.getBoundingClientRect();
    const share = Math.min(1 - 1e-9, Math.max(0, (event.clientX - box.left) / box.width));
    const ticks = fraction(BigInt(Math.round(share * 1e6)) * player.total, 1000000n);
    let time = over(minus(ticks, player.phase), player.timebase);
    if (time.n < 0n) time = sum(time, player.cycle);
    clock.stop(performance.now());
    clock.time = sum(chain.part(now()).since, time);
    told = clock.time;
    refresh();
  };
  bar.onpointerdown = (event) => { bar.setPointerCapture(event.pointerId); seek(event); bar.onpointermove = seek; };
  bar.onpointerup = () => { bar.onpointermove = null; };
}
function panning() {
  const stage_ = $("stage");
  stage_.onwheel = (event) => { event.preventDefault(); act.zoom(event.deltaY < 0 ? 1 : -1); };
  stage_.onpointerdown = (event) => {
    const [x, y, left, top] = [event.clientX, event.clientY, state.x, state.y];
    stage_.setPointerCapture(event.pointerId);
    stage_.onpointermove = (move) => { Object.assign(state, { x: left + (move.clientX - x) * (devicePixelRatio || 1), y: top + (move.clientY - y) * (devicePixelRatio || 1) }); refresh(); };
  };
  stage_.onpointerup = () => { stage_.onpointermove = null; };
  stage_.onpointerleave = null;
  stage_.addEventListener("pointermove", (event) => {
    if (state.show !== "lit" || !chain) return;
    const at = stage();
    const box = stage_.getBoundingClientRect();
    const ratio = devicePixelRatio || 1;
    lamp.x = ((event.clientX - box.left) * ratio - at.x) / at.zoom / at.frame.canvas[0];
    lamp.y = ((event.clientY - box.top) * ratio - at.y) / at.zoom / at.frame.canvas[1];
    ask();
  });
}
start();
