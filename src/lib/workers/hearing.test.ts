// What the mixer plays while a version is heard: after whatever is done, the session as the version has it and nothing else; and the session
// itself again when it is heard no longer, or is gone.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Command } from '$core/commands/index';
import { planBatch } from '$core/commands/plan';
import type { Engine } from '$core/engine/engine';
import { inPlace } from '$core/prints/inPlace';
import { commit, differences, fork } from '$core/session/changes';
import type { Version } from '$core/session/entities';
import { carryOut } from '../../../tests/oracle/rig';
import { attempt, desk, moves } from '../../../tests/oracle/stemDesk';
import { createHearing } from './hearing';

const shapes: fc.Arbitrary<Command> = fc.oneof(
  fc.record({ do: fc.constant('channels.remove' as const), ids: fc.constantFrom('t3', 'inner', 'a', 'room', 'v1').map((id) => [id]) }),
  fc.record({ do: fc.constant('stems.set' as const), ids: fc.constantFrom('a', 'b').map((id) => [id]), on: fc.boolean() }),
  fc.record({ do: fc.constant('inserts.remove' as const), id: fc.constantFrom('lim', 'glue', 'late') }),
  fc.record({ do: fc.constant('inserts.bypass' as const), ids: fc.constant('lim').map((id) => [id]), on: fc.boolean() }),
  fc.record({
    do: fc.constant('buses.insert' as const),
    id: fc.constantFrom('n1', 'n2'),
    name: fc.constant('N'),
    into: fc.constantFrom('a', 'mix')
  }),
  fc.record({
    do: fc.constant('versions.set' as const),
    id: fc.constant('v'),
    fader: fc.boolean(),
    stems: fc.constantFrom<Version['stems']>({}, { a: -3 }, { b: '-inf' })
  }),
  fc.record({ do: fc.constant('versions.remove' as const), ids: fc.constant('v').map((id) => [id]) })
);

it('follows every change', () => {
  fc.assert(
    fc.property(
      moves,
      fc.array(
        fc.oneof(
          shapes,
          moves.map((list) => list[0])
        ),
        { minLength: 1, maxLength: 12 }
      ),
      (before, after) => {
        const session = attempt(desk(), before);
        carryOut(session, {
          do: 'versions.add',
          id: 'v',
          name: 'V',
          stems: { a: '-inf', c: 2 },
          inserts: { lim: false },
          fader: false,
          channels: [
            { id: 't2', mute: true },
            { id: 'room', by: -4 }
          ]
        });
        const played = fork(session);
        let stems: ReadonlyMap<string, number> = new Map();
        const hearing = createHearing(played, { setStems: (levels: typeof stems) => (stems = levels) } as unknown as Engine);
        const told = fork(played);
        commit(told, hearing.hear('v'));
        for (const command of after) {
          const planned = command && planBatch(session, [command]);
          if (!planned?.ok) continue;
          commit(session, planned.value.changes);
          commit(told, hearing.commit(planned.value.changes));
          const own = session.version.get('v');
          const wanted = own && hearing.version() !== null ? inPlace(session, own) : { session, stems: new Map() };
          expect(differences(played, wanted.session)).toEqual([]);
          // The engine hears of all of it.
          expect(differences(told, played)).toEqual([]);
          expect(stems).toEqual(wanted.stems);
          if (!own) expect(hearing.version()).toBeNull();
        }
        hearing.hear(null);
        expect(differences(played, session)).toEqual([]);
        expect(stems.size).toBe(0);
      }
    ),
    { numRuns: 60, seed: 32 }
  );
});
