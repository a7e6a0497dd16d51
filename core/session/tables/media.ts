// Media: the recordings that clips play, by the hash of what is stored.
import * as is from '../column.ts';

const { finite, orNull, rate, sha256, text } = is.schemas;

export const ENCODINGS = ['s16', 's24', 's32', 'f32', 'f64'] as const;

/** What a recording was before it was decoded or its rate converted: its bytes are not kept, only their name and hash. */
export type Origin = { readonly format: string; readonly sha256: string; readonly rate: number };

export const media = is.table(
  {
    id: is.id(),
    /** The file's name as it arrived. */
    name: is.textOrNone(255),
    /** Content address: SHA-256 of the stored file, lower-case hex. */
    sha256: is.textBy(sha256),
    rate: is.number(rate, { unit: 'Hz', structural: true }),
    channels: is.whole(1, 256, { structural: true }),
    frames: is.number({ ...is.schemas.frames, minimum: 1 }, { unit: 'frames', structural: true }),
    encoding: is.oneOf(ENCODINGS),
    /** Sample peak. */
    peakDb: is.measured({ unit: 'dBFS' }),
    origin: is.orNull(
      is.json<Origin>({
        type: 'object',
        properties: { format: text(40), sha256, rate },
        required: ['format', 'sha256', 'rate'],
        additionalProperties: false
      }),
      { since: 2 }
    ),
    /**
     * Integrated loudness (BS.1770): of each audio channel alone, then, of two, of the pair; null within where it is silent.
     * Null where it was not measured.
     */
    loudness: is.orNull(is.json<(number | null)[]>({ type: 'array', maxItems: 257, items: orNull(finite) }), { unit: 'LUFS', since: 3 })
  },
  { notInTemplates: true, always: ['rows', 'clips'] }
);
export type Media = is.RowOf<typeof media>;
