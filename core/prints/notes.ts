// What is said of an order that can be printed but may not be what is meant: versions that are silent, or the same as another file.
import type { Session } from '../session/entities.ts';
import { silentVersion } from './inPlace.ts';
import type { PlannedFile } from './order.ts';
import { alikes } from './usual.ts';

/** `orderNotes(session, files)` → `['The version Karaoke is the same as Instrumental.']` */
export function orderNotes(session: Session, files: readonly PlannedFile[]): string[] {
  const same = alikes(session);
  const printed = new Set(files.map(({ kind, name }) => (kind === 'mix' ? 'the mix' : kind === 'version' ? name : '')));
  return files.flatMap(({ kind, id, name }) => {
    const version = kind === 'version' ? session.version.get(id) : undefined;
    if (!version) return [];
    const like = (same.get(id) ?? []).filter((each) => printed.has(each));
    return [
      ...(silentVersion(session, version) ? [`The version ${name} has nothing in: its file is silent.`] : []),
      ...(like.length ? [`The version ${name} is the same as ${like[0]}.`] : [])
    ];
  });
}
