import { Builder, CHANNEL_ROLE, PACKING, optimise, priceOf } from '../compile';
import type { ImageChannel } from '../compile';
import { lowerCoverage } from '../coverage';
import type { BlendDocument, Cue, CueKind } from '../document';
import { makeCue, makeLayer } from '../document';
import type { Role } from '../surface';
import { lowerBlend } from './lower';
import { makeStack } from './stack';

/** Operations a pixel that one more cue of a kind costs beside one that changes from place to place. */
export function cuePrice(kind: CueKind): number {
  const price = (more: Record<string, Cue>) =>
    priceOf(optimise({ c: lowerCoverage(new Builder(), { first: makeCue('vertexColour'), ...more }, 'p_') }, { hoist: true }).outputs).operations;
  return price({ next: makeCue(kind, { order: 2 }) }) - price({});
}

/** Operations a pixel that a broken-up seam costs over a plain one. */
export function breakUpPrice(): number {
  const price = (byM: number) => {
    const top = makeLayer('s', 'Top', 2);
    const blend: BlendDocument = {
      kind: 'blend',
      version: 1,
      name: '',
      extentM: 1,
      specimen: 'patch',
      cut: { ax: 0, ay: 0, bx: 1, by: 1 },
      layers: { a: makeLayer('s', 'Ground', 1), b: { ...top, seam: { ...top.seam, broken: { ...top.seam.broken, byM } } } },
    };
    const stack = makeStack(blend, { s: { sizeM: 1, reliefM: 0.05, mid: 0.5, roles: new Set<Role>(['height']) } });
    return priceOf(optimise({ h: lowerBlend(stack).channels.height }, { hoist: true }).outputs).operations;
  };
  return price(0.01) - price(0);
}

/** Texture fetches a pixel that a layer with these maps costs: one for each packed texture it reads. */
export const layerSamples = (roles: Iterable<Role>): number => {
  const have = new Set(roles);
  const channels = (Object.keys(CHANNEL_ROLE) as ImageChannel[]).filter((c) => c !== 'opacity' && have.has(CHANNEL_ROLE[c]));
  return new Set(channels.map((c) => PACKING[c].unit)).size;
};
