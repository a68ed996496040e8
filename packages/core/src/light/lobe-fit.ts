import { MIN_ROUGHNESS, distributionGgx, visibilitySmith } from './brdf';
import type { LobeShape } from './lobe';
import { minimise, solve } from './minimise';
import { LEVELS_PER_UNIT, LIGHT_LEVELS } from './prefilter';

/** Directions about the mirrored view, denser toward it, on one side of the plane of incidence, with their solid angles. */
interface Directions {
  count: number;
  /** Triples in the frame of the normal (+Z) and the plane of incidence (x, z). */
  at: Float64Array;
  solid: Float64Array;
}

function directionsAbout(mirrored: number, alpha: number): Directions {
  const [rings, spokes] = [56, 22];
  const at = new Float64Array(rings * spokes * 3);
  const solid = new Float64Array(rings * spokes);
  const [sin, cos] = [Math.sin(mirrored), Math.cos(mirrored)];
  const edge = (i: number) => (i === rings ? Math.PI : 2 * Math.atan(1.2 * alpha * Math.tan((i / rings) * Math.atan(8 / (1.2 * alpha)))));
  let k = 0;
  for (let i = 0; i < rings; i++) {
    const [from, to] = [edge(i), edge(i + 1)];
    const polar = (from + to) / 2;
    for (let j = 0; j < spokes; j++, k++) {
      const turn = ((j + 0.5) / spokes) * Math.PI;
      const [along, across, toward] = [Math.sin(polar) * Math.cos(turn), Math.sin(polar) * Math.sin(turn), Math.cos(polar)];
      at.set([sin * toward + cos * along, across, cos * toward - sin * along], k * 3);
      solid[k] = ((Math.cos(from) - Math.cos(to)) * 2 * Math.PI) / spokes;
    }
  }
  return { count: k, at, solid };
}

/** A density over the directions, made to integrate to 1. */
function density({ count, at, solid }: Directions, of: (x: number, y: number, z: number) => number): Float64Array {
  const out = new Float64Array(count);
  let sum = 0;
  for (let i = 0; i < count; i++) sum += (out[i] = of(at[i * 3], at[i * 3 + 1], at[i * 3 + 2])) * solid[i];
  for (let i = 0; i < count; i++) out[i] /= sum;
  return out;
}

/** The single-scattering lobe itself, Fresnel left out: D · V · n·l, over directions of the upper half. */
const lobe = (directions: Directions, nDotV: number, alpha: number) => {
  const sin = Math.sqrt(1 - nDotV * nDotV);
  return density(directions, (x, y, z) => {
    if (z <= 0) return 0;
    const nDotH = (z + nDotV) / Math.hypot(x - sin, y, z + nDotV);
    return distributionGgx(nDotH, alpha) * visibilitySmith(z, nDotV, alpha) * z;
  });
};

/** What a level of the pre-filtered map holds at a direction of the plane of incidence. */
const level = (directions: Directions, angle: number, l: number) => {
  const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
  const rough = Math.max(MIN_ROUGHNESS, LIGHT_LEVELS[l]);
  return density(directions, (x, _, z) => {
    const toward = x * sin + z * cos;
    if (toward <= 0) return 0;
    return rough > 1 ? 1 : distributionGgx(Math.sqrt((1 + toward) / 2), rough * rough) * toward;
  });
};

/** What a look into the map finds: GGX with n = v = r weighted by r·l, mixed from the levels about its roughness. */
function round(directions: Directions, angle: number, rough: number): Float64Array {
  const at = Math.min(LIGHT_LEVELS.length - 1, rough * LEVELS_PER_UNIT);
  const l = Math.min(LIGHT_LEVELS.length - 2, Math.floor(at));
  const [low, high] = [level(directions, angle, l), level(directions, angle, l + 1)];
  return low.map((v, i) => v + (high[i] - v) * (at - l));
}

