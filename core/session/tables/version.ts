// Versions of the mix: which stems are in and how loud, which of the mix chain's inserts are on, its fader and fades, and channels set
// apart. Levels are kept as they travel, "-inf" where something is out.
import * as is from '../column.ts';

/** dB, or "-inf". */
export type Written = number | '-inf';
/** A channel whose effective level is `by` dB other than in the mix, or whose mute is; both lie beneath the stems. */
export type SetApart = { readonly id: string; readonly by?: Written; readonly mute?: boolean };

const { between, id } = is.schemas;
const offset = { anyOf: [between(-120, 12), { const: '-inf' }] };
const byId = (values: is.JsonSchema): is.JsonSchema => ({
  type: 'object',
  propertyNames: { type: 'string', pattern: '^[\\w:.-]{1,80}$' },
  maxProperties: 500,
  additionalProperties: values
});

export const version = is.table(
  {
    id: is.id(),
    name: is.text(120),
    /** By stem, dB relative to the mix, taken behind the stem's tap; what is not named is as in the mix. */
    stems: is.json<Readonly<Record<string, Written>>, { default: Readonly<Record<string, Written>> }>(byId(offset), { default: {} }),
    /** By insert of the mix chain, whether it is at work; what is not named is as in the mix. */
    inserts: is.json<Readonly<Record<string, boolean>>, { default: Readonly<Record<string, boolean>> }>(byId({ type: 'boolean' }), {
      default: {}
    }),
    /** Whether the mix bus's fader counts; else it is at 0 dB. */
    fader: is.flag({ default: true }),
    /** Whether the mix fades in and out. */
    fades: is.flag({ default: true }),
    channels: is.json<readonly SetApart[], { default: readonly SetApart[] }>(
      {
        type: 'array',
        maxItems: 500,
        items: {
          type: 'object',
          properties: { id, by: offset, mute: { type: 'boolean' } },
          required: ['id'],
          additionalProperties: false
        }
      },
      { default: [] }
    ),
    /** Sort key among versions. */
    position: is.finite()
  },
  { since: 6, always: ['prints'] }
);
export type Version = is.RowOf<typeof version>;
