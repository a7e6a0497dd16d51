// Sessions of files with given names, for tests of sorting: the demo's heap among them.
import type { Command } from '../../core/commands/index';
import { planBatch } from '../../core/commands/plan';
import { newSession } from '../../core/session/create';
import { commit } from '../../core/session/changes';
import type { Session } from '../../core/session/entities';

export const DEMO = [
  'AUD_0001.wav',
  'AUD_0003_surdo.wav',
  'AUD_0003_surdo(1).wav',
  'AUD_0004_take3.wav',
  'repq tk3.wav',
  'shk1.wav',
  'shk2_OK.wav',
  'AUD_0007_take3.wav',
  'gtr pan.wav',
  'dbl sec L_01.wav',
  'dbl sec R_01.wav',
  'pan tenor L (2).wav',
  'pan tenor R (2).wav',
  'Sousa_new.wav',
  'AUD_0012 tbn.wav',
  'TPT1-final.wav',
  'TPT2-final2.wav',
  'chr_S.wav',
  'chr_A.wav',
  'chr_T.wav',
  'chr_B dup.wav',
  'ldvox_t7.wav',
  'ldvox dbl.wav',
  'ROOM_AB stereo.wav'
];

export function sessionOf(files: readonly string[]): Session {
  const session = newSession({ name: 'Heap' });
  const tracks = files.map((name, i) => ({
    id: `t${i + 1}`,
    name: name.replace(/\.\w+$/, ''),
    colour: 7,
    media: {
      id: `m${i}`,
      name,
      sha256: String(i).padStart(64, '0'),
      rate: 48000,
      channels: name.includes('stereo') ? 2 : 1,
      frames: 480,
      encoding: 's24' as const,
      peakDb: -12,
      origin: null
    }
  }));
  if (tracks.length) act(session, { do: 'tracks.add', tracks });
  return session;
}
export function act(session: Session, ...commands: Command[]): string {
  const planned = planBatch(session, commands);
  if (!planned.ok) throw new Error(planned.error.message);
  commit(session, planned.value.changes);
  return planned.value.label;
}
