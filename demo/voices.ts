// The demo's instruments: small synthesisers that add notes to a track. Everything is computed from seeds; nothing is recorded.

export const RATE = 48000;
const TAU = 2 * Math.PI;

/** Uniform random numbers −1 … 1 from a seed (Mulberry32). */
export function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2147483648 - 1;
  };
}

export const pitch = (midi: number): number => 440 * 2 ** ((midi - 69) / 12);

/** A note: seconds, MIDI pitch, velocity 0 … 1. */
export type Note = { readonly at: number; readonly length: number; readonly pitch: number; readonly velocity: number };

/** Adds a damped partial, by the two-multiply resonator. */
function partial(out: Float32Array, start: number, frequency: number, decay: number, level: number): void {
  if (frequency > RATE * 0.45) return;
  const r = Math.exp(-6.91 / (decay * RATE));
  const b = 2 * r * Math.cos((TAU * frequency) / RATE);
  const end = Math.min(out.length, start + Math.floor(decay * 1.3 * RATE));
  let [y1, y2] = [0, -level * Math.sin((TAU * frequency) / RATE)];
  for (let i = Math.max(0, start); i < end; i++) {
    const y = b * y1 - r * r * y2;
    y2 = y1;
    y1 = y;
    out[i] += y;
  }
}

/** Adds a burst of band-passed noise. */
function burst(
  out: Float32Array,
  start: number,
  seconds: number,
  centre: number,
  q: number,
  level: number,
  rnd: () => number,
  attack = 0.001
): void {
  const g = Math.tan((Math.PI * centre) / RATE);
  const k = 1 / q;
  const a1 = 1 / (1 + g * (g + k));
  let [z1, z2] = [0, 0];
  const frames = Math.floor(seconds * RATE);
  for (let i = 0; i < frames && start + i < out.length; i++) {
    const t = i / RATE;
    const env = Math.min(1, t / attack) * Math.exp((-6.9 * t) / seconds);
    const v3 = rnd() - z2;
    const v1 = a1 * z1 + g * a1 * v3;
    const v2 = z2 + g * v1;
    z1 = 2 * v1 - z1;
    z2 = 2 * v2 - z2;
    if (start + i >= 0) out[start + i] += v1 * k * env * level;
  }
}

/** A steel pan: a bright strike, octave and twelfth tuned on the note's own skin, upper modes a little off. */
export function pan(out: Float32Array, note: Note, rnd: () => number, brightness: number): void {
  const f = pitch(note.pitch) * (1 + rnd() * 0.0012);
  const start = Math.floor(note.at * RATE);
  const ring = Math.min(2.6, Math.max(0.35, note.length * 1.6)) * (note.pitch < 55 ? 1.4 : 1);
  const v = note.velocity;
  const modes: [number, number, number][] = [
    [1, 1, 1],
    [2.003, 0.62 * (0.5 + v / 2), 0.7],
    [2.99, 0.28 * v * brightness, 0.45],
    [4.02, 0.2 * v * brightness, 0.3],
    [5.43, 0.09 * v * v * brightness, 0.18],
    [6.79, 0.06 * v * v * brightness, 0.12]
  ];
  for (const [ratio, level, decay] of modes) partial(out, start, f * ratio, ring * decay, level * v * 0.22);
  burst(out, start, 0.03, Math.min(5200, f * 5), 0.8, 0.25 * v * brightness, rnd);
}

/** A skin: a falling sine and a slap. */
export function drum(
  out: Float32Array,
  at: number,
  velocity: number,
  shape: { low: number; high: number; decay: number; slap: number; tone: number },
  rnd: () => number
): void {
  const start = Math.floor(at * RATE);
  const frames = Math.floor(shape.decay * 1.4 * RATE);
  let phase = 0;
  for (let i = 0; i < frames && start + i < out.length; i++) {
    const t = i / RATE;
    phase += (shape.low + (shape.high - shape.low) * Math.exp(-t * 38)) / RATE;
    const x = Math.sin(TAU * phase) * Math.exp((-6.2 * t) / shape.decay) * Math.min(1, t * 900) * velocity * 0.62;
    if (start + i >= 0) out[start + i] += x;
  }
  burst(out, start, 0.05 + 0.06 * velocity, shape.tone, 0.7, shape.slap * velocity, rnd);
}

