import type { Lanes } from '../lanes';
import { mixLanes, smoothLanes } from '../lanes';
import type { DerivativeRule, Operation } from '../registry';
import { UNIT } from '../types';
import { hashLanes, periodsOf, unitLanes, wholeCells, wrapLanes } from './hash';
import { always } from './shared';

/** What the lattice around a point gives: its four corners (lower first), and where the point lies between them, smoothed. */
function latticeLanes<V>(l: Lanes<V>, p: readonly V[], period: readonly V[]): { inside: V[]; xs: V[]; ys: V[] } {
  const periods = periodsOf(l, period);
  const cell = p.map((v) => l.floor(v));
  const low = cell.map((c, i) => wrapLanes(l, c, periods[i]));
  const high = low.map((c, i) => l.select(l.equal(l.add(c, l.number(1)), periods[i]), l.number(0), l.add(c, l.number(1))));
  const [xs, ys] = [0, 1].map((i) => [l.toWhole(low[i]), l.toWhole(high[i])]);
  return { inside: p.map((x, c) => l.subtract(x, cell[c])), xs, ys };
}

/** Value noise as in the noise room, in lanes: one number from each of the words that are asked for. */
function noiseLanes<V>(l: Lanes<V>, p: readonly V[], period: readonly V[], seed: V, words: readonly number[] = [0]): V[] {
  const { inside, xs, ys } = latticeLanes(l, p, period);
  const [u, v] = inside.map((t) => smoothLanes(l, t));
  const key = l.toWhole(seed);
  const corners = ys.map((y) => xs.map((x) => hashLanes(l, x, y, key)));
  return words.map((word) => {
    const [top, below] = corners.map(([a, b]) => mixLanes(l, unitLanes(l, a[word]), unitLanes(l, b[word]), u));
    return mixLanes(l, top, below, v);
  });
}

/** Gradient noise: at each corner a random slope, of which neither part is over 1; 0–1 with ½ in the middle. */
function gradientLanes<V>(l: Lanes<V>, p: readonly V[], period: readonly V[], seed: V): V {
  const { inside, xs, ys } = latticeLanes(l, p, period);
  const key = l.toWhole(seed);
  const [u, v] = inside.map((t) => smoothLanes(l, t));
  const away = (axis: number, corner: number) => l.subtract(inside[axis], l.number(corner));
  const [top, below] = ys.map((y, j) => {
    const [a, b] = xs.map((x, i) => {
      const words = hashLanes(l, x, y, key);
      const slope = (k: number) => l.subtract(l.multiply(unitLanes(l, words[k]), l.number(2)), l.number(1));
      return l.add(l.multiply(slope(0), away(0, i)), l.multiply(slope(1), away(1, j)));
    });
    return mixLanes(l, a, b, u);
  });
  return l.add(l.number(0.5), l.multiply(l.number(0.5), mixLanes(l, top, below, v)));
}

/** Most octaves of a fractal sum. */
const MAX_OCTAVES = 8;

/** How much it changes over a step of its place: what a footprint of a pixel sees of it, however large that is. */
const overStep: DerivativeRule = (b, node, d) => {
  const [p, ...rest] = node.args;
  return b.subtract(b.node(node.op, [b.add(p, d(0)), ...rest]), node);
};

export const NOISES: Operation[] = [
  {
    name: 'noise2d',
    help: 'Value noise, 0–1, repeating after a whole number of cells (one number, or one for each axis)',
    materialx: 'noise2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
    ],
    result: always('float'),
    graph: { group: 'procedural', words: 'value noise, random, clouds, break up', defaults: ['texcoord', [8], [1]] },
    lanes: (l, [p, period, [seed]]) => noiseLanes(l, p, period, seed),
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: overStep,
  },
  {
    name: 'noisevector2d',
    help: 'Two value noises that know nothing of each other, 0–1: for less than two of them cost',
    materialx: 'PB_noisevector2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
    ],
    result: always('vec2'),
    graph: { group: 'procedural', words: 'vector noise, bend, warp, distort, turbulence', defaults: ['texcoord', [8], [1]] },
    lanes: (l, [p, period, [seed]]) => noiseLanes(l, p, period, seed, [0, 1]),
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: overStep,
  },
  {
    name: 'gradient2d',
    help: 'Gradient noise, 0–1 about one half, repeating after a whole number of cells',
    materialx: 'PB_gradient2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
    ],
    result: always('float'),
    graph: { group: 'procedural', words: 'gradient noise, waves, clouds, break up', defaults: ['texcoord', [8], [1]] },
    lanes: (l, [p, period, [seed]]) => [gradientLanes(l, p, period, seed)],
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: overStep,
  },
  {
    name: 'fractal2d',
    help: 'Sum of value noises, each half the size and weight of the last',
    materialx: 'fractal2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
      { name: 'octaves', type: 'float' },
    ],
    result: always('float'),
    graph: { group: 'procedural', words: 'fractal noise, clouds, dirt, macro variation, break up', defaults: ['texcoord', [4], [1], [3]] },
    lanes: (l, [p, period, [seed], [octaves]], node) => {
      // A number of octaves that is known needs no more of them than that.
      const fixed = node.args[3].op === 'constant' ? Math.round((node.args[3].attrs['value'] as readonly number[])[0]) : null;
      const most = fixed === null ? MAX_OCTAVES : Math.min(MAX_OCTAVES, Math.max(1, fixed));
      const least = fixed === null ? 1 : most;
      const half = l.number(0.5);
      const double = (values: readonly (typeof half)[]) => values.map((v) => l.multiply(v, l.number(2)));
      const axes = p.length;
      const start = [l.number(0), l.number(0), half, ...p, ...period.map((v) => wholeCells(l, v))];
      const [sum, total] = l.repeat(l.floor(l.add(octaves, half)), least, most, start, (o, [had, weights, weight, ...rest]) => {
        const [noise] = noiseLanes(l, rest.slice(0, axes), rest.slice(axes), l.add(seed, o));
        return [l.add(had, l.multiply(noise, weight)), l.add(weights, weight), l.multiply(weight, half), ...double(rest)];
      });
      return [l.divide(sum, total)];
    },
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: overStep,
  },
];
