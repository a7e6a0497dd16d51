// What follows of any command for lanes: those of a send or an insert that went go with it, those of an insert on another channel follow.
import { removal, update, type Change } from '../session/changes.ts';
import { removedWith } from '../session/dependents.ts';
import type { Lane, Session } from '../session/entities.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';

/** Lanes by what a change does to what they are of. */
function orphaned(session: Session, changes: readonly Change[]): Lane[] {
  const came = new Set(changes.flatMap(({ table, key, after }) => (table === 'send' && after !== null ? [key] : [])));
  return changes.flatMap(({ table, key, after }) => {
    if (after !== null) return [];
    if (table === 'insert') return rowsBy(session, 'lane', 'insertId', key);
    if (table !== 'send' || came.has(key)) return [];
    const [sourceId, targetId] = key.split('\n');
    return rowsBy(session, 'lane', 'channelId', sourceId).filter((lane) => lane.targetId === targetId);
  });
}

/** The changes with what they mean for lanes. */
export function withLanes(session: Session, changes: Change[]): Change[] {
  if (session.lane.size === 0) return changes;
  const known = new Set(changes.flatMap(({ table, key }) => (table === 'lane' ? [key] : [])));
  const gone = new Set(
    orphaned(session, changes)
      .map(({ id }) => id)
      .filter((id) => !known.has(id))
  );
  const moved = changes.flatMap(({ table, key, before, after }) =>
    table === 'insert' && before && after?.channelId !== undefined
      ? idsBy(session, 'lane', 'insertId', key).flatMap((id) =>
          known.has(id) ? [] : update(session, 'lane', id, { channelId: after.channelId })
        )
      : []
  );
  if (gone.size === 0 && moved.length === 0) return changes;
  return [...changes, ...removedWith(session, gone, 'lane'), ...[...gone].map((id) => removal(session, 'lane', id)), ...moved];
}
