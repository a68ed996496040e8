import type { SurfaceFacts } from '../surface';
import type { Field } from './field';
import { alphaOf, carriedOn, eachTexel, eachValue, grey, plane, without } from './field';
import { heightFromNormals, horizonOcclusion, reliefCurvature } from './relief';
import { bleedColour, repairBorder, unitLength } from './repair';
import { boxBlur, normalsFromHeight } from '../surface';
import { LUMINANCE, linearToSrgb, srgbToLinear } from '../image';

/** A number that a step takes, with its range and usual value in the unit it is shown in times `factor`. */
export interface StepValue {
  label: string;
  lo: number;
  hi: number;
  usual: number;
  unit?: string;
  /** What one shown unit is worth: 0.001 for millimetres that are kept as metres. */
  factor?: number;
}

/** What is known around a map while it is worked on. */
export interface StepContext {
  facts: SurfaceFacts;
  /** Whether the map repeats without a seam; asked of it when a step looks beyond its border. */
  readonly tiles: boolean;
}

/** What a step makes, and what it has to say. */
export interface StepResult {
  field: Field;
  note?: string;
  /** Heights that were found have a relief of their own, in metres. */
  reliefM?: number;
}

export interface StepDefinition {
  label: string;
  help: string;
  values: Record<string, StepValue>;
  /** Its result is finer than 8 bits. */
  deep?: boolean;
  run: (field: Field, values: Record<string, number>, context: StepContext) => Field | StepResult;
}

const share = (label: string, usual: number, lo = 0, hi = 1): StepValue => ({ label, lo, hi, usual });
const millimetres = (label: string, usual: number, hi: number): StepValue => ({ label, lo: 0, hi, usual, unit: 'mm', factor: 0.001 });
const unit = (v: number): number => Math.min(1, Math.max(0, v));

/** Heights in metres of a stored height map; its texels are taken as square. */
function metres(field: Field, { facts }: StepContext): { heightM: Float32Array; texelM: number } {
  return { heightM: plane(field).map((v) => (v - facts.mid) * facts.reliefM), texelM: facts.sizeM / field.width };
}

/**
 * A step that looks `texels` around each place, of a grey map: over the border into the next tile, or, where the map does not
 * tile, into its own reflection.
 */
function around(field: Field, texels: number, context: StepContext, run: (field: Field, context: StepContext) => Field): StepResult {
  const map = grey(field, plane(field));
  if (context.tiles) return { field: run(map, context) };
  const pad = Math.max(1, Math.min(Math.ceil(texels), Math.min(field.width, field.height) - 1));
  if (Math.min(field.width, field.height) < 2) return { field: run(map, context) };
  const wide = carriedOn(map, pad);
  const sizeM = (context.facts.sizeM * wide.width) / field.width;
  return {
    field: without(run(wide, { ...context, facts: { ...context.facts, sizeM } }), pad),
    note: 'The map does not tile, so its border goes on as a reflection.',
  };
}

/** Texels of a radius in metres. */
const texelsOf = (field: Field, radiusM: number, { facts }: StepContext): number => (radiusM * field.width) / facts.sizeM;

/** Rec. 709 luminance, in linear light where the values are colours. */
function luminance(field: Field): Field {
  const { channels, colourSpace, values } = field;
  if (channels < 3) return grey(field, plane(field));
  const coded = colourSpace === 'srgb';
  const linear = (v: number) => (coded ? srgbToLinear(v) : v);
  const lightness = (at: number) => {
    const y = LUMINANCE.reduce((sum, share, c) => sum + share * linear(values[at + c]), 0);
    return coded ? linearToSrgb(y) : y;
  };
  return grey(field, eachTexel(field, lightness));
}

