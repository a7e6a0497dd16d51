// The demo's music: "Ferry Shed", 20 bars of 4/4 at 104 BPM in G. Two bars of drums, a verse of eight, "Lanterns" of
// eight that lifts, a turn of two that rings out.
import type { Note } from './voices.ts';

export const BPM = 104;
export const BEAT = 60 / BPM;
export const BAR = 4 * BEAT;
export const SECONDS = 48;

type Chord = { readonly root: number; readonly tones: readonly number[] };
const chord = (root: number, ...tones: number[]): Chord => ({ root, tones });
const G = chord(43, 55, 59, 62, 67);
const Em = chord(40, 55, 59, 64, 67);
const C = chord(48, 55, 60, 64, 67);
const D = chord(50, 54, 57, 62, 66);
const Am = chord(45, 57, 60, 64, 69);
const Bm = chord(47, 54, 59, 62, 66);
const D7 = chord(38, 54, 57, 60, 62);

/** Chords bar by bar; the two drum bars wait on G. */
export const CHORDS: readonly Chord[] = [G, G, G, Em, C, D, G, Em, Am, D7, C, D, Bm, Em, C, D, G, G, C, G];

/** Which part a bar belongs to. */
export type Part = 'drums' | 'verse' | 'lanterns' | 'turn';
export const partOf = (bar: number): Part => (bar < 2 ? 'drums' : bar < 10 ? 'verse' : bar < 18 ? 'lanterns' : 'turn');

/** [beats from the start of the part, beats long, pitch]. */
type Phrase = readonly (readonly [number, number, number])[];

/** The verse's tune: two halves that answer each other. */
const VERSE: Phrase = [
  [0.5, 0.5, 67],
  [1, 1, 71],
  [2, 0.5, 69],
  [2.5, 1.3, 67],
  [4.5, 0.5, 67],
  [5, 1, 71],
  [6, 0.5, 72],
  [6.5, 1.3, 71],
  [8.5, 0.5, 72],
  [9, 1, 76],
  [10, 0.5, 74],
  [10.5, 1.3, 72],
  [12, 1, 74],
  [13, 0.5, 72],
  [13.5, 0.5, 71],
  [14, 1.8, 69],
  [16.5, 0.5, 67],
  [17, 1, 71],
  [18, 0.5, 69],
  [18.5, 1.3, 67],
  [20.5, 0.5, 71],
  [21, 1, 74],
  [22, 0.5, 72],
  [22.5, 1.3, 71],
  [24.5, 0.5, 69],
  [25, 1, 72],
  [26, 0.5, 71],
  [26.5, 1.3, 69],
  [28, 1.5, 74],
  [29.5, 0.5, 72],
  [30, 1.8, 69]
];
/** "Lanterns": longer notes, higher, off the beat. */
const LANTERNS: Phrase = [
  [0, 1.5, 76],
  [1.5, 0.5, 74],
  [2, 1.8, 72],
  [4, 1.5, 78],
  [5.5, 0.5, 76],
  [6, 1.8, 74],
  [8, 1, 74],
  [9, 1, 76],
  [10, 1.8, 78],
  [12, 1.5, 79],
  [13.5, 0.5, 78],
  [14, 1.8, 76],
  [16, 1.5, 76],
  [17.5, 0.5, 74],
  [18, 1.8, 72],
  [20, 1.5, 78],
  [21.5, 0.5, 76],
  [22, 1.8, 74],
  [24, 3, 79],
  [27, 0.5, 78],
  [27.5, 0.5, 76],
  [28, 3.6, 74]
];
const TURN: Phrase = [
  [0, 1, 76],
  [1, 1, 74],
  [2, 1.5, 72],
  [4, 5.5, 71]
];

const notes = (phrase: Phrase, bar: number, velocity: number, transpose = 0): Note[] =>
  phrase.map(([at, length, pitch]) => ({ at: bar * BAR + at * BEAT, length: length * BEAT, pitch: pitch + transpose, velocity }));

/** The sung tune. */
export const tune = (): Note[] => [...notes(VERSE, 2, 0.72), ...notes(LANTERNS, 10, 0.95), ...notes(TURN, 18, 0.8)];

/** The tenor pans: they play the tune in "Lanterns" and answer it in the verse. */
export function tenorPans(hand: 0 | 1, rnd: () => number): Note[] {
  const out: Note[] = [];
  for (let bar = 2; bar < 18; bar++) {
    const { tones } = CHORDS[bar];
    const at = bar * BAR;
    if (partOf(bar) === 'verse') {
      const answer = bar % 2 === 1 ? [2.5, 3, 3.25, 3.5, 3.75] : [0, 1.5, 3];
      answer.forEach(
        (beat, i) =>
          (i + hand) % 2 === 0 &&
          out.push({
            at: at + beat * BEAT + rnd() * 0.006,
            length: 0.5,
            pitch: tones[(i * 2 + bar) % 4] + 12,
            velocity: 0.5 + 0.1 * (i % 2)
          })
      );
    }
  }
  for (const note of [...notes(LANTERNS, 10, 0.8), ...notes(TURN, 18, 0.7)]) {
    // A roll: hands alternate in thirty-seconds while the note lasts.
    const strokes = Math.max(1, Math.floor(note.length / (BEAT / 8)));
    for (let i = hand; i < strokes; i += 2)
      out.push({
        at: note.at + (i * BEAT) / 8 + rnd() * 0.004,
        length: 0.4,
        pitch: note.pitch,
        velocity: note.velocity * (i < 2 ? 1 : 0.55)
      });
  }
  return out;
}

