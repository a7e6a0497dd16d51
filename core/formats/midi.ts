// Standard MIDI Files (MIDI 1.0, RP-001): the notes of all tracks as positions in quarter notes with their velocities.
import { ok, refuse, type Result } from '../result.ts';

export type Notes = { readonly at: number[]; readonly velocity: number[] };

const bad = (what: string) => refuse('not-midi', `This is not a MIDI file that can be read: ${what}.`);

/** Positions in quarter notes, sorted; velocities 0 … 1. Of notes that begin together the loudest counts. */
export function notesOf(bytes: Uint8Array): Result<Notes> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tag = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 14 || tag(0) !== 'MThd' || view.getUint32(4) < 6) return bad('it has no header');
  const division = view.getUint16(12);
  if (division === 0 || division & 0x8000) return bad('its times are not in quarter notes');
  const found = new Map<number, number>();
  for (let at = 8 + view.getUint32(4); at + 8 <= bytes.length;) {
    const end = at + 8 + view.getUint32(at + 4);
    if (end > bytes.length) return bad('it ends early');
    if (tag(at) === 'MTrk' && !readTrack(bytes.subarray(at + 8, end), division, found)) return bad('one of its tracks is broken');
    at = end;
  }
  const sorted = [...found].sort(([a], [b]) => a - b);
  if (sorted.length === 0) return refuse('empty', 'This MIDI file has no notes.');
  return ok({ at: sorted.map(([time]) => time), velocity: sorted.map(([, velocity]) => velocity) });
}

/** Puts a track's notes into `found`; whether it could be read. */
function readTrack(bytes: Uint8Array, division: number, found: Map<number, number>): boolean {
  let at = 0;
  let ticks = 0;
  let status = 0;
  /** A variable-length quantity, at most four bytes; −1 where it does not end. */
  const quantity = (): number => {
    let value = 0;
    for (let i = 0; i < 4; i++) {
      if (at >= bytes.length) return -1;
      const byte = bytes[at++];
      value = value * 128 + (byte & 127);
      if (byte < 128) return value;
    }
    return -1;
  };
  while (at < bytes.length) {
    const wait = quantity();
    if (wait < 0 || at >= bytes.length) return false;
    ticks += wait;
    if (bytes[at] >= 0x80) status = bytes[at++];
    if (status === 0xff || status === 0xf0 || status === 0xf7) {
      const kind = status === 0xff ? bytes[at++] : 0;
      const length = quantity();
      if (length < 0 || at + length > bytes.length) return false;
      at += length;
      if (status === 0xff && kind === 0x2f) return true;
      status = 0;
      continue;
    }
    const event = status & 0xf0;
    if (event < 0x80) return false;
    if (at + (event === 0xc0 || event === 0xd0 ? 1 : 2) > bytes.length) return false;
    if (event === 0x90 && bytes[at + 1] > 0) {
      const time = ticks / division;
      found.set(time, Math.max(found.get(time) ?? 0, bytes[at + 1] / 127));
    }
    at += event === 0xc0 || event === 0xd0 ? 1 : 2;
  }
  return true;
}
