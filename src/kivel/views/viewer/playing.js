// What a clip shows at a moment, exact: times are fractions of whole numbers, {n, d} in seconds.
// The same rules as kivel/core/playback/player.py and following.py, against which they are tested.
"use strict";

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

  // The place in the cycle that shows at so many ticks of it.
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
    const ticks = round * this.total + (place < this.starts.length ? this.starts[place] : this.total);
    return over(minus(fraction(ticks), this.phase), this.timebase);
  }
}

// A clip and those that follow it, each from the time `since` on.
class Chain {
  constructor(clip, byName) {
    this.parts = [];
    this.circle = null;
    const seen = new Map();
    let since = ZERO;
    for (let next = clip; ; ) {
      if (seen.has(next.name)) {
        this.circle = seen.get(next.name);
        break;
      }
      seen.set(next.name, this.parts.length);
      const player = new Player(next);
      const length = next.repeat === 0 ? null : player.length;
      this.parts.push({ player, since, length });
      const after = next.then === null ? undefined : byName.get(next.then);
      if (!after || length === null) break;
      since = sum(since, length);
      next = after;
    }
    this.until = since;
    if (this.circle !== null && same(this.until, this.parts[this.circle].since)) this.circle = null;
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

  // What happens after one time and up to another: steps that begin to show, events, cycles and ends, at most so many.
  between(after, until, most = 200) {
    const found = [];
    let time = after;
    while (found.length < most) {
      const next = this.next(time);
      if (next === null || below(until, next)) break;
      const { player, since, moment } = this.at(next);
      const name = player.clip.name;
      if (moment.ended) {
        found.push({ time: next, kind: "end", clip: name });
      } else {
        if (moment.place === 0 && below(since, next)) found.push({ time: next, kind: "cycle", clip: name });
        found.push({ time: next, kind: "show", clip: name, frame: moment.frame, step: moment.step });
        for (const event of player.clip.events)
          if (event.step === moment.step) found.push({ time: next, kind: "event", clip: name, name: event.name });
      }
      time = next;
    }
    return found;
  }

  // When the next step begins to show, or the clip ends; null when nothing happens any more.
  next(time) {
    const { player, since, length, moment } = this.at(time);
    const over = length === null ? null : sum(since, length);
    if (moment.ended || player.clip.repeat === 0) return null;
    const begins = sum(since, player.begins(moment.round, moment.place + 1));
    return over !== null && below(over, begins) ? over : begins;
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
    const passed = fraction(BigInt(Math.max(0, Math.round((now - this.since) * 1000))), 1000000n);
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
