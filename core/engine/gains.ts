// Where every gain of a plan ought to be, from the session's levels, pans, mutes and what solo leaves open; and what it follows where a
// lane plays.
import type { Audibility } from '../routing/audibility.ts';
import { rowsBy } from '../session/lookup.ts';
import { settingsOf, type Channel, type PanLaw, type Send, type Session } from '../session/entities.ts';
import { MIX } from '../session/create.ts';
import { sounds, vcasAbove } from '../session/vcas.ts';
import type { Db } from '../units.ts';
import { lawOf, placement } from '../routing/placement.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { widthOf } from '../routing/width.ts';
import { cellRamp, CELLS } from './plan/plan.ts';
import type { Kernel } from '../kernel/kernel.ts';
import { made, type Curve } from './lanes/curve.ts';
import type { Course } from './lanes/group.ts';
import type { Curves } from './lanes/read.ts';
import type { Asked } from '../lanes/points.ts';
import { crosses, outputName, sendEdgeOf } from './topology.ts';

/** Says the target of the gain with this key, and the course that it follows instead, if it follows one. */
export type Say = (key: string, target: number, course: Course | null) => void;

export type Gains = {
  /** A channel's own gains and those of its sends. */
  readonly channel: (id: string, say: Say) => void;
  readonly send: (key: string, say: Say) => void;
};

/** By stem, what a version that is listened to adds on its way into the mix bus, dB. */
export type StemLevels = ReadonlyMap<string, Db>;

/** What a course is, or null where nothing of it moves. */
const moving = (level: Course): Course | null => (level.factor === 0 || level.curves.length === 0 ? null : level);
const some = (curves: readonly (Curve | null)[]): Curve[] => curves.filter((curve) => curve !== null);

