// The picture: what plays where in the view, what is drawn over it, and the bar of steps.
"use strict";

const tilesOf = () => (state.page ? [1, 1] : state.tile.split("x").map(Number));
const backOf = () => (state.page ? [] : [[state.before, -1, PLUM], [state.after, 1, GREEN]]);
const [PLUM, GREEN] = [[0.56, 0.2, 0.56], [0.2, 0.68, 0.36]];
const extents = new WeakMap();

// The largest canvas of all that a chain comes to show, so that the picture keeps its size while it plays.
function extentOf(chain) {
  if (!extents.has(chain)) {
    const numbers = chain.parts.flatMap(({ player: { clip } }) => clip.cycle.map(([, frame]) => clip.first + frame));
    extents.set(chain, [0, 1].map((axis) => numbers.reduce((most, number) => max(most, frames[number].canvas[axis]), 1)));
  }
  return extents.get(chain);
}

// What plays side by side, each with what is written under it.
function playing() {
  if (state.page) return [{ chain, label: "" }];
  if (instances.length) return instances.map(({ number, chain }) => ({ chain, label: `${number}  ${chain.clip.name}` }));
  if (beside) return [{ chain, label: state.clip }, { chain: beside, label: state.beside }];
  return [{ chain, label: "" }];
}

// Where all of it lies at a time, in pixels of the view.
function arranged(time) {
  const [width, height] = [drawing.canvas.width, drawing.canvas.height];
  const tiles = tilesOf();
  const shown = playing().map((one) => {
    const { player, moment } = one.chain.at(time);
    const number = moment.frame === null ? null : player.clip.first + moment.frame;
    const page = number !== null && state.page;
    return { ...one, player, moment, frame: page ? data.whole + frames[number].page : number };
  });
  const sizes = shown.map(({ chain, frame }) => (state.page && frame !== null ? frames[frame].canvas : extentOf(chain)));
  const [wide, high] = [0, 1].map((axis) => max(...sizes.map((size) => size[axis])) * tiles[axis]);
  const wiped = state.wipe && beside && shown.length === 2 && !instances.length;
  const cells = wiped ? 1 : shown.length;
  const share = instances.length ? 0.84 : 0.94;
  const fitting = (columns) => min(((width / columns) * share) / wide, ((height / ceil(cells / columns)) * share) / high);
  let columns = instances.length ? 1 : cells;
  if (instances.length) for (let more = 2; more <= cells; more++) if (fitting(more) > fitting(columns)) columns = more;
  const rows = ceil(cells / columns);
  const fit = fitting(columns);
  const zoom = state.zoom || (fit >= 1 ? Math.floor(fit) : fit);
  const line = round((width * state.at) / 100);
  const panes = shown.map((one, index) => {
    const [column, row] = wiped ? [0, 0] : [index % columns, Math.floor(index / columns)];
    const canvas = frames[one.frame ?? one.player.clip.first].canvas;
    const [x, y] = [[width / columns, column], [height / rows, row]].map(([side, place], axis) =>
      round((place + 0.5) * side - (canvas[axis] * tiles[axis] * zoom) / 2 + (axis ? state.y : state.x)));
    const part = wiped ? [[0, line], [line, width]][index] : null;
    return { ...one, canvas, x, y, zoom, part, cell: [(column * width) / columns, (row * height) / rows, width / columns, height / rows] };
  });
  return { time, tiles, panes, zoom, width, height, line: wiped ? line : null };
}
const stage = () => { const { panes: [pane] } = arranged(now()); return { ...pane, frame: frames[pane.frame ?? 0] }; };

// What is drawn of a pane: the step that shows, blended with the next; and the ghosts of those before and after.
function layerOf({ player, moment, frame, x, y, zoom, part }) {
  const mixes = state.blend && !state.page && moment.weight.n > 0n;
  const next = mixes ? player.clip.first + moment.following : null;
  return { frame, next, weight: mixes ? decimal(moment.weight) : 0, warps: player.clip.warps, x, y, zoom, part };
}
function ghostsOf({ player, moment, x, y, zoom, part }) {
  const { cycle, first } = player.clip;
  return backOf().flatMap(([count, direction, tint]) =>
    Array.from({ length: moment.place === null ? 0 : count }, (_, index) => count - index).map((far) => {
      const place = (((moment.place + direction * far) % cycle.length) + cycle.length) % cycle.length;
      return { frame: first + cycle[place][1], x, y, zoom, part, opacity: 0.45 / far, tint, dashed: direction < 0 };
    }));
}

