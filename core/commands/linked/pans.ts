// Pans over link groups: members keep their distance, mirrored ones go the other way, a channel's two pins go together.
import { followers } from '../../links/follow.ts';
import { movedValue, type Move } from '../../links/relative.ts';
import type { Channel, Session } from '../../session/entities.ts';
import { clampPan, type Pan } from '../../units.ts';
import type { Expansion, Step } from '../define.ts';
import { moveOf, type MoveArgs } from './levels.ts';

type Set = { readonly id: string; readonly pan?: Pan; readonly right?: Pan | null; readonly spread?: number };
type Pins = { readonly pan: Pan; readonly right: Pan | null };
const pinsOf = ({ pan, panRight }: Channel): Pins => ({ pan, right: panRight });

/** Where a channel's pins are after a move: both together, as far as both can go. */
export function movedPins({ pan, right }: Pins, anchor: number | undefined, move: Move): Pins {
  const apart = right === null ? 0 : right - pan;
  const [low, high] = [Math.max(-100, -100 - apart), Math.min(100, 100 - apart)];
  const scale = { ratio: false, clamp: (value: number) => Math.max(low, Math.min(high, clampPan(value))) };
  const moved = movedValue(scale, pan, anchor, move);
  return { pan: moved, right: right === null ? null : moved === pan ? right : clampPan(moved + apart) };
}

export function linkedPans(session: Session, args: { readonly pans: readonly Set[]; readonly auto?: boolean }): Expansion | null {
  const asked = new Map(args.pans.filter(({ pan, right }) => pan !== undefined || right != null).map((each) => [each.id, each]));
  const found = args.auto ? [] : followers(session, asked.keys(), 'pan');
  if (found.length === 0) return null;
  const moved = found.map(({ id, lead, alike, mirrored }): Set => {
    const was = pinsOf(session.channel.get(lead)!);
    const given = asked.get(lead)!;
    const to: Pins = { pan: clampPan(given.pan ?? was.pan), right: given.right == null ? was.right : clampPan(given.right) };
    const own = pinsOf(session.channel.get(id)!);
    const sign = mirrored ? -1 : 1;
    const middle = ({ pan, right }: Pins) => (right === null ? pan : (pan + right) / 2);
    if (own.right === null || to.right === null || was.right === null) {
      const pins = alike
        ? movedPins(own, undefined, { by: sign * middle(to) - middle(own) })
        : movedPins(own, undefined, { by: sign * (middle(to) - middle(was)) });
      return { id, pan: pins.pan, ...(pins.right === null ? {} : { right: pins.right }) };
    }
    // Pin by pin; seen in a mirror the left one is the right one.
    const by: [number, number] = [to.pan - was.pan, to.right - was.right];
    const [left, right] = mirrored ? [-by[1], -by[0]] : by;
    if (alike) return mirrored ? { id, pan: -to.right + 0, right: -to.pan + 0 } : { id, pan: to.pan, right: to.right };
    return { id, pan: own.pan + left, right: own.right + right };
  });
  return { steps: [{ ...args, do: 'pans.set', pans: [...args.pans, ...moved] }], followers: found.length };
}

export function linkedPanMove(
  session: Session,
  args: MoveArgs & { readonly ids: readonly string[]; readonly anchors?: Readonly<Record<string, number>> }
): Expansion | null {
  const found = followers(session, args.ids, 'pan');
  if (found.length === 0) return null;
  const move = moveOf(args);
  const together = found.filter(({ alike, mirrored }) => !alike && !mirrored).map(({ id }) => id);
  const against = found.filter(({ alike, mirrored }) => !alike && mirrored).map(({ id }) => id);
  const steps: Step[] = [{ ...args, do: 'pans.move', ids: [...args.ids, ...together] }];
  if (against.length) {
    const { by, lead, ...rest } = args;
    const turned = lead ? { lead: { from: -lead.from, was: -lead.was, to: -lead.to } } : { by: -by! };
    steps.push({ ...rest, ...turned, do: 'pans.move', ids: against });
  }
  const alike = found.flatMap(({ id, lead, alike: same, mirrored }) => {
    if (!same) return [];
    const { pan } = movedPins(pinsOf(session.channel.get(lead)!), args.anchors?.[lead], move);
    return [{ id, pan: mirrored ? -pan + 0 : pan }];
  });
  if (alike.length) steps.push({ do: 'pans.set', pans: alike });
  return { steps, followers: found.length };
}
