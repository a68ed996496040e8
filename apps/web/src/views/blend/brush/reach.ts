import { MAX_FINER, MAX_PAINTED, VERTEX_BYTES, finerFor, reachedBy } from '@pebble/core';
import { bytesText } from '../../../ui/bytes';

/** How many vertices a dab reaches, in words; what more of them would cost where these are too few and more can be made. */
export interface Reach {
  enough: boolean;
  say: string;
  price: string | null;
}

/**
 * @param count vertices of the mesh, and `spacingM` their mean distance
 * @param edges of the mesh, each of which gets a vertex when it is made finer; null while they are not counted
 * @param finer how often it was made finer already
 */
export function reachOf(
  radiusM: number,
  { count, spacingM }: { count: number; spacingM: number },
  { edges, finer }: { edges: number | null; finer: number },
): Reach {
  const reach = reachedBy(radiusM, spacingM);
  if (!finerFor(radiusM, spacingM)) return { enough: true, say: `about ${Math.round(reach).toLocaleString('en')} vertices in a dab`, price: null };
  const say = `about ${reach < 1 ? 'no' : Math.round(reach)} ${Math.round(reach) === 1 ? 'vertex' : 'vertices'} in a dab: too few`;
  if (finer >= MAX_FINER) return { enough: false, say: `${say}. It is as fine as it gets: use a wider brush`, price: null };
  const next = count + (edges ?? 0);
  const can = edges !== null && next <= MAX_PAINTED;
  const price = can ? `${count.toLocaleString('en')} → ${next.toLocaleString('en')} vertices, +${bytesText((edges ?? 0) * VERTEX_BYTES)}` : null;
  return { enough: false, say, price };
}
