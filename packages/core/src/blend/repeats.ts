import type { Sources } from '../compile';
import { flatDomain } from '../compile';
import type { BlendDocument, Layer } from '../document';
import { makeBlend, makeLayer } from '../document';
import type { Repetition } from '../image';
import { REPETITION_SIDE, lightnessOf, repetitionOf } from '../image';
import type { Material } from '../material';
import { evaluateMaterial, makeMaterialMaps } from '../material';

/** Repetitions across what is measured, at least; and how many times as wide as one is away, for the field of view is that wide. */
const LEAST = { times: 4, away: 0.75 };

/** Metres across what is measured of a surface from a distance: a power of two of repetitions, so that all of them fall alike on its samples. */
export function measuredWidth(sizeM: number, distanceM: number): number {
  const times = Math.max(LEAST.times, (LEAST.away * distanceM) / sizeM);
  return sizeM * 2 ** Math.ceil(Math.log2(times) - 1e-9);
}

/** The surface of a layer by itself as it lies, over so many metres. */
export const laidAlone = ({ shows, look, laying }: Pick<Layer, 'shows' | 'look' | 'laying'>, widthM: number): BlendDocument =>
  makeBlend('alone', { extentM: widthM, layers: { a: makeLayer(shows, 'alone', 1, { look, ...(laying ? { laying } : {}) }) } });

/**
 * How much the eye finds that what was laid repeats, as it is laid: the material is worked out over its extent, as it looks from a
 * distance in metres. @param far whether texels are smaller than samples
 */
export function repetitionAsLaid(material: Material, sources: Sources, distanceM: number, far: boolean): Repetition {
  const n = REPETITION_SIDE;
  const into = makeMaterialMaps(n, n, ['baseColor']);
  const viewdistance = new Float32Array(n * n).fill(distanceM);
  evaluateMaterial(material, { domain: flatDomain(n, n, material.extentM, { viewdistance }), sources, far, into });
  return repetitionOf(lightnessOf(into.baseColor!), n, material.extentM, distanceM);
}
