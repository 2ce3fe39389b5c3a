// Several instances of clips, each with what it draws: the same rules as kivel/core/playback/chance.py and instances.py.
"use strict";

const WORD = (1n << 64n) - 1n;
const BEGINNING = [
  0x6a09e667f3bcc908n, 0xbb67ae8584caa73bn, 0x3c6ef372fe94f82bn, 0xa54ff53a5f1d36f1n,
  0x510e527fade682d1n, 0x9b05688c2b3e6c1fn, 0x1f83d9abfb41bd6bn, 0x5be0cd19137e2179n,
];
const ORDERS = [
  "0123456789abcdef", "ea489fd61c02b753", "b8c052fdae367194", "7931dcbe265a40f8", "905724afe1bc683d",
  "2c6a0b834d75fe19", "c51fed4a0763928b", "db7ec13950f4862a", "6fe9b308c2d714a5", "a2847615fb9e3cd0",
].map((text) => [...text].map((digit) => parseInt(digit, 16)));
const MIXES = ["048c", "159d", "26ae", "37bf", "05af", "16bc", "278d", "349e"].map((text) => [...text].map((digit) => parseInt(digit, 16)));
const turned = (word, bits) => ((word >> bits) | (word << (64n - bits))) & WORD;

// The first 64 bits of BLAKE2b (RFC 7693) with a digest of 8 bytes, of a text.
function digest(text) {
  const bytes = new TextEncoder().encode(text);
  const state = [...BEGINNING];
  state[0] ^= 0x01010008n;
  const blocks = max(1, ceil(bytes.length / 128));
  for (let block = 0; block < blocks; block++) {
    const padded = new Uint8Array(128);
    padded.set(bytes.subarray(block * 128, block * 128 + 128));
    const words = new BigUint64Array(16);
    const view = new DataView(padded.buffer);
    for (let place = 0; place < 16; place++) words[place] = view.getBigUint64(place * 8, true);
    const v = [...state, ...BEGINNING];
    const isLast = block + 1 === blocks;
    v[12] ^= BigInt(isLast ? bytes.length : block * 128 + 128);
    if (isLast) v[14] ^= WORD;
    for (let round = 0; round < 12; round++) {
      const order = ORDERS[round % 10];
      MIXES.forEach(([a, b, c, d], place) => {
        v[a] = (v[a] + v[b] + words[order[2 * place]]) & WORD;
        v[d] = turned(v[d] ^ v[a], 32n);
        v[c] = (v[c] + v[d]) & WORD;
        v[b] = turned(v[b] ^ v[c], 24n);
        v[a] = (v[a] + v[b] + words[order[2 * place + 1]]) & WORD;
        v[d] = turned(v[d] ^ v[a], 16n);
        v[c] = (v[c] + v[d]) & WORD;
        v[b] = turned(v[b] ^ v[c], 63n);
      });
    }
    for (let place = 0; place < 8; place++) state[place] ^= v[place] ^ v[place + 8];
  }
  const found = new DataView(new ArrayBuffer(8));
  found.setBigUint64(0, state[0], true);
  return found.getBigUint64(0);
}

// A number from 0n up to below `items`, each as likely as any other.
function drawn(items, seed, instance, purpose) {
  const fair = (1n << 64n) - ((1n << 64n) % items);
  for (let attempt = 0; ; attempt++) {
    const value = digest(`${purpose}\0${seed}\0${instance}\0${attempt}`);
    if (value < fair) return value % items;
  }
}

// So many instances of clips, or each of one that it draws from a group, by the group's weights.
function instancesOf(clips, byName, { count, seed, group = null, randomPhase = false, leaveAt = null }) {
  const found = [];
  for (let number = 0; number < count; number++) {
    const chosen = group === null ? clips : [clips[drawnPlace(group.weights ?? clips.map(() => 1), seed, number, `clip of ${group.name}`)]];
    for (const clip of chosen) {
      const own = randomPhase ? atRandomPhase(clip, seed, number) : clip;
      found.push({ number, chain: new Chain(own, byName, leaveAt) });
    }
  }
  return found;
}
function drawnPlace(weights, seed, number, purpose) {
  let left = Number(drawn(BigInt(weights.reduce((a, b) => a + b)), seed, number, purpose));
  return weights.findIndex((weight) => (left -= weight) < 0);
}
function atRandomPhase(clip, seed, number) {
  const ticks = clip.cycle.reduce((total, [, , hold]) => total + BigInt(hold), 0n);
  return { ...clip, phase: [drawn(ticks, seed, number, `phase of ${clip.name}`), 1n] };
}
