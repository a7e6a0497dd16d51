// How an edit ends, whatever it was (decision 26): overlaps are resolved, fades fit, edges that it made are softened, pieces that meet healed.
import type { Clip } from '../session/entities.ts';
import { clipEnd, crosses, overlapIn } from '../session/joints.ts';
import { edgesBefore, heal, soften } from './edges.ts';
import { carve, ownOf, put, type Lay } from './lay.ts';

export type Settling = { readonly onTop?: ReadonlySet<string>; readonly meant?: ReadonlySet<string> };

/**
 * Brings tracks back to what may stand together. What is `on top` cuts what lies beneath, of equals the later the earlier; fades fit;
 * pieces that meet again sound as one; an edge that was not there before, or was none, gets the session's edge fade, but for those that
 * are `meant` to be as they are, as "id in" and "id out".
 */
export function settle(lay: Lay, { onTop = new Set(), meant = new Set() }: Settling = {}): void {
  const channels = new Set([...lay.clips.values()].filter((clip) => lay.before.get(clip.id) !== clip).map(({ channelId }) => channelId));
  for (const { channelId, id } of lay.before.values()) if (lay.clips.get(id)?.channelId !== channelId) channels.add(channelId);
  const was = edgesBefore(lay);
  for (const channelId of channels) {
    for (let pair = overlapIn(ownOf(lay, channelId)); pair; pair = overlapIn(ownOf(lay, channelId))) {
      const [earlier, later] = pair;
      const [upper, lower] = onTop.has(earlier.id) && !onTop.has(later.id) ? [earlier, later] : [later, earlier];
      carve(lay, lower, upper.start, clipEnd(upper), upper);
    }
    for (const clip of ownOf(lay, channelId)) fit(lay, clip);
    heal(lay, channelId, was);
    soften(lay, channelId, was, meant);
  }
}

/** Fades that are longer together than their clip: those that cross stay, others give way. */
function fit(lay: Lay, clip: Clip): void {
  const { fadeIn, fadeOut, length } = clip;
  if (fadeIn + fadeOut <= length) return;
  const crossed = ownOf(lay, clip.channelId).some((other) => crosses(other, clip));
  const kept = crossed ? Math.min(length, fadeIn) : Math.floor((length * fadeIn) / (fadeIn + fadeOut));
  put(lay, { ...clip, fadeIn: kept, fadeOut: Math.min(fadeOut, length - kept) });
}