/** Snares or jingles: a longer rattle. */
export const rattle = (out: Float32Array, at: number, velocity: number, tone: number, seconds: number, rnd: () => number): void =>
  burst(out, Math.floor(at * RATE), seconds, tone, 0.6, velocity, rnd, 0.0015);

/** A shaker stroke: the beads rise, then land. */
export function shake(out: Float32Array, at: number, velocity: number, tone: number, rnd: () => number): void {
  burst(out, Math.floor((at - 0.035) * RATE), 0.07, tone * 0.8, 1.1, velocity * 0.25, rnd, 0.03);
  burst(out, Math.floor(at * RATE), 0.075, tone, 1.3, velocity * 0.8, rnd, 0.002);
}

const TABLE = 2048;

/** One period of a wave from harmonic levels. */
function table(levels: readonly number[]): Float32Array {
  const out = new Float32Array(TABLE + 1);
  levels.forEach((level, i) => {
    if (level === 0) return;
    const step = (TAU * (i + 1)) / TABLE;
    for (let n = 0; n <= TABLE; n++) out[n] += level * Math.sin(step * n + i * 0.7);
  });
  return out;
}

const harmonics = (f: number, level: (h: number, hz: number) => number): number[] =>
  Array.from({ length: Math.min(60, Math.floor((RATE * 0.42) / f)) }, (_, i) => level(i + 1, (i + 1) * f));

/** Plays two tables cross-faded by `colour(t)`, with an amplitude and a pitch that may wander. */
function waves(
  out: Float32Array,
  note: Note,
  [dark, bright]: readonly [Float32Array, Float32Array],
  shape: { level: (t: number) => number; colour: (t: number) => number; cents: (t: number) => number }
): void {
  const start = Math.floor(note.at * RATE);
  const frames = Math.floor((note.length + 0.25) * RATE);
  const f = pitch(note.pitch);
  const CONTROL = 64;
  let phase = 0;
  let level = shape.level(0);
  for (let at = 0; at < frames; at += CONTROL) {
    const t = at / RATE;
    const step = (f * 2 ** (shape.cents(t) / 1200) * TABLE) / RATE;
    const mix = Math.max(0, Math.min(1, shape.colour(t)));
    const next = shape.level(t + CONTROL / RATE);
    const rise = (next - level) / CONTROL;
    for (let i = at; i < at + CONTROL; i++) {
      const whole = Math.floor(phase);
      const share = phase - whole;
      const d = dark[whole] + (dark[whole + 1] - dark[whole]) * share;
      const b = bright[whole] + (bright[whole + 1] - bright[whole]) * share;
      if (start + i >= 0 && start + i < out.length) out[start + i] += (d + (b - d) * mix) * level;
      level += rise;
      phase += step;
      if (phase >= TABLE) phase -= TABLE;
    }
  }
}

const envelope = (length: number, attack: number, release: number) => (t: number) =>
  t < attack ? t / attack : t < length ? 1 - 0.15 * Math.min(1, (t - attack) / 0.4) : Math.max(0, 0.85 * (1 - (t - length) / release));

/** Brass: the louder, the brighter; a small scoop at the start, vibrato on long notes. */
export function brass(out: Float32Array, note: Note, rnd: () => number, character: { body: number; level: number; attack: number }): void {
  const f = pitch(note.pitch);
  const tone = (edge: number) =>
    table(harmonics(f, (h, hz) => (1 / h ** edge) * (1 / (1 + (hz / character.body) ** 2)) * (hz < 180 ? 0.8 : 1)));
  const rate = 4.8 + rnd() * 0.4;
  const drift = rnd() * 6;
  const env = envelope(note.length, character.attack, 0.09);
  waves(out, note, [tone(1.6), tone(0.7)], {
    level: (t) => env(t) * note.velocity * character.level,
    colour: (t) => env(t) * note.velocity * (t < 0.12 ? 1.1 : 0.75),
    cents: (t) => drift - 45 * Math.exp(-t * 26) + Math.max(0, Math.min(1, (t - 0.35) * 3)) * 9 * Math.sin(TAU * rate * t)
  });
  burst(out, Math.floor(note.at * RATE), 0.04, 1400, 0.7, 0.03 * note.velocity, rnd, 0.008);
}

