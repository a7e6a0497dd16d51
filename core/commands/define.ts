// What a command is: a name, a schema for its arguments, a pure plan and a label for the undo list.
import * as yup from 'yup';
import type { Result } from '../result.ts';
import { isPlain, isReserved } from '../text.ts';
import type { Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';

/** A command that another one comes to, with all its arguments. */
export type Step = { readonly do: string; readonly [argument: string]: unknown };

/** What a command is with all that is linked to what it touches: commands that act alone, and how many channels or inserts follow. */
export type Expansion = {
  readonly steps: readonly Step[];
  readonly followers: number;
  /** What else is to be said: "Caixa had nothing there". */
  readonly word?: string;
};

export type Definition<Name extends string, Args> = {
  /** As it is sent: a plural noun and a verb, "faders.set". */
  readonly name: Name;
  readonly schema: yup.Schema<Args>;
  /** The changes this command makes, or why it cannot; without clock or randomness. */
  readonly plan: (session: Session, args: Args) => Result<Change[]>;
  /** Its name in the undo list, said before it is carried out. */
  readonly label: (session: Session, args: Args) => string;
  /** Of a direct move, a switch or an edit: itself over link groups; null where nothing follows. */
  readonly linked?: (session: Session, args: Args) => Expansion | null;
};

/** A command. Its docstring says in a sentence what it does and ends in an example, which the tests carry out. */
export const define = <Name extends string, Args extends yup.Maybe<yup.AnyObject>>(definition: {
  readonly name: Name;
  readonly schema: yup.ObjectSchema<Args>;
  readonly plan: (session: Session, args: Args) => Result<Change[]>;
  readonly label: (session: Session, args: Args) => string;
  readonly linked?: (session: Session, args: Args) => Expansion | null;
}): Definition<Name, Args> => definition as Definition<Name, Args>;

const ID = /^[\w:.-]{1,80}$/;
/** Ids of what is new are shorter: what is made for it, inserts and clips, is named after it. */
const NEW_ID = /^[\w:.-]{1,60}$/;
const ID_WORDS = 'an id is 1 to 80 letters, digits, “-”, “_”, “.” or “:”';
const STRANGE_WORDS = 'control characters and halves of letters cannot be kept';

const identity = (pattern: RegExp, words: string) =>
  yup
    .string()
    .matches(pattern, words)
    .test('reserved', 'this word cannot be an id', (value) => value == null || !isReserved(value));
/** The id of something that is there. */
export const id = () => identity(ID, ID_WORDS);
/** The id of something new: made by whoever sends the command. */
export const newId = () => identity(NEW_ID, 'the id of something new is 1 to 60 letters, digits, “-”, “_”, “.” or “:”');
export const ids = () => yup.array().of(id().required()).min(1, 'select something first').required();
/** Text that can be kept, of at most `most` letters. */
export const text = (most: number) =>
  yup
    .string()
    .max(most)
    .test('plain', STRANGE_WORDS, (value) => value == null || isPlain(value));
/** Text without space around it. Yup’s own `trim` throws on a list. */
export const trimmed = (most: number) => text(most).transform((value: unknown) => (typeof value === 'string' ? value.trim() : value));
export const name = () => trimmed(120).min(1, 'a name is needed');
/** A level in dB, or "-inf". */
export const level = () =>
  yup
    .number()
    .transform((value: unknown, given: unknown) => (given === '-inf' ? -Infinity : value))
    .typeError('a level is a number of dB, or -inf');
/** Ids of many things, checked in one go: they come with every move of a drag. */
export const manyIds = () =>
  yup
    .mixed<string[]>((value): value is string[] => Array.isArray(value))
    .test('ids', 'select something first', (list) => !list || list.length > 0)
    .test('id', ID_WORDS, (list) => !list || list.every((value) => isId(value) === null))
    .required();
/** A family hue, or one between two. */
export const hue = () => yup.number().min(0).lessThan(12, 'a colour is a number from 0 to less than 12');
export const whole = () => yup.number().integer().min(0).max(Number.MAX_SAFE_INTEGER);

type Check = (value: unknown) => string | null;
/** Checks of single values for `rows`, with what is wrong in words. */
export const isId: Check = (value) => (typeof value === 'string' && ID.test(value) && !isReserved(value) ? null : ID_WORDS);
export const isName: Check = (value) =>
  typeof value !== 'string' || value.trim() === ''
    ? 'a name is needed'
    : value.length > 120
      ? 'a name has at most 120 letters'
      : isPlain(value)
        ? null
        : STRANGE_WORDS;
export const isHue: Check = (value) =>
  typeof value === 'number' && value >= 0 && value < 12 ? null : 'a colour is a number from 0 to less than 12';

/** A list of rows of few plain fields: checked in one go, since a schema for each of hundreds takes longer than the change itself. */
export const rows = <T extends object>(checks: { readonly [K in keyof T]: Check }) =>
  yup
    .mixed<T[]>((value): value is T[] => Array.isArray(value))
    .test('rows', (list, context) => {
      if (!list?.length) return context.createError({ message: 'select something first' });
      for (const [i, row] of list.entries())
        for (const field of Object.keys(checks) as (keyof T & string)[]) {
          const wrong = typeof row === 'object' && row !== null ? checks[field](row[field]) : 'a row is an object';
          if (wrong)
            return context.createError({ path: `${context.path}[${i}].${field}`, message: `${context.path}[${i}].${field}: ${wrong}` });
        }
      return true;
    })
    .required();
