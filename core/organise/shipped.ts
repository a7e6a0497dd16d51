// The templates that come with Isotaxis, of our own scenario: a band with choir, and a small group with speech.
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { MIX, newSession } from '../session/create.ts';
import { commit } from '../session/changes.ts';
import { defaultRules } from './defaultRules.ts';
import { sortPlan, type SortOptions } from './sort.ts';
import { structureOf, type Template } from './template.ts';
import { treeDefaults } from './tree.ts';

type Plan = {
  readonly name: string;
  readonly tracks: readonly string[];
  readonly wide: readonly string[];
  readonly options: Partial<SortOptions>;
  readonly returns: readonly string[];
};

const PLANS: readonly Plan[] = [
  {
    name: 'Evening band with choir',
    tracks: [
      ...['Surdo low', 'Surdo high', 'Caixa', 'Repique', 'Shaker L', 'Shaker R', 'Bass pan', 'Guitar pan'],
      ...['Double seconds L', 'Double seconds R', 'Tenor pan L', 'Tenor pan R', 'Sousaphone', 'Trombone', 'Trumpet 1', 'Trumpet 2'],
      ...['Choir S', 'Choir A', 'Choir T', 'Choir B', 'Lead voice', 'Lead voice double', 'Room', 'Slate']
    ],
    wide: ['Room'],
    options: { contained: '{bus} room' },
    returns: []
  },
  {
    name: 'Stems for a small group',
    tracks: [
      'Kick',
      'Snare',
      'Overhead L',
      'Overhead R',
      'Shaker',
      'Bass',
      'Guitar L',
      'Guitar R',
      'Piano',
      'Lead voice',
      'Backing voice 1',
      'Backing voice 2',
      'Speaker',
      'Click'
    ],
    wide: ['Piano'],
    options: { tiers: 3, chain: 'SUM', common: 'EFFECTS' },
    returns: ['Small room', 'Long hall']
  }
];

function built({ name, tracks, wide, options, returns }: Plan): Template {
  const session = newSession({ name });
  const act = (commands: readonly Command[]) => {
    const planned = planBatch(session, commands);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
  };
  let made = 0;
  const newId = () => `${++made}`;
  const media = (track: string, i: number) => ({
    id: `m${i}`,
    name: `${track}.wav`,
    sha256: '0'.repeat(64),
    rate: 48000,
    channels: wide.includes(track) ? 2 : 1,
    frames: 1,
    encoding: 's24' as const,
    peakDb: 0,
    origin: null
  });
  act([{ do: 'tracks.add', tracks: tracks.map((track, i) => ({ id: `track-${i + 1}`, name: track, media: media(track, i) })) }]);
  for (const effect of returns) act([{ do: 'returns.add', id: newId(), name: effect, outputId: MIX }]);
  act(sortPlan(session, { book: defaultRules, options: { ...treeDefaults, rename: false, reorder: true, ...options }, newId }).commands);
  return { name, session: structureOf(session), rules: null };
}

export const shippedTemplates = (): Template[] => PLANS.map(built);
