// What rows of a backup look like that belong to no session's document: which columns they have, and what each may hold. Rows come from a
// file that anybody may have written.
import * as yup from 'yup';
import { isFileName } from '$core/fileName';
import { readRuleBook } from '$core/organise/ruleBook';
import { readTemplate } from '$core/organise/template';
import { FORMATS, PRINT_KINDS, readOrder } from '$core/prints/order';
import { tableNames } from '$core/session/tables';
import type { TableName } from '$core/session/entities';

/** Ids that may become names of folders. */
export const ID = /^(?!\.+$)[\w:.-]{1,80}$/;
const MOMENT = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,6})?(Z|[+-]\d\d(:\d\d)?)$/;

const text = (most: number) => yup.string().max(most).defined();
const id = () => yup.string().matches(ID).required();
const whole = (most = Number.MAX_SAFE_INTEGER) => yup.number().integer().min(0).max(most).required();
const flag = () => yup.boolean().required();
const moment = () =>
  yup
    .string()
    .matches(MOMENT)
    .test('moment', '${path} is no moment', (value) => value == null || !Number.isNaN(Date.parse(value)));
const figure = () => yup.number().nullable().defined();
const list = <T extends yup.ISchema<unknown>>(of: T) => yup.array().of(of).defined();
const loose = (fits: (value: object) => boolean, nullable = false) =>
  yup
    .mixed()
    .nullable()
    .test('fits', '${path} is not what it must be', (value) =>
      value == null ? nullable && value === null : typeof value === 'object' && fits(value)
    );
const record = <T extends yup.ObjectShape>(shape: T) => yup.object(shape).noUnknown().required();

const anyObject = () => true;
const change = record({
  table: yup
    .string()
    .oneOf(tableNames as TableName[])
    .required(),
  key: text(400),
  before: loose(anyObject, true),
  after: loose(anyObject, true)
}).test('change', '${path} changes nothing', (value) => value.before !== null || value.after !== null);

const nulls = record({
  range: yup.number().integer().min(0),
  of: yup.string().oneOf(['stems', 'chain']).required(),
  name: text(400),
  db: yup.number().required(),
  bar: yup.number().required(),
  holds: flag(),
  why: list(text(2000)),
  at: whole(),
  shape: list(yup.number().required()),
  residual: yup
    .string()
    .nullable()
    .defined()
    .test('name', '${path} is no file’s name', (value) => value === null || isFileName(value))
});

const about = yup
  .object({
    session: text(400),
    ...{ bpm: yup.number().required(), beatsPerBar: yup.number().required() },
    ...{ zero: whole(), fadeIn: whole(), fadeOut: whole() },
    chain: list(record({ channel: text(400), levelDb: figure(), inserts: list(record({ name: text(400), on: flag() })) })),
    stems: list(record({ name: text(400), common: flag(), tracks: list(text(400)) })),
    ...{ sound: flag(), whole: flag(), flaws: list(text(4000)) }
  })
  .noUnknown()
  .nullable()
  .defined();

const onward = yup
  .object({
    // Opened through the gate like any document, when it is.
    document: loose(anyObject),
    feeds: list(
      record({
        kind: yup
          .string()
          .oneOf([...PRINT_KINDS])
          .required(),
        id: text(120),
        name: text(400),
        track: text(120)
      })
    ),
    end: whole()
  })
  .noUnknown()
  .nullable()
  .defined();

const shape = yup
  .object({ peaks: list(yup.number().required()), shortTerm: list(figure()) })
  .noUnknown()
  .nullable()
  .defined();

/** By the name of the table. */
export const SHAPES = {
  session: record({
    ...{ id: id(), name: text(400).min(1), revision: whole() },
    ...{ created_at: moment().required(), opened_at: moment().required(), changed_at: moment().required() },
    removed_at: moment().nullable().defined()
  }),
  history: record({
    ...{ session_id: id(), entry: whole(), id: text(400).min(1), gesture: text(400).nullable(), label: text(4000) },
    ...{ changes: list(change), undone: flag() }
  }),
  batch: record({ ...{ session_id: id(), revision: whole(), id: text(400).min(1) }, changes: list(change).nullable() }),
  library: record({
    kind: yup.string().oneOf(['rules', 'template', 'demo']).required(),
    name: text(200).min(1),
    value: yup.mixed().defined(),
    changed_at: moment().required()
  }).test('kept', '${path} holds what cannot be read', ({ kind, value }) =>
    kind === 'template' ? readTemplate(JSON.stringify(value)).ok : kind === 'rules' ? readRuleBook(value).ok : true
  ),
  print_job: record({
    ...{ id: id(), session_id: id(), name: text(4000), revision: whole() },
    asked: loose((value) => readOrder(value).ok),
    status: yup.string().oneOf(['running', 'done', 'failed', 'cancelled', 'interrupted']).required(),
    ...{ message: text(8000), rate: whole(1_000_000), frames: whole() },
    proof: yup
      .object({ nulls: yup.array().of(nulls), notes: yup.array().of(text(8000)) })
      .noUnknown()
      .required(),
    ...{ started_at: moment().required(), finished_at: moment().nullable().defined() },
    ...{ about, onward }
  }),
  print_file: record({
    ...{ id: id(), job_id: id(), position: whole(1_000_000) },
    kind: yup
      .string()
      .oneOf([...PRINT_KINDS])
      .required(),
    name: yup.string().required().test('name', '${path} is no file’s name', isFileName),
    format: yup
      .string()
      .oneOf([...FORMATS])
      .required(),
    ...{ channels: whole(256), frames: whole(), bytes: whole() },
    ...{ peak_db: figure(), true_peak_db: figure(), lufs: figure(), range_lu: figure() },
    sha256: yup
      .string()
      .matches(/^([0-9a-f]{64})?$/)
      .defined(),
    ...{ source_id: text(400), title: text(4000), made: text(8000) },
    shape
  })
} as const;

export type OwnTable = keyof typeof SHAPES;
export const ownTables = Object.keys(SHAPES) as OwnTable[];
export const columnsIn = (table: OwnTable): string[] => Object.keys(SHAPES[table].fields);
