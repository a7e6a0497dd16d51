// The track sheet: the session's rows as CSV (RFC 4180), and what a sheet that comes back would change.
import Papa from 'papaparse';
import { alone } from '../commands/alone.ts';
import type { Command } from '../commands/index.ts';
import { ok, refuse, type Result } from '../result.ts';
import type { Channel, Session } from '../session/entities.ts';
import { filesOf } from '../session/filter.ts';
import { isRole, type Role } from '../session/roles.ts';
import { rowsBy } from '../session/lookup.ts';
import { inOrder } from '../session/select.ts';
import { groupsOf, membershipFor, named, vcasOf } from './sheetGroups.ts';

/** Header names, in order. The last ones are for reading only: what is changed in them is not taken. */
export const SHEET_COLUMNS = [
  'id',
  'name',
  'role',
  'colour',
  'to',
  'pan',
  'trim_db',
  'fader_db',
  'vca',
  'links',
  'hidden',
  'resting',
  'kind',
  'width',
  'file',
  'seconds',
  'peak_dbfs'
] as const;
type Column = (typeof SHEET_COLUMNS)[number];
type Row = Record<Column, string>;

const NOWHERE = 'nowhere';
const number = (value: number) => (value === -Infinity ? '-inf' : String(Math.round(value * 1000) / 1000));
const yes = (on: boolean) => (on ? 'yes' : 'no');

function rowOf(session: Session, channel: Channel): Row {
  const own = rowsBy(session, 'clip', 'channelId', channel.id);
  const rate = session.settings.get('settings')!.rate;
  const end = Math.max(0, ...own.map(({ start, length }) => start + length));
  const peak = Math.max(-Infinity, ...own.map(({ mediaId }) => session.media.get(mediaId)?.peakDb ?? -Infinity));
  return {
    id: channel.id,
    name: channel.name,
    role: channel.role,
    colour: number(channel.colour),
    to: destination(session, channel),
    pan: number(channel.pan),
    trim_db: number(channel.trimDb),
    fader_db: number(channel.faderDb),
    vca: named(vcasOf(session, channel)),
    links: named(groupsOf(session, channel)),
    hidden: yes(channel.hidden),
    resting: yes(channel.resting),
    kind: channel.kind,
    width: String(channel.width),
    file: filesOf(session, channel.id).join('; '),
    seconds: own.length ? number(end / rate) : '',
    peak_dbfs: own.length ? number(peak) : ''
  };
}

const destination = (session: Session, { outputId, outputPair }: Channel): string =>
  outputId !== null
    ? (session.channel.get(outputId)?.name ?? '')
    : outputPair !== null
      ? `outputs ${outputPair * 2 + 1}-${outputPair * 2 + 2}`
      : NOWHERE;

/**
 * What begins like a formula would be carried out by a spreadsheet: an apostrophe before it says that it is text (OWASP, "CSV
 * injection"). Only what is a number from end to end stays one. What begins with an apostrophe gets another, so that reading takes off
 * just what writing put there.
 */
const FORMULA = /^(?!-?(\d+(\.\d+)?|inf)$)[=+\-@\t\r\n'＝＋－＠]/;
const unguarded = (text: string) => (/^'[=+\-@\t\r\n'＝＋－＠]/.test(text) ? text.slice(1) : text);

export function writeSheet(session: Session): string {
  const rows = inOrder(session).map((channel) => {
    const row = rowOf(session, channel);
    return SHEET_COLUMNS.map((column) => row[column]);
  });
  return `${Papa.unparse([[...SHEET_COLUMNS], ...rows], { newline: '\r\n', escapeFormulae: FORMULA })}\r\n`;
}

export type SheetChange = {
  readonly id: string;
  readonly name: string;
  readonly column: Column;
  readonly from: string;
  readonly to: string;
};
export type SheetPlan = {
  readonly changes: readonly SheetChange[];
  /** Channels that the sheet does not have: they stay as they are. */
  readonly missing: readonly string[];
  /** What is in the sheet and cannot be taken, with its line. */
  readonly notes: readonly string[];
  readonly commands: Command[];
};

const LINE = 2;

