// The published schema of delivery.json (JSON Schema, draft-07): docs/delivery.schema.json.
import { DELIVERY_FORMAT } from './delivery.ts';
import { FORMATS, PRINT_KINDS } from './order.ts';

const text = { type: 'string' };
const whole = { type: 'integer', minimum: 0 };
const flag = { type: 'boolean' };
const number = { type: 'number' };
const orNull = (schema: object) => ({ anyOf: [schema, { type: 'null' }] });
const list = (items: object) => ({ type: 'array', items });
const record = (properties: Readonly<Record<string, object>>, optional: readonly string[] = []) => ({
  type: 'object',
  properties,
  required: Object.keys(properties).filter((name) => !optional.includes(name)),
  additionalProperties: false
});
const said = (description: string, schema: object) => ({ description, ...schema });

export const deliverySchema = {
  $schema: 'http://json-schema.org/draft-07/schema#',
  title: 'Isotaxis delivery',
  ...record({
    format: { const: DELIVERY_FORMAT },
    version: { const: 1 },
    printed: said('ISO 8601, UTC', text),
    revision: said('Of the session when it was printed', whole),
    encoding: { enum: [...FORMATS] },
    rate: said('Hz', { type: 'integer', minimum: 1 }),
    dither: said('TPDF', flag),
    frames: said('That every file has; of several ranges those of the first file', whole),
    ranges: said('At the session’s rate; empty is all of it', list(record({ from: whole, to: whole, name: text }, ['name']))),
    about: record({
      session: text,
      bpm: said('Quarter notes a minute', number),
      beatsPerBar: whole,
      zero: said('Time reference of the session’s first frame', whole),
      fadeIn: said('Frames; 0 is none', whole),
      fadeOut: said('Frames; 0 is none', whole),
      sound: said('Whether the stems add up to the mix-bus input', flag),
      whole: said('Whether each track is in one stem only, but for common ones', flag),
      chain: said(
        'The mix chain as the sound passes it',
        list(
          record({
            channel: text,
            levelDb: said('dB, VCAs included; null is −∞', orNull(number)),
            inserts: list(record({ name: text, on: flag }))
          })
        )
      ),
      stems: list(record({ name: text, common: flag, tracks: list(text) })),
      flaws: list(text)
    }),
    files: list(
      record({
        name: said('Of the file', text),
        kind: { enum: [...PRINT_KINDS] },
        of: said('The channel or version', text),
        made: said('What it is of, in words', text),
        additive: said('Whether it and its like add up to the mix-bus input', flag),
        channels: { enum: [1, 2] },
        frames: whole,
        bytes: whole,
        peakDb: said('dBFS; null is silence', orNull(number)),
        truePeakDb: said('dBTP; null is silence', orNull(number)),
        lufs: said('Integrated, LUFS; null where nothing is loud enough to count', orNull(number)),
        rangeLu: said('LU', orNull(number)),
        sha256: { type: 'string', pattern: '^[0-9a-f]{64}$' }
      })
    ),
    nulls: list(
      record({
        range: said('Place of its range among those printed; 0 where there is none', whole),
        of: { enum: ['stems', 'chain'] },
        name: said('Of the chain: mix, or the version', text),
        db: said('Peak of what is left, dBFS; −300 is nothing at all', number),
        bar: said('What it has to stay under', number),
        holds: flag,
        words: text
      })
    ),
    notes: list(text)
  })
} as const;
