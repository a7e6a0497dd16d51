// Mute and solo by cases: who is heard, and which edges carry it.
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { audibility } from './audibility.ts';

/** lead and choir in VOICES, drum in DRUMS; all send to a room in VOICES and to a hall in the mix; click goes nowhere near. */
const desk = (...commands: Command[]) =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'lead' }, { id: 'choir' }, { id: 'drum' }, { id: 'click' }]),
    { do: 'buses.add', id: 'VOICES', name: 'VOICES', members: ['lead', 'choir'] },
    { do: 'buses.add', id: 'DRUMS', name: 'DRUMS', members: ['drum'] },
    { do: 'returns.add', id: 'room', name: 'room', outputId: 'VOICES', sources: ['lead', 'choir'] },
    { do: 'returns.add', id: 'hall', name: 'hall', sources: ['lead', 'drum', 'room'] },
    ...commands
  );
const solo = (...ids: string[]): Command => ({ do: 'solos.set', ids, on: true });

/** Open main outputs and sends, as words. */
function open(...commands: Command[]): { outputs: string; sends: string } {
  const session = desk(...commands);
  const { outputOpen, sendOpen } = audibility(session);
  const outputs = [...session.channel.keys()].filter((id) => id !== 'mix' && outputOpen(id));
  const sends = [...session.send.values()].filter(({ sourceId, targetId }) => sendOpen(sourceId, targetId));
  return {
    outputs: outputs.sort().join(' '),
    sends: sends
      .map(({ sourceId, targetId }) => `${sourceId}>${targetId}`)
      .sort()
      .join(' ')
  };
}

describe('audibility', () => {
  it.each<[string, Command[], string, string]>([
    ['nothing soloed: all open', [], 'DRUMS VOICES choir click drum hall lead room', 'choir>room drum>hall lead>hall lead>room room>hall'],
    [
      'a soloed track is heard through its bus and with its reverbs',
      [solo('lead')],
      'VOICES hall lead room',
      'lead>hall lead>room room>hall'
    ],
    [
      'a soloed bus plays all it contains, with chained reverbs',
      [solo('VOICES')],
      'VOICES choir hall lead room',
      'choir>room lead>hall lead>room room>hall'
    ],
    ['a soloed return plays only the wet sound', [solo('hall')], 'hall', 'choir>room drum>hall lead>hall lead>room room>hall'],
    ['an unsafe return leaves a soloed track dry', [solo('drum'), { do: 'safes.set', ids: ['hall'], on: false }], 'DRUMS drum', ''],
    [
      'a solo-safe track is always heard',
      [solo('drum'), { do: 'safes.set', ids: ['click'], on: true }],
      'DRUMS click drum hall',
      'drum>hall'
    ],
    ['mute wins over solo', [solo('lead'), { do: 'mutes.set', ids: ['lead'], on: true }], 'VOICES hall room', 'room>hall']
  ])('%s', (_, commands, outputs, sends) => {
    expect(open(...commands)).toEqual({ outputs, sends });
  });

  it('mute closes post sends always, pre sends by setting', () => {
    const pre: Command = { do: 'sends.set', sends: [{ source: 'lead', target: 'hall', tap: 'pre' }] };
    const mute: Command = { do: 'mutes.set', ids: ['lead'], on: true };
    expect(open(pre, mute).sends).toBe('choir>room drum>hall room>hall');
    expect(open(pre, mute, { do: 'settings.set', muteClosesPre: false }).sends).toBe('choir>room drum>hall lead>hall room>hall');
  });

  it('says why, and prints ignore solo', () => {
    const session = desk(solo('lead'), { do: 'mutes.set', ids: ['click'], on: true });
    const { state } = audibility(session);
    expect(state('drum')).toEqual({ heard: 'silent', why: 'Silent: Track lead is soloed' });
    expect(state('click').heard).toBe('muted');
    expect(state('VOICES').heard).toBe('heard');
    const print = audibility(session, { solo: false });
    expect([print.outputOpen('drum'), print.outputOpen('click')]).toEqual([true, false]);
  });
});