/** Monotone cubic through five evenly spaced points. Source: Fritsch & Carlson 1980. */
function curve(y: readonly number[]): (x: number) => number {
  const gap = 1 / (y.length - 1);
  const rises = y.slice(1).map((v, i) => (v - y[i]) / gap);
  const slopes = y.map((_, i) => {
    const [a, b] = [rises[i - 1] ?? rises[i], rises[i] ?? rises[i - 1]];
    return a * b <= 0 ? 0 : (2 * a * b) / (a + b);
  });
  return (x) => {
    const i = Math.min(y.length - 2, Math.floor(unit(x) / gap));
    const t = unit(x) / gap - i;
    const [a, b] = [y[i], y[i + 1]];
    return a + (b - a) * t * t * (3 - 2 * t) + gap * t * (1 - t) * (slopes[i] * (1 - t) - slopes[i + 1] * t);
  };
}

function toNormals(field: Field, values: Record<string, number>, context: StepContext): Field {
  const { heightM, texelM } = metres(field, context);
  const normals = normalsFromHeight(
    heightM.map((v) => v * values['strength']),
    field.width,
    field.height,
    texelM,
  );
  return { ...field, channels: 3, colourSpace: 'data', values: normals.map((v) => v * 0.5 + 0.5) };
}

function toHeight(field: Field, _: Record<string, number>, { facts, tiles }: StepContext): StepResult {
  const { width, height } = field;
  const even = unitLength(field);
  const normals = new Float32Array(width * height * 3);
  for (let i = 0, j = 0; i < normals.length; i += 3, j += field.channels) for (let c = 0; c < 3; c++) normals[i + c] = even.values[j + c] * 2 - 1;
  const { heightM, residual } = heightFromNormals(normals, width, height, facts.sizeM / width, tiles);
  let [lo, hi] = [Infinity, -Infinity];
  for (const v of heightM) {
    lo = Math.min(lo, v);
    hi = Math.max(hi, v);
  }
  const reliefM = Math.max(1e-6, hi - lo);
  const fit = `The directions are met within ${(residual * 100).toFixed(residual < 0.1 ? 2 : 0)} %`;
  return {
    field: grey(
      field,
      heightM.map((v) => (v - lo) / reliefM),
    ),
    reliefM,
    note: `${fit}${tiles ? '' : ', over a mirrored copy because the map does not tile'}; relief ${(reliefM * 1000).toFixed(1)} mm.`,
  };
}

function cavity(field: Field, { radiusM, amount }: Readonly<Record<string, number>>, context: StepContext): Field {
  const { heightM, texelM } = metres(field, context);
  const r = Math.max(1, Math.min(Math.round(radiusM / texelM), Math.floor((Math.min(field.width, field.height) - 1) / 2)));
  const mean = boxBlur(heightM, field.width, field.height, r);
  return grey(
    field,
    heightM.map((v, i) => 1 / (1 + (amount * Math.max(0, mean[i] - v)) / (r * texelM))),
  );
}

