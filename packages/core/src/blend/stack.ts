import type { Values } from '../compile';
import { coverageShape, coverageValues, noiseCells } from '../coverage';
import type { BlendDocument, Layer } from '../document';
import { inOrder } from '../document';
import type { Role, SurfaceFacts } from '../surface';

/** What a blend needs to know of a surface to compile: its size and which maps it has. */
export interface BlendSurface extends SurfaceFacts {
  roles: ReadonlySet<Role>;
}

export interface StackLayer {
  id: string;
  layer: Layer;
  surface: BlendSurface;
  /** Which of the distinct surfaces it shows. */
  slot: number;
  /** Whole repetitions of the surface over the extent. */
  repeats: number;
  /** Constant of the crossover: the larger of its own relief and that of what lies below, in metres. */
  span: number;
}

/** The layers that take part, from the bottom, with what interval arithmetic says of their heights. */
export interface Stack {
  extentM: number;
  layers: StackLayer[];
  /** Ids of the distinct surfaces, by slot. */
  slots: string[];
  /** Bounds of the blended height in metres. */
  lo: number;
  hi: number;
}

/** Eight hues for identity, distinguishable for the colour-blind (Okabe & Ito 2008, reordered). sRGB 0–255. */
export const LAYER_HUES: readonly (readonly [number, number, number])[] = [
  [138, 133, 124],
  [213, 94, 0],
  [0, 135, 104],
  [86, 160, 213],
  [204, 121, 167],
  [200, 150, 0],
  [0, 94, 158],
  [90, 80, 60],
];

/**
 * Which layers take part: those switched on, or only the soloed ones, whose surface is known. The lowest is the ground.
 */
export function makeStack(blend: BlendDocument, surfaces: Readonly<Record<string, BlendSurface>>): Stack {
  const known = inOrder(blend.layers).filter((l) => surfaces[l.surface]);
  const solo = known.filter((l) => l.solo);
  const chosen = solo.length ? solo : known.filter((l) => l.on);
  const slots: string[] = [];
  let plain = { lo: 0, hi: 0 };
  let lifted = { lo: 0, hi: 0 };
  const layers = chosen.map(({ id, ...layer }, i): StackLayer => {
    const surface = surfaces[layer.surface];
    if (!slots.includes(layer.surface)) slots.push(layer.surface);
    const own = { lo: -surface.mid * surface.reliefM, hi: (1 - surface.mid) * surface.reliefM };
    const { follow, liftM, broken } = layer.seam;
    const noise = i ? Math.abs(broken.byM) : 0;
    // Span ignores lift, so that dragging a layer up or down never changes how hard its edge is.
    const span = Math.max(surface.reliefM, i ? plain.hi - plain.lo : 0, 1e-6);
    const top = (below: { lo: number; hi: number }, lift: number) => ({
      lo: own.lo + follow * below.lo + lift - noise,
      hi: own.hi + follow * below.hi + lift + noise,
    });
    const union = (a: { lo: number; hi: number }, b: { lo: number; hi: number }) => ({ lo: Math.min(a.lo, b.lo), hi: Math.max(a.hi, b.hi) });
    plain = i ? union(plain, top(plain, 0)) : own;
    lifted = i ? union(lifted, top(lifted, liftM)) : own;
    return { id, layer, surface, slot: slots.indexOf(layer.surface), repeats: repeatsOf(blend.extentM, surface.sizeM), span };
  });
  return { extentM: blend.extentM, layers, slots, lo: lifted.lo, hi: Math.max(lifted.hi, lifted.lo + 1e-6) };
}

/** Repetitions of a surface over an extent, snapped to a whole number so that the blend tiles. */
export const repeatsOf = (extentM: number, sizeM: number): number => Math.max(1, Math.round(extentM / sizeM));

export const prefixOf = (index: number): string => `l${index}_`;

/**
 * All numbers of a stack that may change without compiling again.
 * @param without id of a layer whose weight is held at 0: with/without costs no compilation
 */
export function stackValues(stack: Stack, without?: string): Values {
  const values: Record<string, readonly number[]> = {};
  stack.layers.forEach(({ id, layer, surface, repeats, span }, i) => {
    const p = prefixOf(i);
    const { seam } = layer;
    values[`${p}repeats`] = [repeats, repeats];
    values[`${p}relief`] = [surface.reliefM];
    values[`${p}base`] = [-surface.mid * surface.reliefM];
    if (i === 0) return;
    coverageValues(layer.coverage, p, stack.extentM, values);
    values[`${p}strength`] = [id === without ? 0 : layer.strength];
    values[`${p}soft`] = [seam.soft];
    values[`${p}lift`] = [seam.liftM];
    values[`${p}follow`] = [seam.follow];
    values[`${p}bias`] = [seam.bias];
    values[`${p}contact`] = [seam.contact];
    values[`${p}span`] = [span];
    values[`${p}brokenBy`] = [seam.broken.byM];
    values[`${p}brokenCells`] = [noiseCells(stack.extentM, seam.broken.atM)];
    values[`${p}brokenSeed`] = [seam.broken.seed];
    values[`${p}brokenOctaves`] = [seam.broken.octaves];
  });
  return values;
}

/** Text that is equal for two stacks exactly when they compile to the same program. */
export const stackShape = (stack: Stack): string =>
  stack.layers
    .map(
      (l, i) =>
        `${l.slot}[${[...l.surface.roles].sort().join()}]${i ? `{${coverageShape(l.layer.coverage)}}${l.layer.seam.broken.byM ? '~' : ''}` : ''}`,
    )
    .join('|');
