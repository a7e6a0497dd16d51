// Inserts whose values lanes move: each period they go to what the lane is at its end, in that period alone.
import { PERIOD } from '../../kernel/period.ts';
import type { Insert } from '../../session/entities.ts';
import type { Frames } from '../../units.ts';
import type { Plan } from '../plan/plan.ts';
import type { Led } from './read.ts';
import type { Where } from './where.ts';

export type Values = {
  /** An insert's values follow lanes, or none any more. */
  readonly lead: (insertId: string, led: Led | null) => void;
  /** An insert as it is at a rendered frame; it is remembered as what lanes do not move. */
  readonly at: (insert: Insert, rendered: Frames) => Insert;
  /** Aims all whose values move in the coming period. */
  readonly advance: (rendered: Frames, aim: (insert: Insert) => void) => void;
  /** Everything is to be aimed at again: the plan was put back. */
  readonly again: () => void;
};

export function createValues(plan: Plan, where: Where, behind: Frames): Values {
  const all = new Map<string, { readonly led: Led; base: Insert | null; last: string }>();
  const moved = (insert: Insert, led: Led, frame: Frames): Insert => {
    const params = { ...insert.params };
    for (const [name, curve] of led.params) params[name] = curve.at(frame);
    return { ...insert, params, bypass: led.bypass ? led.bypass.at(frame) >= 0.5 : insert.bypass };
  };
  const positionOf = (insertId: string, rendered: Frames) => where.at(rendered - (plan.insertLate.get(insertId) ?? 0) - behind);
  return {
    lead: (insertId, led) => {
      if (led) all.set(insertId, { led, base: all.get(insertId)?.base ?? null, last: '' });
      else all.delete(insertId);
    },
    at: (insert, rendered) => {
      const own = all.get(insert.id);
      if (!own) return insert;
      own.base = insert;
      own.last = '';
      return moved(insert, own.led, positionOf(insert.id, rendered));
    },
    advance: (rendered, aim) => {
      for (const [insertId, own] of all) {
        if (!own.base) continue;
        const next = moved(own.base, own.led, positionOf(insertId, rendered + PERIOD));
        const told = [...own.led.params.keys()].map((name) => next.params[name]).join() + String(next.bypass);
        if (told === own.last) continue;
        own.last = told;
        aim(next);
      }
    },
    again: () => {
      for (const own of all.values()) own.last = '';
    }
  };
}
