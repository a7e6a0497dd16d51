// The demo's recordings: which file holds which instrument, under the poor names they arrive with.
import { BAR, bassPan, choir, doubleSeconds, guitarPan, horns, SECONDS, shakes, sousaphone, strokes, tenorPans, tune } from './score.ts';
import { brass, drum, pan, random, RATE, rattle, shake, shed, voice, type Note, type Vowel } from './voices.ts';

export type Recording = { readonly file: string; readonly channels: readonly Float32Array[] };

const FRAMES = SECONDS * RATE;
/** Amplitude of the band in the voices' microphones. */
const BLEED = 0.006;
const VOWEL_PAIRS: readonly (readonly [Vowel, Vowel])[] = [
  ['ah', 'oh'],
  ['oh', 'ah'],
  ['ee', 'ah'],
  ['oo', 'oh'],
  ['ah', 'ee']
];

/** Fills a new track by seed. */
const track = (seed: number, fill: (out: Float32Array, rnd: () => number) => void): Float32Array => {
  const out = new Float32Array(FRAMES);
  fill(out, random(seed));
  return out;
};

const pans = (notes: (rnd: () => number) => Note[], brightness: number, seed: number) =>
  track(seed, (out, rnd) => notes(rnd).forEach((note) => pan(out, note, rnd, brightness)));

const horn = (notes: Note[], seed: number, character: Parameters<typeof brass>[3]) =>
  track(seed, (out, rnd) => notes.forEach((note) => brass(out, note, rnd, character)));

const singers = (notes: Note[], seed: number, count: number, singer: Parameters<typeof voice>[4]) =>
  track(seed, (out, rnd) =>
    notes.forEach((note, i) => {
      for (let n = 0; n < count; n++)
        voice(out, note, VOWEL_PAIRS[(i + n) % (count > 1 ? 2 : 5)], rnd, {
          ...singer,
          size: singer.size * (1 + n * 0.03),
          late: (singer.late ?? 0) + n * 0.008
        });
    })
  );

/** The spoken slate: a few syllables before the count. */
const slate = track(90, () => undefined);
const speak = (out: Float32Array, rnd: () => number) =>
  (
    [
      [0.15, 46],
      [0.33, 48],
      [0.52, 45],
      [0.8, 43],
      [1.02, 47],
      [1.2, 42]
    ] as const
  ).forEach(([at, pitch], i) =>
    voice(out, { at, length: 0.11, pitch, velocity: 0.7 }, VOWEL_PAIRS[i % 5], rnd, { size: 0.95, level: 0.09, vibrato: 0 })
  );

/** A file whose highest peak is at `peak` dBFS, as a careful recordist would leave it. */
function at(peak: number, file: string, ...channels: Float32Array[]): Recording {
  let highest = 0;
  for (const side of channels) for (const x of side) highest = Math.max(highest, Math.abs(x));
  const scale = 10 ** (peak / 20) / highest;
  return { file, channels: channels.map((side) => side.map((x) => x * scale)) };
}

