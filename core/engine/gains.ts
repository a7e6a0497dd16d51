// Where every gain of a plan ought to be, from the session's levels, pans, mutes and what solo leaves open.
import type { Audibility } from '../routing/audibility.ts';
import { rowsBy } from '../session/lookup.ts';
import { settingsOf, type Channel, type Send, type Session } from '../session/entities.ts';
import { MIX } from '../session/create.ts';
import { sounds } from '../session/vcas.ts';
import type { Db } from '../units.ts';
import { isCrossed, lawOf, placement } from '../routing/placement.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { widthOf } from '../routing/width.ts';
import { CELLS } from './plan/plan.ts';
import type { Kernel } from '../kernel/kernel.ts';
import { outputName, sendEdgeOf } from './topology.ts';

/** Says the target of the gain with this key. */
export type Say = (key: string, target: number) => void;

export type Gains = {
  /** A channel's own gains and those of its sends. */
  readonly channel: (id: string, say: Say) => void;
  readonly send: (key: string, say: Say) => void;
};

/** By stem, what a version that is listened to adds on its way into the mix bus, dB. */
export type StemLevels = ReadonlyMap<string, Db>;

export function gainsOf(session: Session, heard: Audibility, kernel: Kernel, stems: StemLevels): Gains {
  const law = settingsOf(session).panLaw;
  const centreOf = (channel: Channel) => lawOf(channel, law);
  const faderOf = (channel: Channel) => (mutedOf(session, channel) ? 0 : kernel.gainOf(levelOf(session, channel)));

  const stemGain = ({ id, stem, outputId }: Channel) => (stem && outputId === MIX ? kernel.gainOf(stems.get(id) ?? 0) : 1);

  const sendGain = (send: Send, source: Channel, say: Say) => {
    const edge = sendEdgeOf(session, send);
    const passed = send.on ? heard.sendGain(send.sourceId, send.targetId) : 0;
    const level = passed === 0 ? 0 : kernel.gainOf(send.levelDb) * passed;
    if (!edge.sided) {
      say(edge.key, edge.faded ? level * faderOf(source) : level);
      return;
    }
    const gain = edge.faded ? level * faderOf(source) : level;
    const [position, centre] = send.mono ? [send.pan ?? 0, 0] : [send.pan ?? source.pan, centreOf(source)];
    say(`${edge.key} L`, gain * kernel.panLeft(position / 100, centre));
    say(`${edge.key} R`, gain * kernel.panLeft(-position / 100, centre));
  };

  return {
    channel: (id, say) => {
      const channel = session.channel.get(id);
      if (!channel || !sounds(channel)) return;
      const fader = faderOf(channel);
      const centre = centreOf(channel);
      say(`i ${id}`, kernel.gainOf(channel.trimDb) * (channel.polarity ? -1 : 1));
      if (isCrossed(channel, widthOf(session, channel))) {
        placement(channel, law, kernel.panLeft).forEach((gain, i) => say(`m ${id} ${CELLS[i]}`, gain));
        say(`g ${id} L`, fader);
        say(`g ${id} R`, fader);
      } else {
        say(`g ${id} L`, fader * kernel.panLeft(channel.pan / 100, centre));
        say(`g ${id} R`, fader * kernel.panLeft(-channel.pan / 100, centre));
      }
      if (channel.outputId !== null || channel.outputPair !== null)
        say(outputName(id, channel.outputId, channel.outputPair), heard.outputGain(id) * stemGain(channel));
      for (const send of rowsBy(session, 'send', 'sourceId', id)) sendGain(send, channel, say);
    },
    send: (key, say) => {
      const send = session.send.get(key);
      const source = send && session.channel.get(send.sourceId);
      if (send && source) sendGain(send, source, say);
    }
  };
}
