// That two materials are the same: the largest difference over random inputs and over what is looked at.
import type { Domain, Sources, Values } from '../compile';
import { CpuProgram, flatDomain, optimise } from '../compile';
import type { MasterDocument } from '../document';
import { PIXEL_INPUT_NAMES, inputFacts, inputWidth } from '../geometry';
import type { PixelInput } from '../geometry';
import { givenOutputs } from '../material';
import type { Material } from '../material';
import { makeRandom } from '../noise';
import { planesOf } from './looks';
import { parameterValue } from './lower';

/** Inputs that are tried: places, each with parameters of its group. */
export const RANDOM_INPUTS = 4096;
/** Groups of places that share their parameters. */
const GROUPS = 16;

export interface Difference {
  /** Largest |Δ| of any number of any output. */
  most: number;
  /** The output where it is. */
  output: string;
  /** Places that were tried. */
  places: number;
}

/** Places of all kinds: everything that a pixel may know, by chance, within its range. */
function randomDomain(next: () => number, side: number, extentM: number): Domain {
  const planes: Partial<Record<PixelInput, Float32Array>> = {};
  for (const name of PIXEL_INPUT_NAMES) {
    const { range, between } = inputFacts(name);
    const [lo, hi] = [Math.max(-2, range.lo), Math.min(2, range.hi)];
    const wide = inputWidth(name);
    const plane = Float32Array.from({ length: side * side * wide }, () => lo + (hi - lo) * next());
    if (between === 'direction')
      for (let i = 0; i < plane.length; i += wide) {
        const long = Math.hypot(plane[i], plane[i + 1], plane[i + 2]) || 1;
        for (let c = 0; c < 3; c++) plane[i + c] /= long;
        if (wide === 4) plane[i + 3] = plane[i + 3] < 0 ? -1 : 1;
      }
    if (between === 'whole') plane.forEach((v, i) => (plane[i] = Math.round(v)));
    planes[name] = plane;
  }
  return { ...flatDomain(side, side, extentM, planes), footprint: { x: [1 / 512, 0], y: [0, 1 / 512] } };
}

/** Parameters by chance within their bounds, by the names of their values. */
function randomValues(next: () => number, { parameters, loopS }: MasterDocument): Values {
  const values: Record<string, number[]> = { time: [next() * loopS] };
  for (const [id, { holds }] of Object.entries(parameters))
    if (holds.kind === 'number') values[parameterValue(id)] = holds.value.map(() => holds.low + (holds.high - holds.low) * next());
    else if (holds.kind === 'colour') values[parameterValue(id)] = [next(), next(), next()];
  return values;
}

const programOf = (material: Material): CpuProgram => new CpuProgram(optimise(givenOutputs(material.far)).outputs);

/**
 * How far two materials of one master are apart: over `RANDOM_INPUTS` places and parameters by chance, and over a picture.
 * @param sources what each looks up, in its own slots
 */
export function differenceOf(
  document: MasterDocument,
  [before, after]: readonly [Material, Material],
  [from, to]: readonly [Sources, Sources],
  picture: Domain | null,
  seed = 1,
): { random: Difference; seen: Difference | null } {
  const next = makeRandom(seed);
  const programs = [programOf(before), programOf(after)] as const;
  const apart = (domain: Domain, values: Values, so: Difference): Difference => {
    const [a, b] = [
      planesOf(programs[0], { domain, sources: from, values: { ...before.values, ...values } }),
      planesOf(programs[1], { domain, sources: to, values: { ...after.values, ...values } }),
    ];
    let { most, output } = so;
    for (const [name, planes] of Object.entries(a))
      planes.forEach((plane, c) =>
        plane.forEach((v, i) => {
          const off = Math.abs(v - (b[name]?.[c]?.[i] ?? Number.NaN));
          // What is no number anywhere is a difference, not none.
          if (!(off <= most)) [most, output] = [Number.isNaN(off) ? Infinity : off, name];
        }),
      );
    return { most, output, places: so.places + domain.width * domain.height };
  };
  const none: Difference = { most: 0, output: '', places: 0 };
  const side = Math.sqrt(RANDOM_INPUTS / GROUPS);
  let random = none;
  for (let g = 0; g < GROUPS; g++) random = apart(randomDomain(next, side, document.extentM), randomValues(next, document), random);
  return { random, seen: picture && apart(picture, {}, none) };
}
