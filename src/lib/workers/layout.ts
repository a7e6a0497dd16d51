// Lays the Map out beside the page: hundreds of channels must not hold up what is being drawn.
/// <reference lib="webworker" />
import { flowMap, touchedBy, type FlowMap } from '$core/routing/flowMap';
import { topological } from '$core/routing/graph';
import { decodeSession, type SessionDocument } from '$core/session/tables';

export type LayoutOrder = {
  readonly serial: number;
  readonly document: SessionDocument;
  /** These and what they touch; null is everything. */
  readonly selected: readonly string[] | null;
  readonly folded: readonly string[];
  /** Whether headphone mixes are drawn. */
  readonly cues: boolean;
};
export type LayoutAnswer = { readonly serial: number; readonly map: FlowMap };

onmessage = ({ data }: MessageEvent<LayoutOrder>) => {
  const session = decodeSession(data.document);
  const touched = data.selected ? touchedBy(session, new Set(data.selected)) : new Set(session.channel.keys());
  const only = new Set([...touched].filter((id) => data.cues || session.channel.get(id)?.kind !== 'cue'));
  const map = flowMap(session, topological(session), { only, folded: new Set(data.folded) });
  postMessage({ serial: data.serial, map } satisfies LayoutAnswer);
};
