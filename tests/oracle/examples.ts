// The example of every command, read from its docstring.
import type { Command } from '../../core/commands/index.ts';

const sources = import.meta.glob<string>('../../core/commands/*.ts', { query: '?raw', import: 'default', eager: true });

export type Documented = { readonly sentence: string; readonly example: Command };

/** What the docstrings of a file say, by command; throws where an example is no JSON. */
export function documented(source: string): Map<string, Documented> {
  const found = new Map<string, Documented>();
  for (const [, text] of source.matchAll(/\/\*\*((?:(?!\*\/).)*?@example(?:(?!\*\/).)*)\*\/\nexport const/gs)) {
    const lines = text.split('\n').map((line) => line.replace(/^\s*\* ?/, ''));
    const at = lines.findIndex((line) => line.startsWith('@example'));
    const example = JSON.parse(lines.slice(at).join(' ').replace('@example', '')) as Command;
    found.set(example.do, { sentence: lines.slice(0, at).join(' ').trim(), example });
  }
  return found;
}

export const docstrings: ReadonlyMap<string, Documented> = new Map(
  Object.entries(sources).flatMap(([file, source]) => (file.endsWith('.test.ts') ? [] : [...documented(source)]))
);
export const examples: ReadonlyMap<string, Command> = new Map([...docstrings].map(([name, { example }]) => [name, example]));
