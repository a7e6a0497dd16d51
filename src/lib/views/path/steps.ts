// The six steps of the job, as the demo is walked through: where each happens, what to do, and how one sees that it is done.
import { idsBy } from '$core/session/lookup';
import type { Session } from '$core/session/entities';

export type Step = {
  readonly title: string;
  /** The view in which it happens. */
  readonly view: string;
  readonly text: string;
  /** What the step changes: it is done once this is otherwise than when the step began. Without it, it is only looked at. */
  readonly mark?: (session: Session) => string;
};

const levels = (session: Session) => [...session.channel.values()].map(({ id, faderDb }) => `${id} ${faderDb}`).join();

export const STEPS: readonly Step[] = [
  {
    title: 'Take stock',
    view: 'roster',
    text: '24 files as they arrived. Press a thumbnail to hear a track; Space plays all of them, flat.'
  },
  {
    title: 'Sort by rule',
    view: 'roster',
    text: 'Press “Sort by rule…”: names, colours and buses by family. Look at the tree it would make, then sort.',
    mark: (session) => String(idsBy(session, 'channel', 'kind', 'bus').length)
  },
  {
    title: 'Set levels',
    view: 'ledger',
    text: 'Press Space, then drag a row’s pin or type a number into its level. Ctrl+Z takes anything back.',
    mark: levels
  },
  {
    title: 'Send to a return',
    view: 'ledger',
    text: 'Choose the choir’s rows, press e and type a name: a new return. Its sends begin at −∞: raise them in its column.',
    mark: (session) => [...session.send.values()].map(({ sourceId, targetId, levelDb }) => `${sourceId} ${targetId} ${levelDb}`).join()
  },
  {
    title: 'Follow a signal',
    view: 'map',
    text: 'Press a name: its ways to the output stand out, with the level at every station.'
  },
  {
    title: 'Print',
    view: 'prints',
    text: 'Print the mix and its stems. The files are measured, and proved to add up to the mix.'
  }
];
