// What belongs to the installation and not to one session: the sorting rules and the templates.
import { idsBy } from '$core/session/lookup';
import { defaultRules } from '$core/organise/defaultRules';
import { readRuleBook, type RuleBook } from '$core/organise/ruleBook';
import { shippedTemplates } from '$core/organise/shipped';
import { readTemplate, writeTemplate, type Template } from '$core/organise/template';
import { ok, refuse, type Result } from '$core/result';
import type { Database } from './db/database';

export type TemplateBrief = {
  readonly name: string;
  readonly tracks: number;
  readonly buses: number;
  readonly returns: number;
  readonly shipped: boolean;
};

export type Library = {
  readonly rules: () => Promise<{ readonly book: RuleBook; readonly own: boolean }>;
  /** Keeps a rule book; null goes back to the one that ships. */
  readonly keepRules: (given: unknown) => Promise<Result<RuleBook>>;
  readonly templates: () => Promise<TemplateBrief[]>;
  readonly template: (name: string) => Promise<Result<Template>>;
  readonly keepTemplate: (template: Template) => Promise<Result<null>>;
  readonly removeTemplate: (name: string) => Promise<Result<null>>;
};

const MOST_TEMPLATES = 500;

export function createLibrary(database: Database): Library {
  const shipped = new Map(shippedTemplates().map((template) => [template.name, template]));
  const read = async (kind: string, name: string): Promise<unknown> =>
    (await database.query('select value from library where kind = $1 and name = $2', [kind, name]))[0]?.value;
  const write = (kind: string, name: string, value: string) =>
    database.query(
      `insert into library (kind, name, value) values ($1, $2, $3::jsonb)
       on conflict (kind, name) do update set value = excluded.value, changed_at = now()`,
      [kind, name, value]
    );
  const brief = ({ name, session }: Template): TemplateBrief => {
    const count = (kind: string) => idsBy(session, 'channel', 'kind', kind).length;
    return { name, tracks: count('track'), buses: count('bus'), returns: count('return'), shipped: shipped.get(name)?.session === session };
  };

  return {
    rules: async () => {
      const kept = await read('rules', 'rules');
      const book = kept === undefined ? null : readRuleBook(kept);
      return book?.ok ? { book: book.value, own: true } : { book: defaultRules, own: false };
    },
    keepRules: async (given) => {
      if (given === null) {
        await database.query("delete from library where kind = 'rules'");
        return ok(defaultRules);
      }
      const book = readRuleBook(given);
      if (book.ok) await write('rules', 'rules', JSON.stringify(book.value));
      return book;
    },
    templates: async () => {
      const rows = await database.query("select name, value from library where kind = 'template' order by name");
      const own = rows.flatMap(({ value }) => {
        const template = readTemplate(JSON.stringify(value));
        return template.ok ? [brief(template.value)] : [];
      });
      const names = new Set(own.map(({ name }) => name));
      return [...own, ...[...shipped.values()].filter(({ name }) => !names.has(name)).map(brief)];
    },
    template: async (name) => {
      const kept = await read('template', name);
      if (kept !== undefined) return readTemplate(JSON.stringify(kept));
      const own = shipped.get(name);
      return own ? ok(own) : refuse('not-found', `No template is called “${name}”.`);
    },
    keepTemplate: async (template) => {
      const [{ count }] = await database.query("select count(*)::integer as count from library where kind = 'template'");
      if (Number(count) >= MOST_TEMPLATES) return refuse('too-many', `${MOST_TEMPLATES} templates are kept. Remove one first.`);
      await write('template', template.name, writeTemplate(template));
      return ok(null);
    },
    removeTemplate: async (name) => {
      const gone = await database.query("delete from library where kind = 'template' and name = $1 returning name", [name]);
      if (gone.length) return ok(null);
      return shipped.has(name)
        ? refuse('shipped', 'This template came with Isotaxis and stays.')
        : refuse('not-found', `No template is called “${name}”.`);
    }
  };
}