/** Bands 0, 1 and 2 + 4 of a cosine lobe about the normal and 3 of a hemisphere, as `HARMONIC_TERMS` weighs them. */
const bands = ({ count, at }: Directions): Float64Array[] => {
  const out = [0, 1, 2, 3].map(() => new Float64Array(count));
  for (let i = 0; i < count; i++) {
    const z = at[i * 3 + 2];
    out[0][i] = 1 / (4 * Math.PI);
    out[1][i] = z / (2 * Math.PI);
    out[2][i] = ((5 / 8) * (3 * z * z - 1) - (9 / 24 / 8) * (35 * z ** 4 - 30 * z * z + 3)) / (4 * Math.PI);
    out[3][i] = -((7 / 16) * (5 * z ** 3 - 3 * z)) / (4 * Math.PI);
  }
  return out;
};

/** Where the taps of a fit look: ratio, spread in lobe widths, and how much wider than the lobe inner and outer look. */
export type LobeFit = number[];
/** Where the search begins beside the neighbour's fit. */
export const FIRST_FITS: readonly LobeFit[] = [
  [1, 0.7, -0.1, 0.1],
  [1.05, 1.2, -0.5, 0.4],
];

/** Steps of the four taps from the middle of their row. */
const STEPS = [-1.5, -0.5, 0.5, 1.5];

/** A shape without its weights, which `weigh` finds. */
function placed([ratio, spread, inner, outer]: LobeFit, nDotV: number, alpha: number): LobeShape {
  const rough = (lean: number) => Math.min(LIGHT_LEVELS[LIGHT_LEVELS.length - 1], Math.sqrt(alpha * Math.exp(lean)));
  return {
    ratio,
    spread: Math.abs(spread) * alpha * Math.sqrt(1 - nDotV * nDotV),
    inner: rough(inner),
    outer: rough(inner + outer),
    nearest: 0,
    near: 0,
    furthest: 0,
    even: 0,
    first: 0,
    second: 0,
  };
}

/** Densities of the four taps, and what multiplies `even`, `first` and `second`. */
function parts(directions: Directions, shape: LobeShape, nDotV: number, even: readonly Float64Array[]): Float64Array[] {
  const angle = shape.ratio * Math.acos(nDotV);
  const taps = STEPS.map((steps) => round(directions, angle + steps * shape.spread, Math.abs(steps) > 1 ? shape.outer : shape.inner));
  return [...taps, even[0].map((v, i) => v + even[3][i]), even[1], even[2].map((v, i) => v - even[3][i])];
}

/** No tap weighs more than this. */
const STEADY = 2.5;
/** How often weights are found again. */
const REFINED = 1;

/** Weights toward 0 by as much as this share of what they explain: two taps at one place share evenly. */
const RIDGE = 1e-2;

/**
 * Finds the weights of a shape by least squares, so that together they are 1. Differences count against `scale`, moments
 * of the whole for themselves: those are what the smoothest skies see.
 */
