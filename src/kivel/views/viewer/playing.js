// What a clip shows at a moment, exact: times are fractions of whole numbers, {n, d} in seconds.
// The same rules as kivel/core/playback/player.py and following.py, against which they are tested.
"use strict";

const { ceil, max, min, round } = Math;
const fraction = (n, d = 1n) => {
  n = BigInt(n);
  d = BigInt(d);
  let [a, b] = [n < 0n ? -n : n, d];
  while (b) [a, b] = [b, a % b];
  return a > 1n ? { n: n / a, d: d / a } : { n, d };
};
const sum = (a, b) => fraction(a.n * b.d + b.n * a.d, a.d * b.d);
const minus = (a, b) => fraction(a.n * b.d - b.n * a.d, a.d * b.d);
const times = (a, b) => fraction(a.n * b.n, a.d * b.d);
const over = (a, b) => fraction(a.n * b.d, a.d * b.n);
const below = (a, b) => a.n * b.d < b.n * a.d;
const same = (a, b) => a.n * b.d === b.n * a.d;
const latest = (a, b) => (below(a, b) ? b : a);
const floor = (a) => (a.n >= 0n ? a.n / a.d : -((-a.n + a.d - 1n) / a.d));
const decimal = (a) => Number((a.n << 60n) / a.d) / 2 ** 60;
const ZERO = fraction(0);

// One clip. `clip.cycle` has [step, frame, hold] as they show; `clip.phase` is where it starts, in ticks.
class Player {
  constructor(clip) {
    this.clip = clip;
    this.timebase = fraction(...clip.timebase);
    this.phase = fraction(...clip.phase);
    this.starts = [];
    let total = 0n;
    for (const [, , hold] of clip.cycle) {
      this.starts.push(total);
      total += BigInt(hold);
    }
    this.total = total;
    this.cycle = over(fraction(total), this.timebase);
    const finite = clip.repeat !== null;
    const ticks = finite ? minus(fraction(BigInt(clip.repeat) * total), this.phase) : null;
    this.length = finite ? over(ticks.n < 0n ? ZERO : ticks, this.timebase) : null;
  }

  // The place in the cycle that shows after this many ticks.
  place(ticks) {
    let [low, high] = [0, this.starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle] * ticks.d <= ticks.n) low = middle;
      else high = middle - 1;
    }
    return low;
  }

  at(time) {
    const { repeat, end, cycle, blends } = this.clip;
    const position = sum(this.phase, repeat === 0 ? ZERO : times(time, this.timebase));
    const round = floor(over(position, fraction(this.total)));
    if (repeat !== null && repeat > 0 && round >= BigInt(repeat)) {
      const place = { last: cycle.length - 1, first: 0 }[end];
      const [step, frame] = place === undefined ? [null, null] : cycle[place];
      return { step, frame, place: place ?? null, round: BigInt(repeat) - 1n, ended: true, following: frame, weight: ZERO };
    }
    const ticks = minus(position, fraction(round * this.total));
    const place = this.place(ticks);
    const [step, frame, hold] = cycle[place];
    const passed = over(minus(ticks, fraction(this.starts[place])), fraction(hold));
    const following = this.following(place, round);
    const weight = blends && following !== frame ? passed : ZERO;
    return { step, frame, place, round, ended: false, following, weight, ticks };
  }

  following(place, round) {
    const { repeat, end, cycle } = this.clip;
    const last = repeat !== null && round + 1n >= BigInt(repeat) && place + 1 === cycle.length;
    if (repeat === 0 || (last && end !== "first")) return cycle[place][1];
    return cycle[(place + 1) % cycle.length][1];
  }

  // When the step at a place of a round begins; the end of the round for the place behind the last.
  begins(round, place) {
    return this.time(round * this.total + (place < this.starts.length ? this.starts[place] : this.total));
  }

  time(ticks) {
    return over(minus(fraction(ticks), this.phase), this.timebase);
  }

  shown(place) {
    const [step, frame] = this.clip.cycle[place];
    return { step, frame };
  }

  // All that happens from a time on, in order.
  *happenings(start) {
    const { clip, total, phase, starts } = this;
    const position = sum(phase, times(latest(start, ZERO), this.timebase));
    if (!below(ZERO, start)) {
      const place = this.place(phase);
      const within = below(fraction(starts[place]), phase);
      if (clip.repeat === 0 || within) yield { time: ZERO, kind: "show", round: 0n, ...this.shown(place) };
    }
    if (clip.repeat === 0) return;
    for (let round = floor(over(position, fraction(total))); ; round++) {
      const begins = fraction(round * total);
      const time = this.time(begins.n);
      const passed = below(begins, position);
      if (!passed && below(phase, begins)) yield { time, kind: "cycle", round: round - 1n };
      if (clip.repeat !== null && round >= BigInt(clip.repeat)) {
        if (passed || round > BigInt(clip.repeat)) return;
        const behind = { time, kind: "show", round: round - 1n };
        yield { time, kind: "end", round: round - 1n };
        if (clip.end === "first") yield { ...behind, ...this.shown(0) };
        if (clip.end === "none") yield { ...behind, step: null, frame: null };
        return;
      }
      for (let place = 0; place < starts.length; place++) {
        const ticks = begins.n + starts[place];
        if (below(fraction(ticks), position)) continue;
        const shows = { time: this.time(ticks), kind: "show", round, ...this.shown(place) };
        yield shows;
        for (const { step, name } of clip.events) if (step === shows.step) yield { ...shows, kind: "event", name };
      }
    }
  }
}

