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

  A name means what is called exactly so; else an id; else what is called so in another case.
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

const TEXT = { type: 'string' } as const;
const SWITCH = { type: 'boolean' } as const;
const OPTIONS = {
  ...{ out: TEXT, rate: TEXT, name: TEXT, format: TEXT, versions: TEXT, channels: TEXT, range: TEXT, tail: TEXT },
  ...{ rules: TEXT, tiers: TEXT, to: TEXT, at: TEXT },
  ...{ mix: SWITCH, stems: SWITCH, input: SWITCH, raw: SWITCH, convert: SWITCH, keep: SWITCH, json: SWITCH },
  help: { type: 'boolean', short: 'h' }
} as const;
type Option = Exclude<keyof typeof OPTIONS, 'help' | 'json'>;
type Values = ReturnType<typeof parseArgs<{ options: typeof OPTIONS }>>['values'];
type Said = { readonly result: object; readonly text: string };

/** A command: what it needs, in order; which options are its own besides --json; how it is done. The answer is its exit status. */
type Command = {
  readonly needs: readonly string[];
  readonly options: readonly Option[];
  readonly run: (needed: readonly string[], values: Values, say: (said: Said) => void, kernel: string) => Promise<number>;
};

const out = ({ out: given }: Values): string => {
  if (!given) throw new UsageError('--out is missing.');
  return given;
};

const COMMANDS: Readonly<Record<string, Command>> = {
  import: {
    needs: ['the folder'],
    options: ['out', 'rate', 'convert', 'keep', 'name'],
    run: async ([folder], values, say) => {
      const rate = values.rate === undefined ? null : Number(values.rate);
      if (rate !== null && !(Number.isInteger(rate) && rate >= 1000)) throw new UsageError('--rate takes a number of Hz.');
      const { convert = false, keep = false, name = null } = values;
      const said = await importFolder(folder, out(values), { rate, convert, keep, name });
      say(said);
      return said.result.refused.length ? 1 : 0;
    }
  },
  info: {
    needs: ['the package'],
    options: [],
    run: async ([file], _, say) => {
      say(await info(file));
      return 0;
    }
  },
  sort: {
    needs: ['the package'],
    options: ['out', 'rules', 'tiers'],
    run: async ([file], values, say) => {
      const { rules = null, tiers = null } = values;
      if (tiers !== null && !/^[123]$/.test(tiers)) throw new UsageError('--tiers is 1, 2 or 3.');
      say(await sort(file, out(values), rules, tiers === null ? null : Number(tiers)));
      return 0;
    }
  },
  apply: {
    needs: ['the package', 'the list of commands'],
    options: ['out'],
    run: async ([file, list], values, say) => {
      say(await apply(file, list, out(values)));
      return 0;
    }
  },
  trace: {
    needs: ['the package', 'the channel'],
    options: ['to', 'at'],
    run: async ([file, channel], { to = null, at = null }, say) => {
      if (at !== null && !/^\d{1,12}$/.test(at)) throw new UsageError('--at takes a place in frames.');
      say(await traceChannel(file, channel, to, at === null ? null : Number(at)));
      return 0;
    }
  },
  print: {
    needs: ['the package'],
    options: ['out', 'mix', 'stems', 'input', 'raw', 'versions', 'channels', 'format', 'range', 'tail'],
    run: async ([file], values, say, kernel) => {
      const { format = 'wav24', tail = null } = values;
      if (!(FORMATS as readonly string[]).includes(format)) throw new UsageError(`--format is one of ${FORMATS.join(', ')}.`);
      if (tail !== null && !/^(decay|none|\d+(\.\d+)?)$/.test(tail)) throw new UsageError('--tail is a number of seconds, decay or none.');
      const { mix = false, stems = false, input = false, raw = false, json = false } = values;
      const { versions = null, channels = null, range = null } = values;
      const choice = { mix, stems, input, raw, versions, channels, format: format as Format, range, tail, json };
      const said = await print(file, out(values), choice, kernel);
      say(said);
      return said.held ? 0 : 1;
    }
  },
  // The database is loaded for these two alone.
  backup: {
    needs: ['the file'],
    options: [],
    run: async ([file], _, say) => {
      say(await (await import('./backup')).backup(file));
      return 0;
    }
  },
  restore: {
    needs: ['the file'],
    options: [],
    run: async ([file], _, say) => {
      say(await (await import('./backup')).restore(file));
      return 0;
    }
  }
};

async function run(args: readonly string[], kernel: string): Promise<number> {
  const { values, positionals } = parseArgs({ args: [...args], allowPositionals: true, options: OPTIONS });
  const [name, ...given] = positionals;
  if (values.help || name === 'help' || args.length === 0) {
    process.stdout.write(HELP);
    return 0;
  }
  if (!name) throw new UsageError('a command is missing.');
  if (!Object.hasOwn(COMMANDS, name)) throw new UsageError(`there is no command “${name}”.`);
  const command = COMMANDS[name];
  const strange = Object.keys(values).find((each) => each !== 'json' && !command.options.includes(each as Option));
  if (strange) throw new UsageError(`“isotaxis ${name}” has no option --${strange}.`);
  const missing = command.needs.find((_, i) => !given[i]);
  if (missing) throw new UsageError(`${missing} is missing.`);
  if (given.length > command.needs.length) throw new UsageError(`“${given[command.needs.length]}” is one argument too many.`);
  return command.run(
    given,
    values,
    ({ result, text }) => void process.stdout.write(values.json ? `${JSON.stringify(result)}\n` : text),
    kernel
  );
}
