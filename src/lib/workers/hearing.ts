// Which version of the mix the mixer plays: the engine's session follows the session as the version has it, row by row, and goes back.
import type { Engine } from '$core/engine/engine';
import { inPlace, OVERRIDDEN } from '$core/prints/inPlace';
import { commit, differences, fork, type Change } from '$core/session/changes';
import type { Session } from '$core/session/entities';

const NONE: ReadonlyMap<string, number> = new Map();

export type Hearing = {
  /** Takes changes of the session in; what they change for the engine. */
  readonly commit: (changes: readonly Change[]) => readonly Change[];
  /** Plays a version, or with null the mix; what changes for the engine. */
  readonly hear: (version: string | null) => readonly Change[];
  readonly version: () => string | null;
};

/** `session` is the engine's own. */
export function createHearing(session: Session, engine: Engine): Hearing {
  /** The session as it is; the engine's own while no version is heard, so that nothing is kept twice. */
  let base = session;
  let version: string | null = null;

  /** What a version leaves alone is done to both alike, and need not be looked for. */
  const own: ReadonlySet<string> = new Set(OVERRIDDEN);

  const follow = (): readonly Change[] => {
    const row = version === null ? undefined : base.version.get(version);
    if (!row) version = null;
    const heard = row ? inPlace(base, row) : { session: base, stems: NONE };
    const moved = differences(session, heard.session, OVERRIDDEN);
    commit(session, moved);
    engine.setStems(heard.stems);
    if (!row) base = session;
    return moved;
  };

  return {
    commit: (changes) => {
      commit(base, changes);
      if (base === session) return changes;
      const plain = changes.filter(({ table }) => !own.has(table));
      commit(session, plain);
      return [...plain, ...follow()];
    },
    hear: (next) => {
      if (next === version) return [];
      if (base === session) base = fork(session);
      version = next;
      return follow();
    },
    version: () => version
  };
}
