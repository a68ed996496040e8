// Content that is laid again and again: without its repetition, its rims or its stretching being seen.
import type { DagNode } from '../../compile';
import type { GraphStep, StepSite } from '../step';
import { CONTENT, PLACE, asWide, elsewhere, footprintAt, intoGround } from './within';

/** Stamps over one cell at most: each is worked out for every cell that is looked at. */
const MAX_STAMPS = 4;
const HALF_TURN = 180;
/** Cells after which what is random comes again where nothing has to tile. */
const FAR_PERIOD = 4096;

/** 1 where a coordinate lies within one repetition, its rims counted in. */
function inside({ b }: StepSite, at: DagNode): DagNode {
  const [x, y] = [b.extract(at, 0), b.extract(at, 1)];
  const [low, high] = [b.min(x, y), b.max(x, y)];
  return b.multiply(b.node('step', [b.constant(0), low]), b.node('step', [high, b.constant(1)]));
}

/** Cells that are looked at around a place: all its neighbours, or the four whose middles are nearest. */
const AROUND = { '3 × 3': { offsets: [-1, 0, 1], from: 0, reach: 1.5 }, '2 × 2': { offsets: [0, 1], from: 0.5, reach: 1 } } as const;
type Around = keyof typeof AROUND;
const AROUNDS = Object.keys(AROUND) as Around[];

/** Stamps of the cells around a place: where each lies, and whether it is kept. */
function stampsAround(site: StepSite, each: (at: DagNode, kept: DagNode, random: DagNode) => void): void {
  const { b, input, count, setting } = site;
  const [zero, one, half] = [b.constant(0), b.constant(1), b.constant(0.5)];
  const { offsets, from, reach } = AROUND[setting('around') as Around];
  const cells = b.max(one, b.node('round', [input('cells')]));
  const place = b.multiply(input('texcoord'), cells);
  const cell = b.node('floor', [b.subtract(place, b.constant(from))]);
  const within = b.subtract(place, cell);
  const [offset, vary, keep] = ['offset', 'vary', 'keep'].map((name) => b.clamp(input(name), zero, one));
  // A stamp that reached past the cells that are looked at would be cut off where they end.
  const furthest = b.multiply(b.subtract(b.constant(reach), b.multiply(half, offset)), b.constant(Math.SQRT2));
  const size = b.clamp(input('size'), b.constant(0.01), furthest);
  for (let n = 0; n < count('stamps'); n++)
    for (const y of offsets)
      for (const x of offsets) {
        const step = b.constant(x, y);
        const random = b.node('cellrandom2d', [b.add(cell, step), cells, b.add(input('seed'), b.constant(101 * n))]);
        const [r, s, turn, scale] = [0, 1, 2, 3].map((i) => b.extract(random, i));
        const middle = b.add(b.add(step, half), b.multiply(offset, b.subtract(b.combine(r, s), half)));
        const angle = b.multiply(input('turn'), b.subtract(b.multiply(turn, b.constant(2)), one));
        const long = b.multiply(size, b.invert(b.multiply(vary, scale)));
        const at = b.add(b.divide(b.node('rotate2d', [b.subtract(within, middle), angle]), long), half);
        // The fine bits of a number say nothing of its coarse ones: a fifth draw.
        const chance = b.node('fract', [b.multiply(r, b.constant(4096))]);
        const kept = b.node('ifgreater', [keep, chance, one, zero]);
        each(at, b.multiply(inside(site, at), kept), random);
      }
}

const whatItIs: GraphStep['settings'][number] = {
  name: 'content',
  label: 'what feeds it',
  kind: 'choice',
  choices: ['numbers', 'normal'],
  initial: 'numbers',
};

/** What feeds it, where that is said to be a normal. @throws GraphError where it cannot be one */
function normalGiven({ input, fail, setting }: StepSite): boolean {
  if (setting('content') !== 'normal') return false;
  const { type } = input('in');
  return (
    type === 'vec3' || fail('type-mismatch', `in is said to be a normal, and a ${type} comes in. Link a normal, or say that it is numbers`, 'in')
  );
}