/** All recordings, in the order the files arrive. Peaks lie between −21 and −10 dBFS: flat at unity, the sum stays under full scale. */
export function recordings(): Recording[] {
  speak(slate, random(91));
  const low = track(1, (out, rnd) =>
    strokes('low', rnd).forEach(({ at, velocity }) =>
      drum(out, at, velocity, { low: 62, high: 110, decay: 0.75, slap: 0.08, tone: 900 }, rnd)
    )
  );
  const high = track(2, (out, rnd) =>
    strokes('high', rnd).forEach(({ at, velocity }) =>
      drum(out, at, velocity, { low: 88, high: 150, decay: 0.5, slap: 0.12, tone: 1200 }, rnd)
    )
  );
  const caixa = track(3, (out, rnd) =>
    strokes('caixa', rnd).forEach(({ at, velocity }) => {
      drum(out, at, velocity * 0.5, { low: 190, high: 260, decay: 0.12, slap: 0.3, tone: 2600 }, rnd);
      rattle(out, at, velocity * 0.5, 5200, 0.13, rnd);
    })
  );
  const repique = track(4, (out, rnd) =>
    strokes('repique', rnd).forEach(({ at, velocity }) =>
      drum(out, at, velocity * 0.8, { low: 310, high: 420, decay: 0.16, slap: 0.3, tone: 3100 }, rnd)
    )
  );
  const shakerL = track(5, (out, rnd) => shakes(rnd).forEach(({ at, velocity }) => shake(out, at, velocity * 0.8, 6800, rnd)));
  const shakerR = track(6, (out, rnd) => shakes(rnd).forEach(({ at, velocity }) => shake(out, at + 0.004, velocity * 0.75, 8200, rnd)));
  const bass = pans(bassPan, 0.5, 7);
  const guitar = pans(guitarPan, 0.7, 8);
  const seconds = [0, 1].map((hand) => pans((rnd) => doubleSeconds(hand as 0 | 1, rnd), 0.85, 9 + hand));
  const tenors = [0, 1].map((hand) => pans((rnd) => tenorPans(hand as 0 | 1, rnd), 1, 11 + hand));
  const sousa = horn(sousaphone(), 13, { body: 420, level: 0.16, attack: 0.05 });
  const bone = horn(horns(2), 14, { body: 1100, level: 0.12, attack: 0.035 });
  const trumpets = [0, 1].map((part) => horn(horns(part as 0 | 1), 15 + part, { body: 2300, level: 0.1, attack: 0.022 }));
  const choirs = ([0, 1, 2, 3] as const).map((part) =>
    singers(choir(part), 17 + part, 3, { size: [1.14, 1.06, 0.97, 0.92][part], level: 0.028, vibrato: 14, late: 0.01 })
  );
  const lead = singers(tune(), 21, 1, { size: 1.05, level: 0.1, vibrato: 22 });
  const double = singers(
    tune().filter((note) => note.at >= 10 * BAR),
    22,
    1,
    { size: 1.02, level: 0.09, vibrato: 16, late: 0.018 }
  );
  const everything = [low, high, caixa, repique, shakerL, bass, guitar, ...seconds, ...tenors, sousa, bone, ...trumpets, ...choirs, lead];
  const sum = new Float32Array(FRAMES);
  for (const each of everything) for (let i = 0; i < FRAMES; i++) sum[i] += each[i] * 0.11;
  const room = ([0, 1] as const).map((side) => shed(sum, side, random(23 + side)));
  // What the voices' microphones hear of the band beside them, some 30 dB below what is sung.
  const band = new Float32Array(FRAMES);
  for (const each of [low, high, caixa, repique, shakerL, bass, guitar, ...seconds, ...tenors, sousa, bone, ...trumpets])
    for (let i = 0; i < FRAMES; i++) band[i] += each[i];
  for (const [each, share] of [[lead, BLEED], [double, BLEED], ...choirs.map((part) => [part, BLEED * 0.8] as const)] as const)
    for (let i = 0; i < FRAMES; i++) each[i] += band[i] * share;
  const hiss = random(99);
  for (const each of [lead, double, ...choirs, ...room]) for (let i = 0; i < FRAMES; i++) each[i] += hiss() * 0.00006;

  return [
    at(-21, 'AUD_0001.wav', slate),
    at(-10, 'AUD_0003_surdo.wav', low),
    at(-10, 'AUD_0003_surdo(1).wav', high),
    at(-11, 'AUD_0004_take3.wav', caixa),
    at(-12, 'repq tk3.wav', repique),
    at(-18, 'shk1.wav', shakerL),
    at(-18, 'shk2_OK.wav', shakerR),
    at(-12, 'AUD_0007_take3.wav', bass),
    at(-15, 'gtr pan.wav', guitar),
    at(-14, 'dbl sec L_01.wav', seconds[0]),
    at(-14, 'dbl sec R_01.wav', seconds[1]),
    at(-13, 'pan tenor L (2).wav', tenors[0]),
    at(-13, 'pan tenor R (2).wav', tenors[1]),
    at(-13, 'Sousa_new.wav', sousa),
    at(-14, 'AUD_0012 tbn.wav', bone),
    at(-14, 'TPT1-final.wav', trumpets[0]),
    at(-14, 'TPT2-final2.wav', trumpets[1]),
    at(-16, 'chr_S.wav', choirs[0]),
    at(-16, 'chr_A.wav', choirs[1]),
    at(-16, 'chr_T.wav', choirs[2]),
    at(-15, 'chr_B dup.wav', choirs[3]),
    at(-12, 'ldvox_t7.wav', lead),
    at(-14, 'ldvox dbl.wav', double),
    at(-19, 'ROOM_AB stereo.wav', ...room)
  ];
}