function weigh(directions: Directions, truth: Float64Array, shape: LobeShape, made: readonly Float64Array[], scale: Float64Array): LobeShape {
  const { count, at, solid } = directions;
  const trust = solid.map((v, i) => v / scale[i]);
  // The third tap has what the others leave: everything is measured from it.
  const rest = made[2];
  const free = [0, 1, 3, 4, 5, 6].map((k) => ({ values: made[k], from: k < 5 ? rest : null }));
  const columns = free.map(({ values, from }) => values.map((v, i) => v - (from ? from[i] : 0)));
  const wanted = truth.map((v, i) => v - rest[i]);
  const moment = (k: number, of: Float64Array) => {
    const [x, z] = [(i: number) => at[i * 3], (i: number) => at[i * 3 + 2]];
    const factor = [x, z, (i: number) => x(i) * x(i), (i: number) => x(i) * z(i), (i: number) => z(i) * z(i)][k];
    let sum = 0;
    for (let i = 0; i < count; i++) sum += of[i] * solid[i] * factor(i);
    return sum;
  };
  const moments = [...columns, wanted].map((of) => [0, 1, 2, 3, 4].map((k) => moment(k, of)));
  const product = (a: number, b: number, of: readonly Float64Array[]) => {
    let sum = 0;
    for (let i = 0; i < count; i++) sum += of[a][i] * of[b][i] * trust[i];
    return sum + 0.5 * moments[a].reduce((total, v, k) => total + v * moments[b][k], 0);
  };
  const all = [...columns, wanted];
  const n = columns.length;
  const squares = columns.map((_, a) => columns.map((__, b) => product(a, b, all)));
  const right = columns.map((_, a) => product(a, n, all));
  let found: number[] = [];
  // Taps that see the same may weigh one another out without end: the ridge rises until they do not.
  for (let ridge = RIDGE; ridge < 1e3; ridge *= 10) {
    found = solve(
      squares.map((row, a) => row.map((v, b) => (a === b ? v * (1 + ridge) + 1e-9 : v))),
      right,
    );
    if (Math.max(...found.map(Math.abs)) < STEADY) break;
  }
  const [nearest, near, furthest, even, first, second] = found;
  return { ...shape, nearest, near, furthest, even, first, second };
}

/** Half the integral of the difference of two densities: 0 the same, 1 nowhere together. */
function difference({ count, solid }: Directions, a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < count; i++) sum += Math.abs(a[i] - b[i]) * solid[i];
  return sum / 2;
}

function mixed({ nearest, near, furthest, even, first, second }: LobeShape, made: readonly Float64Array[]): Float64Array {
  const weights = [nearest, near, 1 - nearest - near - furthest - even, furthest, even, first, second];
  return made[0].map((_, i) => weights.reduce((sum, w, k) => sum + w * made[k][i], 0));
}

/** How far the taps of a shape are from the lobe that they stand for: half the integral of the difference, 0 to 1. */
export function lobeError(shape: LobeShape, nDotV: number, roughness: number): number {
  const alpha = Math.max(roughness, MIN_ROUGHNESS) ** 2;
  const directions = directionsAbout(Math.acos(nDotV), alpha);
  return difference(directions, lobe(directions, nDotV, alpha), mixed(shape, parts(directions, shape, nDotV, bands(directions))));
}

/** Taps that come nearest to the lobe at an angle and a roughness, looked for from `start`. Tenths of a second. */
export function fitLobe(nDotV: number, roughness: number, start: LobeFit): { fit: LobeFit; shape: LobeShape; error: number } {
  const alpha = Math.max(roughness, MIN_ROUGHNESS) ** 2;
  const directions = directionsAbout(Math.acos(nDotV), alpha);
  const [truth, even] = [lobe(directions, nDotV, alpha), bands(directions)];
  const peak = truth.reduce((a, b) => Math.max(a, b));
  const tried = (fit: LobeFit) => {
    const shape = placed(fit, nDotV, alpha);
    const made = parts(directions, shape, nDotV, even);
    // First against how bright the lobe is, then against what was left: the sum of differences becomes least (IRLS).
    let weighed = weigh(
      directions,
      truth,
      shape,
      made,
      truth.map((v) => v + 0.03 * peak),
    );
    for (let again = 0; again < REFINED; again++) {
      const now = mixed(weighed, made);
      weighed = weigh(
        directions,
        truth,
        shape,
        made,
        truth.map((v, i) => Math.abs(now[i] - v) + 3e-3 * peak),
      );
    }
    // What the lobe does not decide stays where the neighbour had it: the table must be smooth.
    const drift = fit.reduce((sum, v, i) => sum + (v - start[i]) ** 2, 0);
    return { shape: weighed, error: difference(directions, truth, mixed(weighed, made)) + 5e-4 * drift };
  };
  let fit = start;
  for (const step of [0.3, 0.15]) fit = minimise((x) => tried(x).error, fit, step, 50);
  return { fit, ...tried(fit) };
}
