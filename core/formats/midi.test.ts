// MIDI files: notes where they are, and clear words for what is none.
import { expect, it } from 'vitest';
import { notesOf } from './midi.ts';

const track = (...events: number[]) => {
  const body = [...events, 0, 0xff, 0x2f, 0];
  return [0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, body.length, ...body];
};
const file = (division: [number, number], ...tracks: number[][]) =>
  Uint8Array.from([0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 1, 0, tracks.length, ...division, ...tracks.flat()]);

it('reads notes of all tracks, with running status, tempo events and long waits passed over', () => {
  const midi = file(
    [0, 96],
    track(0, 0xff, 0x51, 3, 7, 0xa1, 0x20, 0, 0x90, 60, 127, 48, 60, 0, 0x81, 0x40, 62, 64),
    track(96, 0xc0, 5, 0, 0x91, 40, 32, 0, 0xf0, 2, 1, 0xf7, 0, 0x91, 41, 100)
  );
  const read = notesOf(midi);
  // 0x81 0x40 is 192 ticks after 48: two and a half quarters.
  expect(read).toEqual({ ok: true, value: { at: [0, 1, 2.5], velocity: [1, 100 / 127, 64 / 127] } });
});

it('says what is wrong of anything else, wherever it is cut', () => {
  const midi = file([0, 96], track(0, 0x90, 60, 127, 96, 0x80, 60, 0));
  const words = (bytes: Uint8Array) => {
    const read = notesOf(bytes);
    return read.ok ? 'read' : read.error.message;
  };
  expect(words(midi)).toBe('read');
  for (let length = 0; length < midi.length; length++) expect(words(midi.subarray(0, length))).not.toBe('read');
  expect(words(file([0xe7, 0x28], track()))).toContain('quarter notes');
  expect(words(file([0, 96], track()))).toContain('no notes');
  expect(words(new TextEncoder().encode('RIFF is something else'))).toContain('no header');
});
