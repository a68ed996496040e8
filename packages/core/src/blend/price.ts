import { Builder, CHANNEL_ROLE, PACKING, optimise, priceOf } from '../compile';
import type { ImageChannel, Price } from '../compile';
import { lowerCoverage } from '../coverage';
import type { Coverage, CueKind, Layer } from '../document';
import { makeBlend, makeCue, makeLayer } from '../document';
import type { Role } from '../surface';
import { BLEND_ROLES, isBlendRole } from '../surface';
import { lowerBlend } from './lower';
import { makeStack } from './stack';

const less = (a: Price, b: Price): Price => ({ samples: a.samples - b.samples, operations: a.operations - b.operations });

/** What one more cue of a kind costs a pixel beside one that changes from place to place. */
export function cuePrice(kind: CueKind): Price {
  const price = (more: Coverage) => {
    const b = new Builder();
    const pictures = new Map([
      ['s/mask/0', 0],
      ['s/id', 0],
      ['painted/p', 0],
    ]);
    const site = { uv: b.texcoord(), below: b.extract(b.node('geomcolor'), 1), level: null, pictures };
    return priceOf(optimise({ c: lowerCoverage(b, { first: makeCue('vertexColour'), ...more }, 'p_', site) }, { hoist: true }).outputs);
  };
  const next = {
    ...makeCue(kind, { order: 2 }),
    ...(kind === 'mask' || kind === 'id' ? { surface: 's' } : kind === 'painted' ? { picture: 'p' } : {}),
  };
  return less(price({ next } as Coverage), price({}));
}

/** Costs of a layer over another of a surface with these maps, changed by `change`, beyond the same layer as it usually is. */
function priceOfChange(change: (layer: Layer) => void, roles: readonly Role[] = BLEND_ROLES): Price {
  const price = (changed: boolean) => {
    const top = makeLayer('s', 'Top', 2, { coverage: { c: makeCue('vertexColour') } });
    if (changed) change(top);
    const stack = makeStack(makeBlend('', { extentM: 1, layers: { a: makeLayer('s', 'Ground', 1), b: top } }), {
      s: { sizeM: 1, reliefM: 0.05, mid: 0.5, roles: new Set(roles) },
    });
    return priceOf(optimise(lowerBlend(stack).channels, { hoist: true }).outputs);
  };
  return less(price(true), price(false));
}

/** What the extras of a layer cost a pixel once they are used, worked out on a layer over one other. */
export const EXTRAS = {
  broken: (l: Layer) => void (l.seam.broken.byM = 0.01),
  detail: (l: Layer) => void (l.seam.detailM = 0.05),
  seamNormal: (l: Layer) => void (l.seam.normal = 1),
  tint: (l: Layer) => void (l.look.tint = '#808080'),
  levels: (l: Layer) => void (l.look.low = 0.1),
  roughness: (l: Layer) => void (l.look.roughness = 0.1),
  turn: (l: Layer) => void (l.look.turn = 90),
  multiply: (l: Layer) => void (l.mode = 'multiply'),
  screen: (l: Layer) => void (l.mode = 'screen'),
  overlay: (l: Layer) => void (l.mode = 'overlay'),
};
export type Extra = keyof typeof EXTRAS;
export const extraPrice = (extra: Extra): Price => priceOfChange(EXTRAS[extra]);

/** Texture fetches a pixel that a layer with these maps costs: one for each packed texture it reads. */
export const layerSamples = (roles: Iterable<Role>): number => {
  const have = new Set(roles);
  const channels = (Object.keys(CHANNEL_ROLE) as ImageChannel[]).filter((c) => isBlendRole(CHANNEL_ROLE[c]) && have.has(CHANNEL_ROLE[c]));
  return new Set(channels.map((c) => PACKING[c].unit)).size;
};
