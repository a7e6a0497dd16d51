// Who can send.
import type { Channel } from '../session/entities.ts';

/** Whether a channel's signal can be sent on. */
export const canSend = ({ kind }: Channel): boolean => kind !== 'cue' && kind !== 'key' && kind !== 'vca';
export const cannotSend = ({ kind, name }: Channel): string =>
  kind === 'cue'
    ? `${name} is a cue: players hear it, and nothing else does.`
    : kind === 'vca'
      ? `${name} is a VCA: no audio goes through it.`
      : `${name} is a key track: only key inputs hear it.`;