export function gainsOf(session: Session, heard: Audibility, kernel: Kernel, stems: StemLevels, curves: Curves): Gains {
  const { panLaw: law, muteClosesPre, muteClosesCue } = settingsOf(session);
  const led = session.lane.size > 0;
  const centreOf = (channel: Channel) => lawOf(channel, law);

  /** The lanes that mute a channel: its own and those of the VCAs above. */
  const mutesOf = (channel: Channel): Curve[] =>
    led ? some([channel.id, ...vcasAbove(session, channel.id)].map((channelId) => curves.of({ channelId, of: 'mute' }))) : [];

  const faderOf = (channel: Channel): Course => {
    if (mutedOf(session, channel)) return { factor: 0, curves: [] };
    if (!led) return { factor: kernel.gainOf(levelOf(session, channel)), curves: [] };
    const { id } = channel;
    const own = [id, ...vcasAbove(session, id)].map((each) => ({
      level: session.channel.get(each)?.faderDb ?? 0,
      lane: curves.of({ channelId: each, of: 'fader' })
    }));
    const moves = some([...own.map(({ lane }) => lane), curves.of({ channelId: id, of: 'faderTrim' }), ...mutesOf(channel)]);
    // What does not move is one sum, as it is without lanes.
    const still = own.reduce((sum, { level, lane }) => (lane ? sum : sum + level), 0);
    return { factor: kernel.gainOf(own.length > 1 ? Math.round(still * 1e9) / 1e9 : still), curves: moves };
  };

  /** The lane of its pin, if it plays. */
  const panOf = ({ id: channelId }: Channel): Asked | null =>
    led && curves.of({ channelId, of: 'pan' }) ? { channelId, of: 'pan' } : null;

  const stemGain = ({ id, stem, outputId }: Channel) => (stem && outputId === MIX ? kernel.gainOf(stems.get(id) ?? 0) : 1);

  /** A level, placed by a pin that may move; the target is what it is without what moves. */
  const placed = (say: Say, key: string, level: Course, pin: number, lane: Asked | null, side: 'left' | 'right', law: PanLaw) => {
    const curve = lane && curves.pin(lane, side, law);
    const at = kernel.panLeft((side === 'left' ? pin : -pin) / 100, law);
    const factor = curve ? level.factor : level.factor * at;
    say(key, level.factor * at, moving({ factor, curves: curve ? [...level.curves, curve] : level.curves }));
  };

  const sendLevel = (send: Send, source: Channel, passed: number): Course => {
    const { sourceId: channelId, targetId, levelDb, on, tap } = send;
    const own = (of: 'sendLevel' | 'sendTrim' | 'sendOn') => (led ? curves.of({ channelId, of, targetId }) : null);
    const [level, trim, switched] = [own('sendLevel'), own('sendTrim'), own('sendOn')];
    if (passed === 0 || (!on && !switched)) return { factor: 0, curves: [] };
    const closes = tap !== 'post' && (session.channel.get(targetId)?.kind === 'cue' ? muteClosesCue : muteClosesPre);
    return {
      factor: (level ? 1 : kernel.gainOf(levelDb)) * passed,
      curves: [...some([level, trim, switched]), ...(closes ? mutesOf(source) : [])]
    };
  };
  const both = (a: Course, b: Course): Course => ({ factor: a.factor * b.factor, curves: [...a.curves, ...b.curves] });

  const sendGain = (send: Send, source: Channel, say: Say) => {
    const edge = sendEdgeOf(session, send);
    const own = sendLevel(send, source, heard.sendGain(send.sourceId, send.targetId));
    const level = edge.faded ? both(own, faderOf(source)) : own;
    if (!edge.sided) {
      say(edge.key, level.factor, moving(level));
      return;
    }
    const follows = !send.mono && send.pan === null;
    const [position, centre]: [number, PanLaw] = send.mono ? [send.pan ?? 0, 0] : [send.pan ?? source.pan, centreOf(source)];
    const lane = follows ? panOf(source) : null;
    placed(say, `${edge.key} L`, level, position, lane, 'left', centre);
    placed(say, `${edge.key} R`, level, position, lane, 'right', centre);
  };

  /** The cells of a channel's matrix, at each of its taps. */
  const cells = (channel: Channel, say: Say) => {
    const lane = (of: 'pan' | 'panRight' | 'spread') => (led ? curves.of({ channelId: channel.id, of }) : null);
    const [pan, right, spread] = [lane('pan'), channel.panRight === null ? null : lane('panRight'), lane('spread')];
    const still = placement(channel, law, kernel.panLeft);
    const moves = some([pan, right, spread]);
    let [known, worth] = [NaN, still];
    const at = (frame: number) => {
      if (frame !== known) {
        known = frame;
        worth = placement(
          {
            width: channel.width,
            pan: pan?.at(frame) ?? channel.pan,
            panRight: right?.at(frame) ?? channel.panRight,
            spread: spread?.at(frame) ?? channel.spread
          },
          law,
          kernel.panLeft
        );
      }
      return worth;
    };
    for (const tap of ['input', 'pre'] as const)
      CELLS.forEach((cell, i) =>
        say(cellRamp(channel.id, tap, cell), still[i], moves.length ? { factor: 1, curves: [made(moves, (frame) => at(frame)[i])] } : null)
      );
  };

  return {
    channel: (id, say) => {
      const channel = session.channel.get(id);
      if (!channel || !sounds(channel)) return;
      const fader = faderOf(channel);
      say(`i ${id}`, kernel.gainOf(channel.trimDb) * (channel.polarity ? -1 : 1), null);
      if (crosses(session, channel, widthOf(session, channel))) {
        cells(channel, say);
        for (const side of ['L', 'R']) say(`g ${id} ${side}`, fader.factor, moving(fader));
      } else {
        const lane = panOf(channel);
        placed(say, `g ${id} L`, fader, channel.pan, lane, 'left', centreOf(channel));
        placed(say, `g ${id} R`, fader, channel.pan, lane, 'right', centreOf(channel));
      }
      if (channel.outputId !== null || channel.outputPair !== null)
        say(outputName(id, channel.outputId, channel.outputPair), heard.outputGain(id) * stemGain(channel), null);
      for (const send of rowsBy(session, 'send', 'sourceId', id)) sendGain(send, channel, say);
    },
    send: (key, say) => {
      const send = session.send.get(key);
      const source = send && session.channel.get(send.sourceId);
      if (send && source) sendGain(send, source, say);
    }
  };
}
