// The command line: the same core without a browser and without a server.
// Exit status: 0 done, 1 it could not be done (said on standard error), 2 the command was not understood.
import { parseArgs } from 'node:util';
import { importFolder } from './import';
import { apply } from './apply';
import { info } from './info';
import { sort } from './sort';
import { FORMATS, type Format } from '$core/prints/order';
import { print } from './print';
import { traceChannel } from './trace';
import { Failure } from './failure';

const HELP = `isotaxis: organise and print multitrack sessions

  isotaxis import DIR --out session.zip [--rate HZ] [--convert] [--keep] [--name NAME] [--json]
      makes a session package of the audio files in a folder, a track each, by name; --keep takes what is there of files that
      were cut off
  isotaxis info session.zip [--json]
      says what a package holds
  isotaxis sort session.zip --out sorted.zip [--rules rules.json] [--tiers 1|2|3] [--json]
      names, colours and routes the tracks by rule, into buses of their families
  isotaxis apply session.zip commands.json --out changed.zip [--json]
      carries a list of commands out on a package, all or nothing; docs/commands.md lists them
  isotaxis trace session.zip CHANNEL [--to CHANNEL] [--at FRAME] [--json]
      says every path of a channel to its output, or to another channel, with the level at each station, as it is set or, with
      --at, as lanes play there
  isotaxis print session.zip --out DIR [--mix] [--stems] [--input] [--raw] [--versions all|NAME,…] [--channels NAME,…]
      [--format wav16|wav24|wav32|wav32f|flac16|flac24] [--range FRAME-FRAME|NAME] [--tail SECONDS|decay|none] [--json]
      prints the mix if nothing is chosen; the stems, the sum that comes into the mix bus (--input), tracks through their inserts
      (--raw), versions, and any track, bus, return or cue by name. 16 bit is dithered (TPDF). Stems with the input, and with the mix,
      are proved to add up: if they do not, the exit status is 1
  isotaxis backup FILE [--json]
      writes everything in ISOTAXIS_DATA into one file: sessions with their undo history, recordings, prints, templates
  isotaxis restore FILE [--json]
      brings it back into ISOTAXIS_DATA; sessions that are there and are otherwise in the backup, or not in it, go into the bin.
      Both need the directory for themselves: stop Isotaxis first

  --json writes one JSON object to standard output. Messages go to standard error.
  Exit status: 0 done, 1 it could not be done, 2 the command was not understood.
`;

class UsageError extends Error {}

export async function main(args: readonly string[], kernel: string): Promise<number> {
  try {
    return await run(args, kernel);
  } catch (error) {
    if (error instanceof UsageError || (error instanceof TypeError && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS'))) {
      process.stderr.write(`isotaxis: ${error.message}\nTry “isotaxis --help”.\n`);
      return 2;
    }
    const { syscall, message } = error as NodeJS.ErrnoException;
    // What the system says of a file (it is not there, its name is too long, the disk is full) is an answer, not a fault.
    if (!(error instanceof Failure) && syscall === undefined) throw error;
    process.stderr.write(`isotaxis: ${message}\n`);
    return 1;
  }
}

async function run(args: readonly string[], kernel: string): Promise<number> {
  const { values, positionals } = parseArgs({
    args: [...args],
    allowPositionals: true,
    options: {
      out: { type: 'string' },
      rate: { type: 'string' },
      name: { type: 'string' },
      format: { type: 'string' },
      ...{ mix: { type: 'boolean' }, stems: { type: 'boolean' }, input: { type: 'boolean' }, raw: { type: 'boolean' } },
      ...{ versions: { type: 'string' }, channels: { type: 'string' }, range: { type: 'string' }, tail: { type: 'string' } },
      rules: { type: 'string' },
      tiers: { type: 'string' },
      ...{ to: { type: 'string' }, at: { type: 'string' } },
      convert: { type: 'boolean' },
      keep: { type: 'boolean' },
      json: { type: 'boolean' },
      help: { type: 'boolean', short: 'h' }
    }
  });
  const [command, subject, ...others] = positionals;
  // Two of them take something besides the package.
  const two = command === 'trace' || command === 'apply';
  const [second] = two ? others : [];
  const rest = two ? others.slice(1) : others;
  if (values.help || command === 'help' || args.length === 0) {
    process.stdout.write(HELP);
    return 0;
  }
  const needed = (value: string | undefined, what: string): string => {
    if (!value) throw new UsageError(`${what} is missing.`);
    return value;
  };
  if (!command) throw new UsageError('a command is missing.');
  if (rest.length) throw new UsageError(`“${rest[0]}” is one argument too many.`);
  const say = (result: object, text: string) => process.stdout.write(values.json ? `${JSON.stringify(result)}\n` : text);
  if (command === 'import') {
    const rate = values.rate === undefined ? null : Number(values.rate);
    if (rate !== null && !(Number.isInteger(rate) && rate >= 1000)) throw new UsageError('--rate takes a number of Hz.');
    const { result, text } = await importFolder(needed(subject, 'the folder'), needed(values.out, '--out'), {
      rate,
      convert: values.convert ?? false,
      keep: values.keep ?? false,
      name: values.name ?? null
    });
    say(result, text);
    return result.refused.length ? 1 : 0;
  }
  if (command === 'info') {
    const { result, text } = await info(needed(subject, 'the package'));
    say(result, text);
    return 0;
  }
  if (command === 'sort') {
    if (values.tiers !== undefined && !/^[123]$/.test(values.tiers)) throw new UsageError('--tiers is 1, 2 or 3.');
    const tiers = values.tiers === undefined ? null : Number(values.tiers);
    const { result, text } = await sort(needed(subject, 'the package'), needed(values.out, '--out'), values.rules ?? null, tiers);
    say(result, text);
    return 0;
  }
  if (command === 'apply') {
    const { result, text } = await apply(
      needed(subject, 'the package'),
      needed(second, 'the list of commands'),
      needed(values.out, '--out')
    );
    say(result, text);
    return 0;
  }
  if (command === 'trace') {
    if (values.at !== undefined && !/^\d{1,12}$/.test(values.at)) throw new UsageError('--at takes a place in frames.');
    const at = values.at === undefined ? null : Number(values.at);
    const { result, text } = await traceChannel(needed(subject, 'the package'), needed(second, 'the channel'), values.to ?? null, at);
    say(result, text);
    return 0;
  }
  if (command === 'print') {
    const format = values.format ?? 'wav24';
    if (!(FORMATS as readonly string[]).includes(format)) throw new UsageError(`--format is one of ${FORMATS.join(', ')}.`);
    const { tail = null } = values;
    if (tail !== null && !/^(decay|none|\d+(\.\d+)?)$/.test(tail)) throw new UsageError('--tail is a number of seconds, decay or none.');
    const { mix = false, stems = false, input = false, raw = false, versions = null, channels = null, range = null, json = false } = values;
    const choice = { mix, stems, input, raw, versions, channels, format: format as Format, range, tail, json };
    const { result, text, held } = await print(needed(subject, 'the package'), needed(values.out, '--out'), choice, kernel);
    say(result, text);
    return held ? 0 : 1;
  }
  if (command === 'backup' || command === 'restore') {
    // The database is loaded for these two alone.
    const { backup, restore } = await import('./backup');
    const { result, text } = await (command === 'backup' ? backup : restore)(needed(subject, 'the file'));
    say(result, text);
    return 0;
  }
  throw new UsageError(`there is no command “${command}”.`);
}