function draw() {
  asked = false;
  if (!chain) return;
  // a card that is still busy with the last picture is not given another
  const looked = state.tab === "play" && !(clock.runs && drawing.busy());
  if (looked) resize();
  const at = arranged(now());
  if (looked) {
    const [{ canvas }] = at.panes;
    const mode = { alpha: 1, "with glow": 2, lit: 3 }[state.show] ?? 0;
    const view = {
      map: maps.includes(state.show) ? state.show : "color", mode: state.page ? 0 : mode, glow, normals, smooth: state.smooth, fadesStored: state.fadesStored,
      tiles: at.tiles, level: state.level, lamp: [lamp.x * canvas[0], lamp.y * canvas[1], canvas[0] / 3], time: at.time,
    };
    const panes = at.panes.filter(({ frame }) => frame !== null);
    const whole = drawing.draw(view, panes.map(layerOf), instances.length ? [] : panes.flatMap(ghostsOf));
    $("stage").dataset.complete = whole ? "1" : "";
    if (whole) overlay(at);
    if (clock.runs) ahead(at, view);
  }
  timeline(at.panes[0]);
  tell(at);
  if (clock.runs) ask();
}

// Pictures that will be wanted soon are loaded before they are.
function ahead({ panes }, view) {
  for (const { player, moment } of panes.slice(0, 2)) {
    const { cycle, first } = player.clip;
    for (let far = 1; far <= 6 && moment.place !== null; far++)
      drawing.has(drawing.imageOf(first + cycle[(moment.place + far) % cycle.length][1], view.map));
  }
}
function ask() {
  if (asked) return;
  asked = true;
  requestAnimationFrame(draw);
}
function resize() {
  const box = $("stage").getBoundingClientRect();
  const ratio = devicePixelRatio || 1;
  for (const canvas of [drawing.canvas, $("marks")]) {
    const [width, height] = [max(1, round(box.width * ratio)), max(1, round(box.height * ratio))];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  }
}

const style = (name) => getComputedStyle(document.documentElement).getPropertyValue(name);
function overlay(at) {
  const pen = $("marks").getContext("2d");
  const ratio = devicePixelRatio || 1;
  pen.clearRect(0, 0, pen.canvas.width, pen.canvas.height);
  for (const pane of at.panes) {
    pen.lineWidth = 1;
    marks(pen, pane);
    if (pane.label) label(pen, pane, ratio);
    if (state.show === "lit" && !state.page) lampMark(pen, pane, ratio);
  }
  if (at.line !== null) {
    pen.fillStyle = style("--accent");
    pen.fillRect(at.line - 1, 0, 2, at.height);
    pen.fillRect(at.line - 4 * ratio, at.height / 2 - 18 * ratio, 8 * ratio, 36 * ratio);
  }
  if (picture) {
    const [wide, high] = [picture.width, picture.height].map((side) => (side * at.zoom) / ratio);
    $("stage").style.backgroundSize = `${wide}px ${high}px`;
    $("stage").style.backgroundPosition = `calc(50% + ${state.x / ratio}px) calc(50% + ${state.y / ratio}px)`;
  }
}
function label(pen, { label, cell: [left, top, wide, high], part, canvas, y, zoom }, ratio) {
  pen.font = `${12 * ratio}px system-ui, sans-serif`;
  pen.textAlign = part && part[0] > 0 ? "right" : part ? "left" : "center";
  pen.textBaseline = "bottom";
  const x = part ? (part[0] > 0 ? left + wide - 10 * ratio : left + 10 * ratio) : left + wide / 2;
  const under = min(top + high - 4 * ratio, part ? Infinity : y + canvas[1] * tilesOf()[1] * zoom + 20 * ratio);
  // on any backdrop
  pen.lineWidth = 3 * ratio;
  pen.lineJoin = "round";
  pen.strokeStyle = "#000";
  pen.fillStyle = "#fff";
  pen.strokeText(label, x, under, wide - 12 * ratio);
  pen.fillText(label, x, under, wide - 12 * ratio);
}
function lampMark(pen, { x, y, zoom, canvas }, ratio) {
  const place = [x + lamp.x * canvas[0] * zoom, y + lamp.y * canvas[1] * zoom];
  for (const [color, wide] of [["#000", 4], ["#ffd98a", 2]]) {
    [pen.strokeStyle, pen.lineWidth] = [color, wide * ratio];
    pen.beginPath();
    pen.arc(...place, 7 * ratio, 0, 2 * Math.PI);
    pen.stroke();
  }
}
function marks(pen, { frame: number, moment, player, zoom, x, y }) {
  const box = (left, top, width, height, color) => {
    pen.strokeStyle = color;
    pen.strokeRect(round(x + left * zoom) + 0.5, round(y + top * zoom) + 0.5, round(width * zoom) - 1, round(height * zoom) - 1);
  };
  if (number === null) return;
  if (state.page) return box(...frames[player.clip.first + moment.frame].rect, style("--accent"));
  const frame = frames[number];
  const side = frame.turn ? [frame.rect[3], frame.rect[2]] : [frame.rect[2], frame.rect[3]];
  if (state.trim) box(...frame.offset, ...side, style("--accent"));
  if (state.outline && frame.outline) {
    pen.strokeStyle = style("--good");
    pen.beginPath();
    for (const [px, py] of frame.outline) pen.lineTo(x + px * zoom, y + py * zoom);
    pen.closePath();
    pen.stroke();
  }
  if (!state.pivot) return;
  const [px, py] = [x + frame.pivot[0] * frame.canvas[0] * zoom, y + frame.pivot[1] * frame.canvas[1] * zoom].map((place) => round(place) + 0.5);
  for (const [color, more] of [["#000", 1], ["#fff", 0]]) {
    pen.fillStyle = color;
    pen.fillRect(px - 9.5 - more, py - 0.5 - more, 19 + 2 * more, 1 + 2 * more);
    pen.fillRect(px - 0.5 - more, py - 9.5 - more, 1 + 2 * more, 19 + 2 * more);
  }
}