/** What a sheet would change. Rows are known by their id; a row without one of these, or one that comes twice, refuses the sheet. */
export function readSheet(session: Session, text: string): Result<SheetPlan> {
  const parsed = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (name) => name.trim().toLowerCase()
  });
  const broken = parsed.errors.find(({ type, code }) => type === 'Quotes' || code === 'TooManyFields');
  if (broken)
    return refuse('bad-sheet', `Line ${(broken.row ?? 0) + (broken.type === 'Quotes' ? 1 : LINE)} of the sheet: ${broken.message}.`);
  const fields = parsed.meta.fields ?? [];
  for (const needed of ['id', 'name'])
    if (!fields.includes(needed)) return refuse('bad-sheet', `The sheet has no column “${needed}”. Export one and change that.`);
  const seen = new Map<string, number>();
  const changes: SheetChange[] = [];
  const notes: string[] = [];
  const commands: Command[] = [];
  const byName = new Map<string, Channel[]>();
  for (const channel of session.channel.values())
    byName.set(channel.name.toLowerCase(), [...(byName.get(channel.name.toLowerCase()) ?? []), channel]);
  for (const [i, given] of parsed.data.entries()) {
    const line = i + LINE;
    const id = given.id?.trim() ?? '';
    const channel = session.channel.get(id);
    if (!channel)
      return refuse('bad-sheet', `Line ${line}: no channel of this session has the id “${id}”. Rows cannot be added in a sheet.`, { line });
    const twice = seen.get(id);
    if (twice)
      return refuse('bad-sheet', `Line ${line}: ${channel.name} is in the sheet twice, first in line ${twice}. Take one away.`, { line });
    seen.set(id, line);
    const now = rowOf(session, channel);
    for (const column of SHEET_COLUMNS) {
      const raw = given[column];
      if (raw === undefined || column === 'id') continue;
      const to = unguarded(raw.trim());
      if (to === now[column] || (Number(to) === Number(now[column]) && to !== '' && now[column] !== '')) continue;
      const made =
        column === 'vca' || column === 'links' ? membershipFor(session, channel, column, to) : commandFor(channel, column, to, byName);
      if (typeof made === 'string') notes.push(`Line ${line}, ${channel.name}: ${made}`);
      else {
        commands.push(...[made].flat());
        changes.push({ id, name: channel.name, column, from: now[column], to });
      }
    }
  }
  const order = [...seen.keys()];
  const present = inOrder(session)
    .map(({ id }) => id)
    .filter((id) => seen.has(id));
  if (order.some((id, i) => id !== present[i])) {
    commands.push({ do: 'channels.order', ids: order });
    const moved = order.findIndex((id, i) => id !== present[i]);
    changes.push({ id: order[moved], name: 'All rows', column: 'id', from: 'their order', to: 'the order of the sheet' });
  }
  const missing = inOrder(session).flatMap(({ id, name }) => (seen.has(id) ? [] : [name]));
  const label: Command = { do: 'batch.name', text: `Track sheet: ${changes.length} change${changes.length === 1 ? '' : 's'}` };
  return ok({ changes, missing, notes, commands: commands.length ? [label, ...alone(commands)] : [] });
}

/** The command for one changed field, or why it cannot be. */
function commandFor({ id, kind }: Channel, column: Column, to: string, byName: ReadonlyMap<string, readonly Channel[]>): Command | string {
  const level = /^-?\s*inf(inity)?$|^[-−]∞$/i.test(to) ? -Infinity : Number(to.replace('−', '-').replace(',', '.'));
  const bad = `“${to}” is no ${column.replace('_', ' ')}.`;
  switch (column) {
    case 'name':
      return to && to.length <= 120 ? { do: 'channels.rename', names: [{ id, name: to }] } : 'a name has 1 to 120 letters.';
    case 'role':
      return to === '' || isRole(to) ? { do: 'roles.set', ids: [id], role: to as Role | '' } : bad;
    case 'colour':
      return to !== '' && level >= 0 && level < 12
        ? { do: 'channels.colour', ids: [id], colour: level }
        : `${bad} It is a number from 0 to less than 12.`;
    case 'pan':
      return to !== '' && Math.abs(level) <= 100
        ? { do: 'pans.set', pans: [{ id, pan: level }] }
        : `${bad} It is a number from -100 to 100.`;
    case 'trim_db':
    case 'fader_db':
      if (to === '' || Number.isNaN(level) || level > 12) return `${bad} It is dB up to 12, or -inf.`;
      return { do: column === 'trim_db' ? 'trims.set' : 'faders.set', levels: [{ id, level }] };
    case 'hidden':
    case 'resting':
      if (!/^(yes|no)$/i.test(to)) return `${bad} Write yes or no.`;
      return { do: column === 'hidden' ? 'hides.set' : 'rests.set', ids: [id], on: to.toLowerCase() === 'yes' };
    case 'to': {
      if (kind === 'mix') return 'the mix bus goes to an interface output.';
      if (kind === 'vca') return 'no audio goes through a VCA.';
      if (to.toLowerCase() === NOWHERE) return { do: 'channels.route', ids: [id], to: null };
      const pair = /^outputs? (\d+)-(\d+)$/i.exec(to);
      if (pair && Number(pair[1]) % 2 === 1 && Number(pair[2]) === Number(pair[1]) + 1 && Number(pair[1]) <= 127)
        return { do: 'channels.route', ids: [id], to: null, pair: (Number(pair[1]) - 1) / 2 };
      const targets = (byName.get(to.toLowerCase()) ?? []).filter((channel) => channel.kind !== 'track' && channel.kind !== 'vca');
      if (targets.length === 1) return { do: 'channels.route', ids: [id], to: targets[0].id };
      return targets.length ? `${targets.length} buses are called “${to}”.` : `no bus is called “${to}”.`;
    }
    default:
      return `${column} cannot be changed in a sheet; it stays as it is.`;
  }
}
