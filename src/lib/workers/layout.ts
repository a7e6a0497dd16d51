// Lays the Map out beside the page: hundreds of channels must not hold up what is being drawn.
/// <reference lib="webworker" />
import { flowMap, type FlowMap } from '$core/map/flowMap';
import { touchedBy } from '$core/map/touched';
import { topological } from '$core/routing/graph';
import { decodeSession, type SessionDocument } from '$core/session/tables';

export type LayoutOrder = {
  readonly serial: number;
  readonly document: SessionDocument;
  /** These and what they touch; null is everything. */
  readonly selected: readonly string[] | null;
  /** Branches to fold; null folds what does not fit. */
  readonly folded: readonly string[] | null;
  /** The window, pixels. */
  readonly width: number;
  readonly height: number;
  /** The smallest scale that can be read. */
  readonly readable: number;
  /** Whether headphone mixes are drawn. */
  readonly cues: boolean;
};
export type LayoutAnswer = { readonly serial: number; readonly map: FlowMap };

onmessage = ({ data }: MessageEvent<LayoutOrder>) => {
  const session = decodeSession(data.document);
  const touched = data.selected ? touchedBy(session, new Set(data.selected)) : new Set(session.channel.keys());
  const only = new Set([...touched].filter((id) => data.cues || session.channel.get(id)?.kind !== 'cue'));
  const { width, height, readable, folded } = data;
  const map = flowMap(session, topological(session), { only, folded: folded && new Set(folded), width, height, readable });
  postMessage({ serial: data.serial, map } satisfies LayoutAnswer);
};