// The steps of a cycle to scale, each with its frame's number; the one that shows is lit.
function timeline({ player, moment }) {
  const canvas = $("bar");
  const ratio = devicePixelRatio || 1;
  const [width, height] = [round(canvas.clientWidth * ratio), round(canvas.clientHeight * ratio)];
  if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  const pen = canvas.getContext("2d");
  pen.clearRect(0, 0, width, height);
  pen.font = `${11 * ratio}px system-ui, sans-serif`;
  pen.textBaseline = "middle";
  pen.textAlign = "center";
  const scale = width / Number(player.total);
  const [lit, onLit, text, good, odd, even] = ["--accent", "--on-accent", "--text", "--good", "--step-b", "--step-a"].map(style);
  player.clip.cycle.forEach(([step, frame, hold], place) => {
    const [left, wide] = [Number(player.starts[place]) * scale, hold * scale];
    pen.fillStyle = place === moment.place ? lit : place % 2 ? odd : even;
    pen.fillRect(left, 0, max(1, wide - (wide > 4 ? 1 : 0)), height);
    if (wide > 14 * ratio) {
      pen.fillStyle = place === moment.place ? onLit : text;
      pen.fillText(String(frame), left + wide / 2, height / 2);
    }
    if (player.clip.events.some((event) => event.step === step)) {
      pen.fillStyle = good;
      pen.fillRect(left, 0, 3 * ratio, height);
    }
  });
  if (moment.ticks) {
    pen.fillStyle = text;
    pen.fillRect(round(decimal(moment.ticks) * scale) - ratio, 0, 2 * ratio, height);
  }
  canvas.setAttribute("aria-valuemax", player.clip.cycle.length - 1);
  canvas.setAttribute("aria-valuenow", moment.place ?? 0);
  canvas.setAttribute("aria-valuetext", moment.frame === null ? "nothing shows" : `frame ${moment.frame}`);
}

// What shows, in words, and what has happened since this was told last.
function tell({ time, panes: [{ player, moment, frame, canvas, zoom }] }) {
  const { clip } = player;
  const parts = [`${seconds(time)} s`, moment.frame === null ? "nothing shows" : `frame ${moment.frame} of 0-${sources[clip.source].count - 1}`];
  if (moment.step !== null) parts.push(`step ${moment.step} of 0-${max(...clip.cycle.map(([step]) => step))}`);
  parts.push(moment.ended ? "ended" : `cycle ${moment.round}`);
  $("time").textContent = parts.join("   ");
  const name = frame === null ? "" : `${frames[frame].name}   `;
  $("what").textContent = `${name}${canvas[0]}x${canvas[1]} px   ${zoom >= 1 ? round(zoom * 100) / 100 : zoom.toFixed(2)}x`;
  if (clip.name !== chain.clip.name && !instances.length) $("what").textContent += `   now "${clip.name}"`;
  if (below(time, told)) told = time;
  const many = instances.length > 0;
  const found = (many ? instances : [{ number: 0, chain }]).flatMap((one) =>
    one.chain.between(told, time, 40).filter(({ kind }) => kind !== "show").map((happens) => ({ ...happens, number: one.number })));
  for (const one of found.sort((a, b) => (below(a.time, b.time) ? -1 : below(b.time, a.time) ? 1 : 0))) {
    const line = document.createElement("li");
    line.textContent = `${seconds(one.time)} s  ${many ? one.number + ": " : ""}${one.kind === "event" ? one.name : one.kind}  (${one.clip})`;
    line.dataset.kind = one.kind;
    $("log").prepend(line);
    while ($("log").children.length > 60) $("log").lastChild.remove();
  }
  told = time;
}
