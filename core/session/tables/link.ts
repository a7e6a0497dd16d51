// Link groups: channels of which some values, switches or edits go together.
import * as is from '../column.ts';

/** What a group can link. The last four act on the Timeline. */
export const ATTRIBUTES = [
  ...(['level', 'pan', 'mute', 'solo', 'sendLevel', 'sendOn', 'tap', 'bypass', 'insertValues', 'colour'] as const),
  ...(['automation', 'cuts', 'moves', 'fades'] as const)
] as const;
export type Attribute = (typeof ATTRIBUTES)[number];

export const LINK_MODES = ['difference', 'alike'] as const;

/** Keys held and a key: "Alt+1"; '' is none. */
export const SHORTCUT = '^$|^((Ctrl|Alt|Shift|Meta)[+])*[^ ]{1,12}$';

export const link = is.table(
  {
    id: is.id(),
    name: is.text(120),
    /** A short word that stands on its members' rows. */
    badge: is.text(8),
    attributes: is.json<readonly Attribute[]>({ type: 'array', items: is.schemas.oneOf(...ATTRIBUTES), uniqueItems: true }),
    /** `difference`: members keep their distance; `alike`: they become what the moved one becomes. */
    mode: is.oneOf(LINK_MODES, { default: 'difference' }),
    /** Whether it is at work, or paused. */
    active: is.flag({ default: true }),
    /** What pauses it and takes it up again on the keyboard. */
    shortcut: is.textBy({ type: 'string', pattern: SHORTCUT }, { default: '' }),
    /** Sort key among groups. */
    position: is.finite()
  },
  { since: 5, always: ['groups'] }
);
export type Link = is.RowOf<typeof link>;