/** From a plane along two axes of the world, the coordinate, and a normal that is looked up by it as one of the world. */
const PLANES = [{ along: [2, 1] }, { along: [0, 2] }, { along: [0, 1] }] as const;

export const REPEATING: GraphStep[] = [
  {
    name: 'stamps',
    group: 'effects',
    help: 'What feeds it, stamped into cells with an offset, a turn, a size and a chance of its own; neighbours are looked at, so none is cut off, and the tile closes; 2 × 2 of them cost less than half and hold stamps smaller',
    words: 'scatter, decals, splats, sprinkle, leaves, particles on the ground, random placement, bombing',
    materialx: 'PB_stamps',
    through: 'background',
    inputs: () => [
      CONTENT,
      { name: 'mask', type: 'float', initial: [1], low: 0, high: 1 },
      { name: 'background', type: 'any', initial: [0] },
      PLACE,
      { name: 'cells', type: 'float', initial: [4], whole: true, low: 1, high: 64 },
      { name: 'offset', type: 'float', initial: [1], low: 0, high: 1 },
      { name: 'turn', type: 'float', initial: [HALF_TURN], unit: '°', low: 0, high: HALF_TURN },
      { name: 'size', type: 'float', initial: [0.8], low: 0.05, high: 2 },
      { name: 'vary', type: 'float', initial: [0.3], low: 0, high: 1 },
      { name: 'keep', type: 'float', initial: [1], low: 0, high: 1 },
      { name: 'seed', type: 'float', initial: [1], whole: true, low: 0, high: 999 },
    ],
    outputs: () => [
      { name: 'out', type: 'any' },
      { name: 'coverage', type: 'float' },
      { name: 'own', type: 'float', label: 'a number of each stamp' },
    ],
    settings: [
      {
        name: 'stamps',
        label: 'stamps a cell',
        kind: 'count',
        initial: 1,
        low: 1,
        high: MAX_STAMPS,
        most: 'since each is worked out for every cell that is looked at, at every pixel',
      },
      { name: 'around', label: 'cells looked at', kind: 'choice', choices: AROUNDS, initial: '3 × 3' },
      { name: 'composite', label: 'where they meet', kind: 'choice', choices: ['over', 'max'], initial: 'over' },
    ],
    lower: (site) => {
      const { b, input, setting } = site;
      const [content, mask] = [elsewhere(site, 'in'), site.fed('mask') ? elsewhere(site, 'mask') : () => b.constant(1)];
      let out = input('background');
      let [coverage, own] = [b.constant(0), b.constant(0)];
      stampsAround(site, (at, kept, random) => {
        const weight = b.multiply(b.clamp(mask(at), b.constant(0), b.constant(1)), kept);
        const shown = content(at);
        const id = b.extract(random, 2);
        if (setting('composite') === 'max') {
          out = b.max(out, b.multiply(shown, weight));
          own = b.node('ifgreater', [weight, coverage, id, own]);
          coverage = b.max(coverage, weight);
        } else {
          out = b.mix(asWide(site, out, shown), asWide(site, shown, out), weight);
          own = b.mix(own, id, weight);
          coverage = b.add(coverage, b.multiply(weight, b.invert(coverage)));
        }
      });
      return { out, coverage, own };
    },
  },
  {
    name: 'flipbook',
    group: 'effects',
    help: 'What feeds it as a sheet of pictures in rows, one after the other; between two of them it mixes both, at the price of a second look',
    words: 'sprite sheet, animated texture, frames, film, sub-image',
    materialx: 'PB_flipbook',
    inputs: () => [CONTENT, PLACE, { name: 'picture', type: 'float', initial: [0], low: 0, high: 64 }],
    outputs: () => [{ name: 'out', type: 'any' }],
    settings: [
      { name: 'columns', label: 'columns', kind: 'count', initial: 4, low: 1, high: 64 },
      { name: 'rows', label: 'rows', kind: 'count', initial: 4, low: 1, high: 64 },
      { name: 'pictures', label: 'pictures (0: all)', kind: 'count', initial: 0, low: 0, high: 4096 },
      { name: 'between', label: 'between two', kind: 'choice', choices: ['mixed', 'cut'], initial: 'mixed' },
    ],
    lower: (site) => {
      const { b, input, count, setting } = site;
      const [columns, rows, asked] = [count('columns'), count('rows'), count('pictures')];
      const room = columns * rows;
      if (asked > room)
        site.note(
          'unused',
          `${asked} pictures do not fit ${columns} × ${rows}: it shows the ${room} there are. Set rows and columns as the sheet has them`,
        );
      const all = b.constant(asked === 0 ? room : Math.min(asked, room));
      const content = elsewhere(site, 'in');
      const uv = b.node('fract', [input('texcoord')]);
      // Half a pixel, and half a texel of a sheet of a thousand, from the rim: beyond it lies another picture.
      const rim = b.min(b.constant(0.25), b.max(b.constant(Math.max(columns, rows) / 2048), b.multiply(b.constant(0.5), footprintAt(site, uv))));
      const held = b.clamp(uv, rim, b.invert(rim));
      const at = (number: DagNode) => {
        const n = b.node('modulo', [number, all]);
        const row = b.node('floor', [b.multiply(b.add(n, b.constant(0.5)), b.constant(1 / columns))]);
        const column = b.subtract(n, b.multiply(row, b.constant(columns)));
        return content(b.multiply(b.add(held, b.combine(column, row)), b.constant(1 / columns, 1 / rows)));
      };
      const first = b.node('floor', [input('picture')]);
      if (setting('between') === 'cut') return { out: at(first) };
      return { out: b.mix(at(first), at(b.add(first, b.constant(1))), b.node('fract', [input('picture')])) };
    },
  },
  {
    name: 'nearfar',
    group: 'effects',
    help: 'What feeds it, repeated finely near the eye and coarsely far away, mixed in between by weights that add up to 1',
    words: 'distance tiling, far tiling, hide repetition far away, distance blend, camera distance',
    materialx: 'PB_nearfar',
    inputs: () => [
      CONTENT,
      PLACE,
      { name: 'near', type: 'float', initial: [4], low: 0.1, high: 32 },
      { name: 'far', type: 'float', initial: [1], low: 0.1, high: 32 },
      { name: 'from', type: 'float', initial: [2], unit: 'm', low: 0, high: 100 },
      { name: 'to', type: 'float', initial: [8], unit: 'm', low: 0, high: 200 },
      { name: 'distance', type: 'float', initial: 'viewdistance' },
    ],
    outputs: () => [
      { name: 'out', type: 'any' },
      { name: 'weight', type: 'float', label: 'weight of the far one' },
    ],
    settings: [],
    lower: (site) => {
      const { b, input } = site;
      const content = elsewhere(site, 'in');
      const weight = b.node('smoothstep', [input('distance'), input('from'), b.max(input('to'), b.add(input('from'), b.constant(1e-3)))]);
      const at = (name: string) => content(b.multiply(input('texcoord'), input(name)));
      return { out: b.mix(at('near'), at('far'), weight), weight };
    },
  },
  {
    name: 'rotatedcells',
    group: 'effects',
    help: 'What feeds it without the pattern of its repetition: every cell turned and moved by chance, mixed so that mean and contrast stay',
    words: 'hex tiling, stochastic tiling, no repetition, break up tiling, random rotation, texture bombing',
    materialx: 'PB_rotatedcells',
    inputs: () => [
      CONTENT,
      PLACE,
      { name: 'cells', type: 'float', initial: [6], low: 1, high: 64 },
      { name: 'turn', type: 'float', initial: [HALF_TURN], unit: '°', low: 0, high: HALF_TURN },
      { name: 'sharpness', type: 'float', initial: [3], low: 1, high: 8 },
      { name: 'low', type: 'float', initial: [0] },
      { name: 'high', type: 'float', initial: [1] },
      { name: 'seed', type: 'float', initial: [1], whole: true, low: 0, high: 999 },
    ],
    outputs: () => [{ name: 'out', type: 'any' }],
    settings: [whatItIs],
    lower: (site) => {
      const { b, input } = site;
      const node = input('in');
      const content = elsewhere(site, 'in');
      const uv = input('texcoord');
      const place = b.multiply(uv, input('cells'));
      const corners = [0, 1, 2].map((corner) => {
        const at = b.node('trianglecell2d', [place], { index: corner });
        const cell = b.combine(b.extract(at, 0), b.extract(at, 1));
        const random = b.node('cellrandom2d', [cell, b.constant(FAR_PERIOD), input('seed')]);
        const [r, s, t] = [0, 1, 2].map((i) => b.extract(random, i));
        const angle = b.multiply(input('turn'), b.subtract(b.multiply(t, b.constant(2)), b.constant(1)));
        const middle = b.divide(b.node('trianglecorner2d', [cell]), input('cells'));
        const turned = b.add(b.add(b.node('rotate2d', [b.subtract(uv, middle), angle]), middle), b.combine(r, s));
        return { value: content(turned), angle, weight: b.node('power', [b.extract(at, 2), input('sharpness')]) };
      });
      const total = corners.map((c) => c.weight).reduce(b.add);
      const weights = corners.map((c) => b.divide(c.weight, total));
      if (normalGiven(site)) {
        // What was turned with the map is turned back; v points down, the normal's y up.
        const back = corners.map(({ value, angle }) => {
          const flat = b.node('rotate2d', [b.combine(b.extract(value, 0), b.extract(value, 1)), angle]);
          return b.combine(b.extract(flat, 0), b.extract(flat, 1), b.extract(value, 2));
        });
        const mixed = back.map((v, i) => b.multiply(v, weights[i])).reduce(b.add);
        return { out: b.node('overnormal', [b.constant(0, 0, 1), b.node('normalize', [mixed])]) };
      }
      // c = μ + Σwᵢ(cᵢ − μ) / √(Σwᵢ²), held within the range of the content. Sources: Heitz & Neyret 2018; Mikkelsen 2022.
      const mean = b.onTheWhole(content(uv));
      const away = corners.map(({ value }, i) => b.multiply(b.subtract(value, mean), weights[i])).reduce(b.add);
      const spread = b.node('sqrt', [weights.map((w) => b.multiply(w, w)).reduce(b.add)]);
      const wide = asWide(site, input('low'), node);
      return { out: b.clamp(b.add(mean, b.divide(away, spread)), wide, asWide(site, input('high'), node)) };
    },
  },
  {
    name: 'triplanarprojection',
    group: 'effects',
    help: 'What feeds it, laid by the place in the world from three sides, mixed by where the ground faces: nothing stretches; two planes cost a third less and show a seam where the third matters',
    words: 'triplanar, box mapping, world mapping, cube projection, cliffs, no uv, biplanar, two planes',
    materialx: 'triplanarprojection',
    inputs: () => [
      CONTENT,
      { name: 'repeats', type: 'float', initial: [1], unit: '1/m', low: 0.1, high: 8 },
      { name: 'sharpness', type: 'float', initial: [4], low: 1, high: 16 },
      { name: 'position', type: 'vec3', initial: 'position' },
      { name: 'normal', type: 'vec3', initial: 'normal' },
    ],
    outputs: () => [{ name: 'out', type: 'any' }],
    settings: [{ name: 'planes', label: 'planes', kind: 'choice', choices: ['three', 'two'], initial: 'three' }, whatItIs],
    lower: (site) => {
      const { b, input, setting } = site;
      const content = elsewhere(site, 'in');
      const place = b.multiply(input('position'), input('repeats'));
      const normal = b.node('normalize', [input('normal')]);
      const facing = b.node('absval', [normal]);
      const weight = [0, 1, 2].map((axis) => b.node('power', [b.extract(facing, axis), input('sharpness')]));
      const isNormal = normalGiven(site);
      const lookAt = (first: DagNode, second: DagNode) => content(b.combine(first, b.subtract(b.constant(0), second)));
      /** A normal that was looked up, leaning the ground of its plane. */
      const leaning = (value: DagNode, plane: (typeof PLANES)[number]): DagNode => {
        if (!isNormal) return value;
        const parts = [0, 1, 2].map((axis) => b.extract(normal, axis));
        plane.along.forEach(
          (axis, i) => (parts[axis] = b.add(parts[axis], b.divide(b.extract(value, i), b.max(b.extract(value, 2), b.constant(0.05))))),
        );
        return b.node('normalize', [b.combine(...parts)]);
      };
      const mixed = (values: readonly DagNode[], weights: readonly DagNode[]): DagNode => {
        const total = b.max(weights.reduce(b.add), b.constant(1e-9));
        return values.map((v, i) => b.multiply(v, b.divide(weights[i], total))).reduce(b.add);
      };
      const done = (out: DagNode) => ({ out: isNormal ? b.node('overnormal', [b.constant(0, 0, 1), intoGround(site, out)]) : out });
      const sides = PLANES.map((plane) => plane.along.map((axis) => b.extract(place, axis)));
      if (setting('planes') === 'three')
        return done(
          mixed(
            sides.map(([u, v], i) => leaning(lookAt(u, v), PLANES[i])),
            weight,
          ),
        );
      // The plane that faces least is left out; the weights run to 0 where it changes places with the next.
      const least = b.min(weight[0], b.min(weight[1], weight[2]));
      const isLeast = (i: number, yes: DagNode, no: DagNode) => b.node('ifgreater', [weight[i], least, no, yes]);
      /** The first and the second of those that are kept: of x and y, and of y and z. */
      const pick = (of: readonly DagNode[], n: 0 | 1): DagNode => (n === 0 ? isLeast(0, of[1], of[0]) : isLeast(2, of[1], of[2]));
      const two = ([0, 1] as const).map((n) => {
        const [u, v] = [0, 1].map((c) =>
          pick(
            sides.map((s) => s[c]),
            n,
          ),
        );
        const value = lookAt(u, v);
        if (!isNormal) return value;
        const leans = PLANES.map((plane) => leaning(value, plane));
        return pick(leans, n);
      });
      const weights = ([0, 1] as const).map((n) => b.subtract(pick(weight, n), least));
      return done(mixed(two, [b.add(weights[0], b.constant(1e-6)), b.add(weights[1], b.constant(1e-6))]));
    },
  },
  {
    name: 'parallax',
    group: 'effects',
    help: 'A coordinate moved along the line of sight by heights: what is looked up by it seems raised; every look costs what the heights cost',
    words: 'parallax mapping, depth, relief, occlusion mapping, interior',
    materialx: 'PB_parallax',
    inputs: () => [
      { name: 'height', type: 'float', initial: [0], unit: 'm' },
      PLACE,
      { name: 'scale', type: 'float', initial: [1], low: 0, high: 4 },
      { name: 'viewdirection', type: 'vec3', initial: 'viewdirection' },
    ],
    outputs: () => [{ name: 'out', type: 'vec2' }],
    settings: [{ name: 'looks', label: 'looks', kind: 'count', initial: 3, low: 1, high: 16, most: 'each of which works the heights out again' }],
    through: 'texcoord',
    lower: (site) => {
      const { b, input, count, value } = site;
      const height = elsewhere(site, 'height');
      const sight = intoGround(site, input('viewdirection'));
      const steep = b.max(b.extract(sight, 2), b.constant(0.3));
      const run = value('run', 'float', ({ extentM }) => ({ [`${site.prefix}run`]: [1 / extentM] }));
      const lean = b.multiply(
        b.combine(b.extract(sight, 0), b.subtract(b.constant(0), b.extract(sight, 1))),
        b.divide(b.multiply(run, input('scale')), steep),
      );
      const from = input('texcoord');
      let at = from;
      for (let i = 0; i < count('looks'); i++) at = b.add(from, b.multiply(lean, height(at)));
      return { out: at };
    },
  },
];
