// Layers of a ground laid on a terrain by its sentences.
import type { Sources } from '../compile';
import { CpuProgram, evenFootprint, flatDomain, optimise } from '../compile';
import type { DagNode } from '../compile';
import type { Material } from '../material';
import { readsOf } from '../material';
import type { Heightfield } from './heightfield';
import { fieldGround } from './heightfield';
import { fieldSky } from './sky';
import type { TerrainWeights } from './weights';
import { MAX_TERRAIN_LAYERS, coveringShares, putWeights } from './weights';

/** Rows that are worked out at a time. */
const BAND = 32;

/** Coverages of the layers over the lowest one at every sample, 0–1, from the bottom. */
export interface GroundCoverages {
  width: number;
  height: number;
  layers: Float32Array[];
}

/**
 * Where the sentences of a ground lay its layers on a terrain: coverages times strengths.
 * @param material of a blend; @param sources what its sentences look up, where they read maps; @param footM altitude that counts as the object's own
 * @throws RangeError for more layers than a terrain stores
 */
export function ruledCoverages(
  field: Heightfield,
  material: Pick<Material, 'far' | 'values' | 'extentM'>,
  sources: Sources,
  footM: number,
  report: (done: number) => void = () => undefined,
): GroundCoverages {
  const { width, height } = field;
  // Samples lie far apart: what is looked up is as it is seen from there.
  const { probes } = material.far;
  if (probes.length > MAX_TERRAIN_LAYERS)
    throw new RangeError(
      `The ground has ${probes.length} layers; a terrain stores the weights of ${MAX_TERRAIN_LAYERS} at most. Switch some off, or put several into a blend of their own`,
    );
  const over = probes.slice(1);
  const layers = over.map(() => new Float32Array(width * height));
  if (!over.length) return { width, height, layers };
  const outputs = Object.fromEntries(over.map((p, i) => [`c${i}`, p.coverage])) as Record<string, DagNode>;
  const program = new CpuProgram(outputs);
  const sky = readsOf(optimise(outputs).outputs).mesh.has('occlusion') ? fieldSky(field) : null;
  for (let first = 0; first < height; first += BAND) {
    const end = Math.min(height, first + BAND);
    const ground = fieldGround(field, material.extentM, [first, end], footM, sky);
    const step = field.spacingM / material.extentM;
    const painted = evenFootprint(1 / (Math.max(width, height) - 1));
    const domain = {
      ...flatDomain(width, end - first, material.extentM, ground),
      footprint: { x: [step, 0], y: [0, step] },
      footprints: { uv1: painted, uv2: painted },
    };
    program.run({ domain, values: material.values, sources }, (tile, planes) => {
      over.forEach((_, l) => {
        const from = planes(`c${l}`)[0];
        for (let y = 0, k = 0; y < tile.height; y++)
          for (let x = 0, at = (first + tile.y + y) * width + tile.x; x < tile.width; x++, k++, at++)
            layers[l][at] = Math.min(1, Math.max(0, from[k]));
      });
    });
    report(end / height);
  }
  return { width, height, layers };
}

/** Weights as they are stored: each layer covers those below it, the lowest has the rest. @param caps what coverages are held under, by layer from the bottom, where there is any */
export function storedCoverages({ width, height, layers }: GroundCoverages, caps: readonly (Float32Array | null)[] = []): TerrainWeights {
  const weights: TerrainWeights = { width, height, layers: [null, ...layers].map(() => new Uint8Array(width * height)) };
  const spare = new Uint8Array(layers.length + 1);
  const own = new Array<number>(layers.length);
  for (let i = 0; i < width * height; i++) {
    for (let l = 0; l < own.length; l++) own[l] = Math.min(layers[l][i], caps[l]?.[i] ?? 1);
    putWeights(weights, i, coveringShares(own), spare);
  }
  return weights;
}

/** Stored weights of the layers of a ground where its sentences lay them on a terrain. Arguments and errors as those of `ruledCoverages`. */
export const ruledWeights = (...args: Parameters<typeof ruledCoverages>): TerrainWeights => storedCoverages(ruledCoverages(...args));