/** Every step that can make a map of a map; menus and the command line list just these. */
export const STEPS = {
  channel: {
    label: 'One channel',
    help: 'takes one channel for itself: 0 red, 1 green, 2 blue, 3 alpha',
    values: { index: { label: 'Channel', lo: 0, hi: 3, usual: 0 } },
    run: (f, { index }) => grey(f, plane(f, Math.min(f.channels - 1, Math.round(index)))),
  },
  desaturate: { label: 'Desaturate', help: 'leaves the lightness of a colour: Rec. 709 luminance', values: {}, run: luminance },
  invert: {
    label: 'Invert',
    help: 'one minus the value: gloss becomes roughness, roughness gloss',
    values: {},
    run: (f) => eachValue(f, (v) => 1 - v),
  },
  fill: {
    label: 'Fill',
    help: 'one value everywhere, where a map holds nothing of use',
    values: { value: share('With', 1) },
    run: (f, { value }) => eachValue(f, () => value),
  },
  levels: {
    label: 'Levels',
    help: 'stretches a range of values over another, bent by gamma',
    values: { black: share('From', 0), white: share('to', 1), gamma: share('Gamma', 1, 0.1, 10), low: share('Becomes', 0), high: share('and', 1) },
    run: (f, { black, white, gamma, low, high }) =>
      eachValue(f, (v) => low + (high - low) * unit((v - black) / Math.max(1e-6, white - black)) ** (1 / gamma)),
  },
  contrast: {
    label: 'Contrast',
    help: 'spreads values about a middle, or draws them to it',
    values: { amount: share('Times', 1.5, 0, 4), about: share('About', 0.5) },
    run: (f, { amount, about }) => eachValue(f, (v) => unit(about + (v - about) * amount)),
  },
  curve: {
    label: 'Curve',
    help: 'a smooth line through five points',
    values: { y0: share('At 0', 0), y1: share('¼', 0.25), y2: share('½', 0.5), y3: share('¾', 0.75), y4: share('1', 1) },
    run: (f, { y0, y1, y2, y3, y4 }) => eachValue(f, curve([y0, y1, y2, y3, y4])),
  },
  turnGreen: {
    label: 'Turn green',
    help: 'turns the green of a normal map over: Y− becomes Y+',
    values: {},
    run: (f) => (f.channels < 3 ? f : { ...f, values: f.values.map((v, i) => (i % f.channels === 1 ? 1 - v : v)) }),
  },
  unit: { label: 'Unit length', help: 'makes directions one long again, and works out a third channel that is missing', values: {}, run: unitLength },
  normal: {
    label: 'Normal from height',
    help: 'directions of a height map, in true metres',
    values: { strength: share('Times', 1, 0, 8) },
    deep: true,
    run: (f, values, context) => around(f, 1, context, (map, c) => toNormals(map, values, c)),
  },
  height: {
    label: 'Height from normal',
    help: 'the relief whose slopes a normal map has; says how well they fit one',
    values: {},
    deep: true,
    run: toHeight,
  },
  occlusion: {
    label: 'Occlusion from height',
    help: 'how much sky each place sees past its horizons',
    values: { radiusM: millimetres('Within', 0.08, 10), directions: { label: 'Directions', lo: 4, hi: 64, usual: 16 } },
    deep: true,
    run: (f, { radiusM, directions }, context) =>
      around(f, texelsOf(f, radiusM, context), context, (map, c) => {
        const { heightM, texelM } = metres(map, c);
        return grey(map, horizonOcclusion(heightM, map.width, map.height, texelM, radiusM, Math.round(directions)));
      }),
  },
  cavity: {
    label: 'Cavity from height',
    help: 'dark where a place lies below the mean around it',
    values: { radiusM: millimetres('Within', 0.01, 10), amount: share('Times', 4, 0, 32) },
    deep: true,
    run: (f, values, context) => around(f, texelsOf(f, values['radiusM'], context), context, (map, c) => cavity(map, values, c)),
  },
  curvature: {
    label: 'Curvature from height',
    help: 'mean curvature, signed: one half is flat, more bulges',
    values: { radiusM: millimetres('Over', 0.004, 10), range: { label: 'White at', lo: 0.1, hi: 10000, usual: 100, unit: '1/m' } },
    deep: true,
    run: (f, { radiusM, range }, context) =>
      around(f, texelsOf(f, radiusM, context) + 1, context, (map, c) => {
        const { heightM, texelM } = metres(map, c);
        return grey(
          map,
          reliefCurvature(heightM, map.width, map.height, texelM, radiusM).map((k) => unit(0.5 + (0.5 * k) / range)),
        );
      }),
  },
  border: {
    label: 'Repair the border',
    help: 'makes a map tile; what lies farther in stays as it is',
    values: { share: share('Over', 0.15, 0.01, 0.5) },
    run: (f, values) => repairBorder(f, values['share']),
  },
  bleed: { label: 'Bleed colour', help: 'spreads colour outward under zero alpha', values: {}, run: (f) => (alphaOf(f) < 0 ? f : bleedColour(f)) },
} satisfies Record<string, StepDefinition>;
export type StepKind = keyof typeof STEPS;
export const STEP_KINDS = Object.keys(STEPS) as StepKind[];
export const isStepKind = (text: string): text is StepKind => Object.hasOwn(STEPS, text);
