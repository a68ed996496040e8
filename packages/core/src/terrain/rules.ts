// Layers of a ground laid on a terrain by its sentences.
import type { Sources } from '../compile';
import { CpuProgram, flatDomain } from '../compile';
import type { DagNode } from '../compile';
import type { Material } from '../material';
import type { Heightfield } from './heightfield';
import { fieldGround } from './heightfield';
import type { TerrainWeights } from './weights';
import { MAX_TERRAIN_LAYERS, coveringShares, putWeights } from './weights';

/** Rows that are worked out at a time. */
const BAND = 32;

/**
 * Stored weights of the layers of a ground where its sentences lay them on a terrain: coverages times strengths, each layer covering
 * those below it, the lowest having the rest.
 * @param material of a blend; @param sources what its sentences look up, where they read maps; @param footM altitude that counts as the object's own
 * @throws RangeError for more layers than a terrain stores
 */
export function ruledWeights(
  field: Heightfield,
  material: Pick<Material, 'far' | 'values' | 'extentM'>,
  sources: Sources,
  footM: number,
  report: (done: number) => void = () => undefined,
): TerrainWeights {
  const { width, height } = field;
  // Samples lie far apart: what is looked up is as it is seen from there.
  const { probes } = material.far;
  if (probes.length > MAX_TERRAIN_LAYERS)
    throw new RangeError(
      `The ground has ${probes.length} layers; a terrain stores the weights of ${MAX_TERRAIN_LAYERS} at most. Switch some off, or put several into a blend of their own`,
    );
  const weights: TerrainWeights = { width, height, layers: probes.map(() => new Uint8Array(width * height)) };
  const over = probes.slice(1);
  if (!over.length) {
    weights.layers[0]?.fill(255);
    return weights;
  }
  const outputs = Object.fromEntries(over.map((p, i) => [`c${i}`, p.coverage])) as Record<string, DagNode>;
  const program = new CpuProgram(outputs);
  const spare = new Uint8Array(probes.length);
  for (let first = 0; first < height; first += BAND) {
    const end = Math.min(height, first + BAND);
    const ground = fieldGround(field, material.extentM, [first, end], footM);
    const step = field.spacingM / material.extentM;
    const domain = { ...flatDomain(width, end - first, material.extentM, ground), footprint: { x: [step, 0], y: [0, step] } };
    program.run({ domain, values: material.values, sources }, (tile, planes) => {
      const coverages = over.map((_, i) => planes(`c${i}`)[0]);
      const own = new Array<number>(over.length);
      for (let y = 0, k = 0; y < tile.height; y++)
        for (let x = 0; x < tile.width; x++, k++) {
          for (let l = 0; l < own.length; l++) own[l] = Math.min(1, Math.max(0, coverages[l][k]));
          putWeights(weights, (first + tile.y + y) * width + tile.x + x, coveringShares(own), spare);
        }
    });
    report(end / height);
  }
  return weights;
}
