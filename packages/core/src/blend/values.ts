import type { Values } from '../compile';
import type { CuePlace } from '../coverage';
import { coverageValues, noiseCells } from '../coverage';
import { constantOf, waterOf } from '../document';
import { linearOf } from '../image';
import type { Stack, StackLayer } from './stack';
import { layingValues } from './laying';
import { coveragePrefix, prefixOf } from './stack';

/** What is known of the specimen that a blend lies on. */
export type Standing = Pick<CuePlace, 'groundM' | 'parts'>;
export const NOWHERE: Standing = { groundM: 0, parts: [] };

export interface ValueOptions {
  /** Id of a layer whose weight is held at 0: with/without costs no compilation. */
  without?: string;
  standing?: Standing;
}

/** Water swallows light by e^(−a·depth): what is left after the clear depth is the murk colour. Beer–Lambert. */
export const absorption = (murk: string, clearM: number): number[] =>
  linearOf(murk).map((v) => -Math.log(Math.max(v, 1e-4)) / Math.max(clearM, 1e-4));

/** All numbers of a stack that may change without compiling again. */
export function stackValues(
  stack: Stack,
  { without, standing = NOWHERE }: ValueOptions = {},
  prefix = '',
  values: Record<string, readonly number[]> = {},
): Values {
  const place: CuePlace = { extentM: stack.extentM, standsAtM: stack.standsAtM, ...standing };
  stack.layers.forEach((entry, i) => {
    const p = `${prefix}${prefixOf(i)}`;
    ownValues(stack, entry, p, values);
    if (entry.inner) stackValues(entry.inner, { standing }, p, values);
    if (i === 0) return;
    const { layer, id, span, floor } = entry;
    const { seam } = layer;
    const water = waterOf(layer);
    entry.coverages.forEach((coverage, k) => coverageValues(coverage, `${prefix}${coveragePrefix(stack, i, k)}`, place, values));
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
    if (seam.detailM > 0) detailValues(stack.layers.slice(0, i + 1), seam.detailM / stack.extentM, p, values);
    if (seam.normal > 0) {
      // One texel of a map of a thousand, and how steep a step of a metre over two of them is.
      const step = 1 / (1024 * entry.repeats);
      values[`${p}step`] = [step];
      values[`${p}bendPerM`] = [seam.normal / (2 * step * stack.extentM)];
    }
    if (water) {
      values[`${p}floor`] = [Math.min(floor, water.levelM)];
      values[`${p}level`] = [water.levelM];
      values[`${p}absorb`] = absorption(water.murk, water.clearM);
      values[`${p}scatter`] = linearOf(water.scatter);
      values[`${p}rough`] = [water.roughness];
      values[`${p}ripple`] = [water.ripple];
      values[`${p}rippleCells`] = [noiseCells(stack.extentM, water.rippleM)];
      values[`${p}rim`] = [Math.max(1e-4, water.rimM)];
      values[`${p}wet`] = [water.wet];
    }
  });
  return values;
}

/** Name of the value that says how large relief has to be to count, for a layer at a place in a stack, or places in stacks within it. */
export const detailOf = (path: readonly number[]): string => `detail${path.join('_')}`;

/** Shares of maps as large as a share of the extent that the layers lie in. */
function detailValues(layers: readonly StackLayer[], share: number, p: string, values: Record<string, readonly number[]>, path: number[] = []): void {
  layers.forEach(({ repeats, inner }, j) => {
    const at = [...path, j];
    if (inner) detailValues(inner.layers, share * repeats, p, values, at);
    else values[`${p}${detailOf(at)}`] = [share * repeats];
  });
}

/** What a layer is before it meets others. */
function ownValues(stack: Stack, { layer, surface, laid, inner }: StackLayer, p: string, values: Record<string, readonly number[]>): void {
  const { look } = layer;
  const constant = constantOf(layer);
  if (constant) {
    values[`${p}base`] = linearOf(constant.baseColor);
    values[`${p}rough`] = [constant.roughness];
    values[`${p}metal`] = [constant.metallic];
    values[`${p}level`] = [constant.heightM];
  }
  if (surface || inner) {
    values[`${p}repeats`] = [laid.a, laid.d];
    values[`${p}turnU`] = [laid.a, -laid.b];
    values[`${p}turnV`] = [laid.c, laid.d];
    values[`${p}moved`] = [look.u, look.v];
    values[`${p}normal`] = [look.normal];
    const along = Math.hypot(laid.a, laid.b);
    values[`${p}facing`] = [laid.a / along, laid.b / along];
  }
  if (surface) {
    values[`${p}relief`] = [surface.reliefM];
    values[`${p}lowest`] = [-surface.mid * surface.reliefM];
    if (layer.laying) layingValues(layer.laying, p, stack.extentM, Math.hypot(laid.a, laid.b) / stack.extentM, values);
  }
  values[`${p}tint`] = linearOf(look.tint);
  values[`${p}levels`] = [look.low, Math.max(look.high, look.low + 1e-3), Math.min(0.99, Math.max(0.01, look.mid))];
  values[`${p}rougher`] = [look.roughness];
}