/** Double seconds strum the chords off the beat. */
export function doubleSeconds(hand: 0 | 1, rnd: () => number): Note[] {
  const out: Note[] = [];
  for (let bar = 1; bar < 19; bar++) {
    const { tones } = CHORDS[bar];
    const beats = partOf(bar) === 'lanterns' ? [0.5, 1.25, 1.5, 2.5, 3, 3.5] : [0.5, 1.5, 2.5, 3.5];
    for (const beat of beats)
      for (const tone of hand === 0 ? tones.slice(0, 2) : tones.slice(2))
        out.push({
          at: bar * BAR + beat * BEAT + rnd() * 0.008,
          length: 0.35,
          pitch: tone,
          velocity: 0.5 + (beat === 1.5 ? 0.15 : 0) + rnd() * 0.06
        });
  }
  for (const tone of hand === 0 ? [55, 59] : [62, 67]) out.push({ at: 19 * BAR, length: 2, pitch: tone, velocity: 0.6 });
  return out;
}

/** The guitar pan counts sixteenths, thinning out in the verse. */
export function guitarPan(rnd: () => number): Note[] {
  const out: Note[] = [];
  for (let bar = 2; bar < 19; bar++)
    for (let step = 0; step < 16; step++) {
      const lifted = partOf(bar) !== 'verse';
      if (![0, 3, 6, 10, 12].includes(step) && !(lifted && [8, 14, 15].includes(step))) continue;
      const { tones } = CHORDS[bar];
      out.push({
        at: bar * BAR + (step * BEAT) / 4 + rnd() * 0.005,
        length: 0.3,
        pitch: tones[(step + bar) % 3] - 12,
        velocity: step % 4 === 0 ? 0.65 : 0.45
      });
    }
  return out;
}

const bassOf = ({ root }: Chord) => (root > 47 ? root - 12 : root);

/** Bass pan and sousaphone share the floor: the pan dances, the horn walks. */
export function bassPan(rnd: () => number): Note[] {
  const out: Note[] = [];
  for (let bar = 2; bar < 19; bar++) {
    const root = bassOf(CHORDS[bar]);
    const steps: [number, number][] = [
      [0, 0],
      [1.5, 0],
      [2, 7],
      [3, 12],
      [3.5, 7]
    ];
    for (const [beat, up] of steps)
      out.push({
        at: bar * BAR + beat * BEAT + rnd() * 0.005,
        length: beat === 0 ? 1.2 : 0.6,
        pitch: root + up,
        velocity: beat === 0 ? 0.85 : 0.6
      });
  }
  out.push({ at: 19 * BAR, length: 3, pitch: 43, velocity: 0.9 });
  return out;
}
export function sousaphone(): Note[] {
  const out: Note[] = [];
  for (let bar = 6; bar < 19; bar++) {
    const root = bassOf(CHORDS[bar]);
    const walk = partOf(bar) === 'verse' ? [0, 7] : [0, 0, 7, 4];
    walk.forEach((up, i) =>
      out.push({
        at: bar * BAR + (i * 4 * BEAT) / walk.length,
        length: (2.6 * BEAT) / walk.length,
        pitch: root + up,
        velocity: i ? 0.6 : 0.8
      })
    );
  }
  out.push({ at: 19 * BAR, length: 1.8, pitch: 31, velocity: 0.85 });
  return out;
}

/** Trumpets and trombone: held back in the verse, stabs and a counter-line in "Lanterns". `part` 0 and 1 trumpets, 2 trombone. */
export function horns(part: 0 | 1 | 2): Note[] {
  const out: Note[] = [];
  const tone = (bar: number) => CHORDS[bar].tones[part === 2 ? 0 : 3 - part] + (part === 0 ? 12 : 0);
  for (const bar of [5, 9])
    for (const beat of [2, 2.75, 3.5]) out.push({ at: bar * BAR + beat * BEAT, length: 0.2, pitch: tone(bar), velocity: 0.6 });
  for (let bar = 10; bar < 18; bar++) {
    const stabs = bar % 4 === 3 ? [0, 0.75, 1.5, 2.5, 3] : [0, 1.5, 2.5];
    for (const beat of stabs)
      out.push({ at: bar * BAR + beat * BEAT, length: beat === 0 ? 0.5 : 0.22, pitch: tone(bar), velocity: 0.75 + (bar > 13 ? 0.15 : 0) });
  }
  out.push(
    { at: 18 * BAR, length: 3.4 * BEAT, pitch: tone(18), velocity: 0.8 },
    { at: 19 * BAR, length: 1.9, pitch: tone(19), velocity: 0.9 }
  );
  return out;
}

