// What belongs to the installation and not to one session: the sorting rules and the templates.
import { idsBy } from '$core/session/lookup';
import { defaultRules } from '$core/organise/defaultRules';
import { readRuleBook, type RuleBook } from '$core/organise/ruleBook';
import { shippedTemplates } from '$core/organise/shipped';
import { readTemplate, writeTemplate, type Template } from '$core/organise/template';
import { ok, refuse, type Result } from '$core/result';
import { cut } from '$core/text';
import type { Database, Query } from './db/database';

export type TemplateBrief = {
  readonly name: string;
  readonly tracks: number;
  readonly buses: number;
  readonly returns: number;
  readonly shipped: boolean;
};

export type Library = {
  /** The rules in use, whether they are one's own, and the names of those that a restored backup put aside. */
  readonly rules: () => Promise<{ readonly book: RuleBook; readonly own: boolean; readonly aside: readonly string[] }>;
  /** Uses rules that were put aside; those in use until then are put aside in their place. */
  readonly takeRules: (name: string) => Promise<Result<RuleBook>>;
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
      const aside = (
        await database.query("select name from library where kind = 'rules' and name <> 'rules' order by changed_at, name")
      ).map(({ name }) => String(name));
      return book?.ok ? { book: book.value, own: true, aside } : { book: defaultRules, own: false, aside };
    },
    takeRules: (name) =>
      database.transaction<Result<RuleBook>>(async (query) => {
        const [kept] = await query("select value from library where kind = 'rules' and name = $1 and name <> 'rules'", [name]);
        const book = kept && readRuleBook(kept.value);
        if (!book) return refuse('not-found', `No rules were put aside as “${name}”.`);
        if (!book.ok) return book;
        await putLibraryAside(query, 'rules', 'rules', kept.value);
        await query("delete from library where kind = 'rules' and name in ('rules', $1)", [name]);
        await query("insert into library (kind, name, value) values ('rules', 'rules', $1::jsonb)", [JSON.stringify(kept.value)]);
        return book;
      }),
    keepRules: async (given) => {
      if (given === null) {
        await database.query("delete from library where kind = 'rules' and name = 'rules'");
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

/**
 * Makes room for what comes back under a name: what is kept under it and is otherwise gets one that nothing has, in the list and in itself.
 * Call within a transaction.
 */
export async function putLibraryAside(query: Query, kind: string, name: string, value: unknown): Promise<void> {
  const here = await query('select 1 from library where kind = $1 and name = $2 and value <> $3::jsonb', [
    kind,
    name,
    JSON.stringify(value)
  ]);
  if (here.length === 0) return;
  const taken = new Set((await query('select name from library where kind = $1', [kind])).map((row) => String(row.name)));
  const stamp = new Date().toISOString().slice(0, 16).replace('T', ' ');
  const free = (n: number): string => {
    const own = `${cut(name, 80)} (before ${stamp}${n > 1 ? `, ${n}` : ''})`;
    return taken.has(own) ? free(n + 1) : own;
  };
  await query(
    `update library set name = $3, value = case when kind = 'template' then jsonb_set(value, '{name}', to_jsonb($3::text)) else value end
     where kind = $1 and name = $2`,
    [kind, name, free(1)]
  );
}
