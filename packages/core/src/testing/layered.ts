// Blends of a few small maps, evaluated in a row of texels, for specs of layers and seams.
import type {
  BlendDocument,
  BlendRole,
  BlendSurface,
  Coverage,
  Domain,
  GBuffer,
  Image,
  Layer,
  LayerContent,
  LayerLook,
  Seam,
  Sources,
} from '../index';
import {
  BLEND_ROLES,
  evaluate,
  flatDomain,
  generateSurface,
  lowerBlend,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  makeStack,
  optimise,
  readsOf,
  sourcesOfMaps,
  stackValues,
} from '../index';

const size = 32;
const flatSide = 8;
/** One value all over. */
export const even = (value: number, channels = 1): Image =>
  makeImage({ width: flatSide, height: flatSide, channels, depth: 16, data: new Uint16Array(flatSide * flatSide * channels).fill(value * 65535) });
/** Height rises along u from 0 to 1, in eight steps. */
export const steps = makeImage({
  width: flatSide,
  height: flatSide,
  channels: 1,
  depth: 16,
  data: Uint16Array.from({ length: 64 }, (_, i) => Math.round(((i % 8) / 8) * 65535)),
});
export const moss = generateSurface('cushion-moss', { seed: 5, size });
export const stone = generateSurface('terrace-stone', { seed: 2, size });
export const MAPS: Record<string, Partial<Record<BlendRole | 'id' | 'mask', Image>>> = {
  moss: moss.maps,
  stone: stone.maps,
  step: { height: steps, roughness: even(0.5), baseColor: even(0.2, 3), occlusion: even(1) },
  level: { height: even(0.5), roughness: even(0.25), baseColor: even(0.6, 3), occlusion: even(1) },
};
export const surfaces: Record<string, BlendSurface> = {
  moss: { ...moss.facts, roles: new Set(BLEND_ROLES) },
  stone: { ...stone.facts, roles: new Set(BLEND_ROLES) },
  step: { sizeM: 1, reliefM: 0.08, mid: 0.5, roles: new Set(['height', 'roughness', 'baseColor', 'occlusion']) },
  level: { sizeM: 1, reliefM: 0.08, mid: 0.5, roles: new Set(['height', 'roughness', 'baseColor', 'occlusion']) },
};
export const constant = (value: number): Coverage => ({ c: makeCue('constant', { value }) });
export const layerOf = (
  shows: string | LayerContent,
  order: number,
  over: Partial<Omit<Layer, 'seam' | 'look'>> & { seam?: Partial<Seam>; look?: Partial<LayerLook> } = {},
): Layer => {
  const layer = makeLayer(shows, 'Layer', order);
  return { ...layer, ...over, seam: { ...layer.seam, ...over.seam }, look: { ...layer.look, ...over.look } };
};
export const blendOf = (layers: Record<string, Layer>, over: Partial<BlendDocument> = {}): BlendDocument =>
  makeBlend('Test', { extentM: 1, layers, ...over });

export function picture(
  blend: BlendDocument,
  width = 8,
  options: { height?: number; geometry?: GBuffer; blends?: Record<string, BlendDocument>; without?: string; far?: boolean; domain?: Domain } = {},
) {
  const stack = makeStack(blend, surfaces, options.blends);
  const lowered = lowerBlend(stack, { far: options.far });
  const finders = stack.slots.map((id) => sourcesOfMaps(MAPS[id], readsOf(lowered.channels).levels || options.far));
  const sources: Sources = (slot, channel) => finders[slot](channel) as NonNullable<ReturnType<(typeof finders)[0]>>;
  const outputs = { ...lowered.channels, specular: lowered.specular, weight: lowered.probes.at(-1)!.weight, level: lowered.probes.at(-1)!.height };
  const out = evaluate(optimise(outputs).outputs, {
    domain: options.domain ?? flatDomain(width, options.height ?? 1, blend.extentM, options.geometry),
    sources,
    values: stackValues(stack, { without: options.without }),
  });
  return { stack, out, of: (name: keyof typeof outputs, component = 0) => [...out[name][component]] };
}
export const smooth = (t: number) => t * t * (3 - 2 * t);
export const held = (t: number) => Math.min(1, Math.max(0, t));
