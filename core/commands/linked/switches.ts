// Switches and colours over link groups: what a touched channel is switched to is copied.
import { followers } from '../../links/follow.ts';
import type { Attribute, Session } from '../../session/entities.ts';
import type { Expansion } from '../define.ts';

/** The same command on all that follow, of these those that can. */
export const linkedIds =
  (name: string, attribute: Attribute, can: (session: Session, id: string) => boolean = () => true) =>
  (session: Session, args: { readonly ids: readonly string[]; readonly auto?: boolean }): Expansion | null => {
    const found = args.auto ? [] : followers(session, args.ids, attribute).filter(({ id }) => can(session, id));
    if (found.length === 0) return null;
    return { steps: [{ ...args, do: name, ids: [...args.ids, ...found.map(({ id }) => id)] }], followers: found.length };
  };

export function linkedColours(session: Session, { colours }: { readonly colours: readonly { id: string; colour: number }[] }) {
  const asked = new Map(colours.map(({ id, colour }) => [id, colour]));
  const found = followers(session, asked.keys(), 'colour');
  if (found.length === 0) return null;
  const copied = found.map(({ id, lead }) => ({ id, colour: asked.get(lead)! }));
  return { steps: [{ do: 'colours.set', colours: [...colours, ...copied] }], followers: found.length };
}