/** Formants of sung vowels: Hz, level, bandwidth. Ranges after the usual phonetics tables, rounded. */
const VOWELS = {
  ah: [
    [760, 1, 110],
    [1180, 0.55, 120],
    [2650, 0.2, 180],
    [3300, 0.16, 220]
  ],
  oh: [
    [460, 1, 80],
    [830, 0.5, 90],
    [2550, 0.12, 170],
    [3200, 0.12, 220]
  ],
  ee: [
    [300, 1, 60],
    [2250, 0.35, 150],
    [2950, 0.3, 180],
    [3500, 0.2, 230]
  ],
  oo: [
    [330, 1, 60],
    [720, 0.3, 90],
    [2400, 0.06, 160],
    [3100, 0.06, 220]
  ]
} as const;
export type Vowel = keyof typeof VOWELS;

const sung = (f: number, vowel: Vowel, size: number) =>
  table(
    harmonics(
      f,
      (h, hz) =>
        VOWELS[vowel].reduce((sum, [centre, level, width]) => sum + level / (1 + ((hz - centre * size) / width) ** 2), 0.02) / h ** 0.55
    )
  );

/** A voice: source and formants, vibrato that comes late, a breath before long notes, a glide from below. */
export function voice(
  out: Float32Array,
  note: Note,
  vowels: readonly [Vowel, Vowel],
  rnd: () => number,
  singer: { size: number; level: number; vibrato: number; late?: number }
): void {
  const f = pitch(note.pitch);
  const rate = 5.2 + rnd() * 0.5;
  const drift = rnd() * 8;
  const phase = rnd() * Math.PI;
  const env = envelope(note.length, 0.07 + (rnd() + 1) * 0.02, 0.16);
  const shifted = { ...note, at: note.at + (singer.late ?? 0) + rnd() * 0.012 };
  const loud = note.velocity * singer.level;
  waves(out, shifted, [sung(f, vowels[0], singer.size), sung(f, vowels[1], singer.size)], {
    level: (t) => env(t) * loud,
    colour: (t) => Math.min(1, t / Math.max(0.2, note.length * 0.7)),
    cents: (t) => drift - 60 * Math.exp(-t * 18) + Math.min(1, t * 1.6) * singer.vibrato * Math.sin(TAU * rate * t + phase)
  });
  burst(out, Math.floor(shifted.at * RATE), 0.08, 5200, 0.8, 0.05 * loud, rnd, 0.01);
  if (note.length > 0.9) burst(out, Math.floor((shifted.at - 0.32) * RATE), 0.3, 2600, 0.6, 0.03 * loud, rnd, 0.2);
}

/** A shed: early reflections and a short diffuse decay over a sum of tracks, one side. */
export function shed(dry: Float32Array, side: 0 | 1, rnd: () => number): Float32Array {
  const out = new Float32Array(dry.length);
  for (let i = 0; i < 9; i++) {
    const delay = Math.floor((0.011 + 0.013 * i + (rnd() + 1) * 0.004) * RATE);
    const level = 0.4 * 0.8 ** i * (i % 2 === side ? 1 : 0.7);
    for (let n = delay; n < out.length; n++) out[n] += dry[n - delay] * level;
  }
  const combs = [0.0437, 0.0531, 0.0613, 0.0709].map((seconds, i) => Math.floor((seconds + (side ? 0.0013 : 0) * (i + 1)) * RATE));
  const early = out.slice();
  for (const length of combs) {
    const ring = new Float32Array(length);
    let low = 0;
    for (let n = 0, at = 0; n < out.length; n++, at = at + 1 === length ? 0 : at + 1) {
      low += 0.35 * (ring[at] - low);
      ring[at] = early[n] + low * 0.74;
      out[n] += low * 0.22;
    }
  }
  return out;
}