// A clip and those that follow it, each from the time `since` on. One that plays forever is left at `leaveAt`.
class Chain {
  constructor(clip, byName, leaveAt = null) {
    this.clip = clip;
    this.parts = [];
    this.circle = null;
    const seen = new Map();
    let since = ZERO;
    let left = false;
    for (let next = clip; ; ) {
      const key = `${left} ${next.name}`;
      if (seen.has(key)) {
        this.circle = seen.get(key);
        break;
      }
      seen.set(key, this.parts.length);
      const player = new Player(next);
      let length = next.repeat === 0 ? null : player.length;
      const after = next.then === clip.name ? clip : byName.get(next.then);
      if (after && next.repeat === null && leaveAt !== null && !left) {
        length = latest(ZERO, minus(leaveAt, since));
        left = true;
      }
      this.parts.push({ player, since, length });
      if (!after || length === null) break;
      since = sum(since, length);
      next = after;
    }
    this.until = since;
    if (this.circle !== null && same(this.until, this.parts[this.circle].since)) this.circle = null;
  }

  // Whether it plays forever at first and could be left for another.
  get canBeLeft() {
    return this.parts.some(({ player: { clip } }) => clip.repeat === null && clip.then !== null);
  }

  // Which part plays at a time, and since when.
  part(time) {
    let shift = ZERO;
    if (this.circle !== null && !below(time, this.until)) {
      const begins = this.parts[this.circle].since;
      const length = minus(this.until, begins);
      shift = times(fraction(floor(over(minus(time, begins), length))), length);
      if (below(minus(time, shift), begins)) shift = minus(shift, length);
    }
    const within = minus(time, shift);
    let found = 0;
    for (let index = 1; index < this.parts.length; index++) if (!below(within, this.parts[index].since)) found = index;
    const { player, since, length } = this.parts[found];
    return { player, since: sum(since, shift), length, index: found };
  }

  at(time) {
    const part = this.part(time);
    return { ...part, moment: part.player.at(minus(time, part.since)) };
  }

  // The clips as they come to play, in a circle from the round on in which a time lies.
  *playing(start) {
    if (this.circle === null) return yield* this.parts;
    const { since } = this.parts[this.circle];
    const length = minus(this.until, since);
    let round = below(this.until, start) ? floor(over(minus(start, since), length)) : 0n;
    if (round <= 0n) yield* this.parts.slice(0, this.circle);
    for (round = round < 0n ? 0n : round; ; round++) {
      const shift = times(fraction(round), length);
      for (const part of this.parts.slice(this.circle)) yield { ...part, since: sum(part.since, shift) };
    }
  }

  // All that happens from a time on, in order, each with the name of its clip.
  *happenings(start) {
    const last = this.parts[this.parts.length - 1].player;
    for (const { player, since, length } of this.playing(start)) {
      const { name: clip, repeat } = player.clip;
      const ends = length === null ? null : sum(since, length);
      if (ends && below(ends, start)) continue;
      const goesOn = ends && (player !== last || this.circle !== null);
      for (const told of player.happenings(latest(ZERO, minus(start, since)))) {
        const closes = told.kind === "cycle" || told.kind === "end";
        if (goesOn && !below(told.time, length) && !(closes && same(told.time, length))) break;
        yield { ...told, time: sum(told.time, since), clip };
      }
      if (repeat === null && ends) yield { time: ends, kind: "end", round: player.at(length).round, clip };
    }
  }

  // What happens after one time and up to another, at most so much of it.
  between(after, until, most = 200) {
    const found = [];
    for (const told of this.happenings(after)) {
      if (found.length === most || below(until, told.time)) break;
      if (below(after, told.time)) found.push(told);
    }
    return found;
  }

  // When something happens next; null when nothing does any more.
  next(time) {
    for (const told of this.happenings(time)) if (below(time, told.time)) return told.time;
    return null;
  }

  // When the step before the one that shows began; 0 at the earliest.
  before(time) {
    if (!below(ZERO, time)) return ZERO;
    const { player, since, moment } = this.at(time);
    let begins;
    if (moment.ended) begins = sum(since, player.begins(moment.round, player.starts.length - 1));
    else begins = sum(since, player.begins(moment.round, moment.place));
    if (below(begins, since)) begins = since;
    if (below(begins, time)) return begins;
    return below(ZERO, since) || moment.place > 0 || moment.round > 0n ? this.just(begins) : ZERO;
  }

  // The beginning of what showed just before a step began.
  just(begins) {
    const tiny = fraction(1n, 10n ** 12n);
    if (!below(tiny, begins)) return ZERO;
    const { player, since, moment } = this.at(minus(begins, tiny));
    const found = sum(since, player.begins(moment.round, moment.place ?? player.starts.length - 1));
    return below(found, since) ? since : found;
  }
}

// A clock that runs at an exact speed, from an exact time on.
class Clock {
  constructor() {
    this.time = ZERO;
    this.speed = fraction(1);
    this.since = null;
  }
  get runs() {
    return this.since !== null;
  }
  // The time at a moment of the machine's own clock, in milliseconds.
  at(now) {
    if (this.since === null) return this.time;
    const passed = fraction(BigInt(max(0, round((now - this.since) * 1000))), 1000000n);
    return sum(this.time, times(passed, this.speed));
  }
  set(time, now) {
    this.time = time;
    if (this.runs) this.since = now;
  }
  run(now) {
    this.since ??= now;
  }
  stop(now) {
    this.time = this.at(now);
    this.since = null;
  }
  change(speed, now) {
    this.set(this.at(now), now);
    this.speed = speed;
  }
}