/** Choir: hums in the second half of the verse, opens in "Lanterns". `part` 0 soprano … 3 bass. */
export function choir(part: 0 | 1 | 2 | 3): Note[] {
  const out: Note[] = [];
  const shift = [12, 0, 0, -12][part];
  const index = [3, 1, 2, 0][part];
  for (let bar = 6; bar < 20; bar++) {
    const pitch = CHORDS[bar].tones[index] + shift;
    const lifted = partOf(bar) === 'lanterns';
    if (!lifted) out.push({ at: bar * BAR, length: BAR * 0.94 * (bar === 19 ? 0.8 : 1), pitch, velocity: 0.5 });
    else
      for (const [beat, length] of [
        [0, 2.4],
        [2.5, 1.3]
      ] as const)
        out.push({ at: bar * BAR + beat * BEAT, length: length * BEAT, pitch, velocity: 0.85 });
  }
  return out;
}

/** Strokes: [sixteenth, velocity] by part, for one bar. */
type Strokes = readonly (readonly [number, number])[];
const PATTERNS: Record<string, { plain: Strokes; lifted: Strokes }> = {
  low: {
    plain: [
      [0, 1],
      [8, 0.75],
      [14, 0.4]
    ],
    lifted: [
      [0, 1],
      [6, 0.5],
      [8, 0.85],
      [14, 0.6]
    ]
  },
  high: {
    plain: [
      [4, 0.9],
      [12, 0.9],
      [15, 0.35]
    ],
    lifted: [
      [4, 0.95],
      [10, 0.4],
      [12, 1],
      [15, 0.5]
    ]
  },
  caixa: {
    plain: [
      [0, 0.5],
      [2, 0.3],
      [3, 0.6],
      [4, 0.35],
      [6, 0.7],
      [8, 0.4],
      [10, 0.3],
      [11, 0.6],
      [12, 0.35],
      [14, 0.75]
    ],
    lifted: [
      [0, 0.7],
      [1, 0.3],
      [2, 0.4],
      [3, 0.8],
      [4, 0.4],
      [5, 0.3],
      [6, 0.85],
      [7, 0.3],
      [8, 0.6],
      [10, 0.4],
      [11, 0.8],
      [12, 0.4],
      [13, 0.3],
      [14, 0.9],
      [15, 0.4]
    ]
  },
  repique: {
    plain: [
      [3, 0.5],
      [6, 0.7],
      [10, 0.5]
    ],
    lifted: [
      [0, 0.5],
      [3, 0.8],
      [5, 0.4],
      [6, 0.9],
      [9, 0.4],
      [10, 0.7],
      [13, 0.6],
      [14, 0.4]
    ]
  }
};

/** Hits of a drum through the song: fills at the ends of parts, a last stroke on the final bar. */
export function strokes(drum: keyof typeof PATTERNS, rnd: () => number): { at: number; velocity: number }[] {
  const out: { at: number; velocity: number }[] = [];
  const { plain, lifted } = PATTERNS[drum];
  for (let bar = 0; bar < 19; bar++) {
    const fill = bar === 1 || bar === 9 || bar === 17;
    const pattern = partOf(bar) === 'lanterns' || fill ? lifted : plain;
    if (bar === 0 && drum === 'repique') continue;
    for (const [step, velocity] of pattern)
      out.push({ at: bar * BAR + (step * BEAT) / 4 + (step % 2 ? 0.012 : 0) + rnd() * 0.004, velocity: velocity * (1 + rnd() * 0.08) });
    if (fill && drum !== 'low') for (let i = 0; i < 4; i++) out.push({ at: bar * BAR + (3 + i / 4) * BEAT, velocity: 0.5 + i * 0.15 });
  }
  out.push({ at: 19 * BAR, velocity: 1 });
  return out;
}

/** Shaker strokes in sixteenths, accents on the off-beats. */
export function shakes(rnd: () => number): { at: number; velocity: number }[] {
  const out: { at: number; velocity: number }[] = [];
  for (let step = 0; step < 19 * 16; step++) {
    const bar = Math.floor(step / 16);
    const accent = [0.3, 0.2, 0.75, 0.25][step % 4] * (partOf(bar) === 'lanterns' ? 1.15 : 0.9);
    out.push({ at: (step * BEAT) / 4 + (step % 2 ? 0.014 : 0) + rnd() * 0.005, velocity: accent * (1 + rnd() * 0.1) });
  }
  return out;
}
