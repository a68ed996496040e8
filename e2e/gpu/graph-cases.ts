// Random graphs of typed steps, on the GPU in exact mode and on the processor.
import type { Domain, PackedSet, Values } from '@pebble/core';
import { MasterMaterials, NO_CONTEXT, evaluate, flatDomain, footprintValues, frameValues, makeRandom, optimise } from '@pebble/core';
import { evaluateExact } from '@pebble/stage';
import { anyGraph } from '../../packages/core/src/testing/any-graph';

const NOTHING: PackedSet = { surfaces: [], masks: [], ids: [] };

/** Places of all kinds, directions of length 1 among them. */
function wide(size: number, seed: number): Domain {
  const next = makeRandom(seed);
  const fill = (k: number, f: (i: number) => number) => Float32Array.from({ length: size * size * k }, (_, i) => f(i));
  const directions = (k: 3 | 4) => {
    const out = fill(k, () => 1);
    for (let i = 0; i < size * size; i++) {
      const [z, a] = [next() * 2 - 1, next() * 6.28];
      const r = Math.sqrt(1 - z * z);
      out.set([r * Math.cos(a), z, r * Math.sin(a)], i * k);
    }
    return out;
  };
  return flatDomain(size, size, 2.4, {
    position: fill(3, () => next() * 4 - 2),
    normal: directions(3),
    tangent: directions(4),
    viewdirection: directions(3),
    viewdistance: fill(1, () => next() * 20),
    geomcolor: fill(4, next),
    curvature: fill(1, () => next() * 80 - 40),
    occlusion: fill(1, next),
    part: fill(1, () => Math.floor(next() * 3)),
  });
}

type Planes = Record<string, Float32Array[]>;

/** @param compare how two results agree, under a name */
export async function randomGraphs<T>(
  gl: WebGL2RenderingContext,
  seed: number,
  count: number,
  compare: (name: string, cpu: Planes, gpu: Planes) => T,
): Promise<T[]> {
  const out: T[] = [];
  for (let i = 0; i < count; i++) {
    const material = new MasterMaterials().of(anyGraph(makeRandom(seed + i), 4 + ((seed + i) % 20)), NO_CONTEXT);
    const problem = material.problems.find((p) => p.code !== 'unused');
    if (problem) throw new Error(`${seed + i}: ${problem.message}`);
    const { outputs, hoisted } = optimise(material.far.outputs, { hoist: true });
    const domain = wide(12, seed + i);
    const values: Values = frameValues(hoisted, { ...material.values, ...footprintValues(domain) });
    const cpu = evaluate(outputs, { domain, values });
    out.push(compare(`graph ${seed + i}`, cpu, await evaluateExact(gl, outputs, domain, values, NOTHING)));
  }
  return out;
}
