// What a command is: a name, a schema for its arguments, a pure plan and a label for the undo list.
import * as yup from 'yup';
import type { Result } from '../result.ts';
import type { Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';

export type Definition<Args> = {
  readonly schema: yup.Schema<Args>;
  /** The changes this command makes, or why it cannot; without clock or randomness. */
  readonly plan: (session: Session, args: Args) => Result<Change[]>;
  /** Its name in the undo list, said before it is carried out. */
  readonly label: (session: Session, args: Args) => string;
};

export const define = <Args extends yup.Maybe<yup.AnyObject>>(definition: {
  readonly schema: yup.ObjectSchema<Args>;
  readonly plan: (session: Session, args: Args) => Result<Change[]>;
  readonly label: (session: Session, args: Args) => string;
}): Definition<Args> => definition as Definition<Args>;

const ID = /^[\w:.-]{1,80}$/;

/** Ids are made by whoever sends the command. */
export const id = () => yup.string().matches(ID, 'an id is 1 to 80 letters, digits, “-”, “_”, “.” or “:”');
export const ids = () => yup.array().of(id().required()).min(1, 'select something first').required();
export const name = () => yup.string().trim('names do not begin or end with a space').min(1, 'a name is needed').max(120);
/** A level in dB, or "-inf". */
export const level = () =>
  yup
    .number()
    .transform((value: unknown, given: unknown) => (given === '-inf' ? -Infinity : value))
    .typeError('a level is a number of dB, or -inf');
export const whole = () => yup.number().integer().min(0).max(Number.MAX_SAFE_INTEGER);
