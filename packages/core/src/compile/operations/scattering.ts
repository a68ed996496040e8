// Cells and scattered pieces: what most grounds are made of. One random point a lattice cell, the 3 × 3 neighbours looked at.
import type { Lanes } from '../lanes';
import { dotLanes, mixLanes } from '../lanes';
import type { Operation } from '../registry';
import { ANY, UNIT } from '../types';
import { hashLanes, lowUnitLanes, periodsOf, unitLanes, wrapLanes } from './hash';
import { always } from './shared';

/** Calls `visit` for each of the nine cells around a point with its random words and the vector from its corner. */
function neighbours<V>(l: Lanes<V>, p: readonly V[], period: readonly V[], seed: V, visit: (words: [V, V, V], offset: [V, V]) => void): void {
  const periods = periodsOf(l, period);
  const cell = p.map((v) => l.floor(v));
  const inside = p.map((v, i) => l.subtract(v, cell[i]));
  const key = l.toWhole(seed);
  const axis = (i: number) =>
    [-1, 0, 1].map((k) => ({ at: l.toWhole(wrapLanes(l, l.add(cell[i], l.number(k)), periods[i])), offset: l.subtract(inside[i], l.number(k)) }));
  const [xs, ys] = [axis(0), axis(1)];
  for (const y of ys) for (const x of xs) visit(hashLanes(l, x.at, y.at, key), [x.offset, y.offset]);
}

/** Vector from the random point of a cell; `jitter` 0 keeps points at the middle. */
const fromPoint = <V>(l: Lanes<V>, words: readonly V[], offset: readonly V[], jitter: V): V[] =>
  offset.map((o, i) => l.subtract(o, l.add(l.number(0.5), l.multiply(jitter, l.subtract(unitLanes(l, words[i]), l.number(0.5))))));

export type ScatterShape = 'pebble' | 'leaf' | 'disc';

/** Height of a shape at its own coordinates (±1 at its ends), 0 at its outline; second: whether the place is inside. */
function shapeLanes<V>(l: Lanes<V>, shape: ScatterShape, a: V, b: V): { rise: V; inside: V; across: V } {
  const [zero, one] = [l.number(0), l.number(1)];
  const aa = l.multiply(a, a);
  if (shape === 'leaf') {
    // Pointed at both ends, widest behind the middle.
    const width = l.multiply(l.max(zero, l.subtract(one, aa)), l.subtract(l.number(0.78), l.multiply(l.number(0.34), a)));
    const across = l.divide(b, l.max(width, l.number(1e-3)));
    return { rise: l.subtract(one, l.multiply(across, across)), inside: l.both(l.less(l.abs(b), width), l.less(aa, one)), across };
  }
  const rr = l.add(aa, l.multiply(b, b));
  // A river stone is flatter on top than a ball: √(1 − r⁴).
  const rest = shape === 'pebble' ? l.subtract(one, l.multiply(rr, rr)) : l.subtract(one, rr);
  return { rise: l.sqrt(l.max(zero, rest)), inside: l.less(rr, one), across: b };
}

export const SCATTERING: Operation[] = [
  {
    name: 'worleynoise2d',
    help: 'Distance to the nearest of one scattered point a cell, in cells, no more than 1',
    materialx: 'worleynoise2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
    ],
    result: always('float'),
    graph: { group: 'procedural', words: 'worley, cellular, cobbles, dots', defaults: ['texcoord', [8], [1]] },
    lanes: (l, [p, period, [seed]]) => {
      let near = l.number(1);
      neighbours(l, p, period, seed, (words, offset) => {
        const away = fromPoint(l, words, offset, l.number(1));
        near = l.min(near, dotLanes(l, away, away));
      });
      return [l.sqrt(near)];
    },
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: 'zero',
  },
  {
    name: 'cells2d',
    jumps: true,
    help: 'Cells around scattered points: vector from the nearest point (x, y), distance to the border (z), a number of its own (w)',
    materialx: 'PB_cells2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
      { name: 'jitter', type: 'float' },
    ],
    result: always('vec4'),
    graph: { group: 'procedural', words: 'cells, voronoi, cracks, cobbles, random by cell', defaults: ['texcoord', [8], [1], [1]] },
    lanes: (l, [p, period, [seed], [jitter]]) => {
      let [x, y, id] = [l.number(9), l.number(0), l.number(0)];
      let [near, next] = [l.number(81), l.number(81)];
      neighbours(l, p, period, seed, (words, offset) => {
        const [dx, dy] = fromPoint(l, words, offset, jitter);
        const d = l.add(l.multiply(dx, dx), l.multiply(dy, dy));
        const nearer = l.less(d, near);
        next = l.select(nearer, near, l.min(next, d));
        near = l.min(near, d);
        x = l.select(nearer, dx, x);
        y = l.select(nearer, dy, y);
        id = l.select(nearer, unitLanes(l, words[2]), id);
      });
      return [x, y, l.subtract(l.sqrt(next), l.sqrt(near)), id];
    },
    price: { alu: 'counted' },
    range: () => ({ lo: -2, hi: 2 }),
    derivative: 'zero',
  },
  {
    name: 'scatter2d',
    jumps: true,
    help: 'Pieces lying over each other by height: place on the topmost along and across (x, y), its height 0–1 (z), a number of its own (w); height 0 where there is none',
    materialx: 'PB_scatter2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
      { name: 'keep', type: 'float' },
      { name: 'size', type: 'float' },
      { name: 'slimness', type: 'float' },
      { name: 'stacking', type: 'float' },
    ],
    result: always('vec4'),
    lanes: (l, [p, period, [seed], [keep], [size], [slimness], [stacking]], node) => {
      const shape = node.attrs['shape'] as ScatterShape;
      const [zero, one] = [l.number(0), l.number(1)];
      let [x, y, top, id] = [zero, zero, zero, zero];
      neighbours(l, p, period, seed, (words, offset) => {
        const at = fromPoint(l, words, offset, one);
        // Most pieces are too far from a pixel to reach it, and their turn and shape need not be known.
        const reaches = l.less(dotLanes(l, at, at), l.multiply(size, size));
        const piece = (): (typeof x)[] => {
          // A direction from two more draws; their square is not quite round, which nobody sees.
          const [c, s] = [0, 1].map((i) => l.subtract(l.multiply(lowUnitLanes(l, words[i]), l.number(2)), one));
          const inverse = l.divide(one, l.sqrt(l.max(l.number(1e-4), l.add(l.multiply(c, c), l.multiply(s, s)))));
          const [cos, sin] = [l.multiply(c, inverse), l.multiply(s, inverse)];
          const own = unitLanes(l, words[2]);
          const long = l.multiply(size, mixLanes(l, l.number(0.72), one, lowUnitLanes(l, words[2])));
          const wide = l.multiply(long, slimness);
          const a = l.divide(l.add(l.multiply(at[0], cos), l.multiply(at[1], sin)), long);
          const b = l.divide(l.subtract(l.multiply(at[1], cos), l.multiply(at[0], sin)), wide);
          const { rise, inside, across } = shapeLanes(l, shape, a, b);
          const height = l.add(l.multiply(stacking, own), l.multiply(l.subtract(one, stacking), rise));
          // Which are kept must not depend on what decides their height.
          const chance = lowUnitLanes(l, l.xor(words[0], words[2]));
          const wins = l.both(l.both(inside, l.less(chance, keep)), l.less(top, height));
          return [l.select(wins, a, x), l.select(wins, across, y), l.select(wins, height, top), l.select(wins, own, id)];
        };
        [x, y, top, id] = l.whereAny(reaches, piece, [x, y, top, id]);
      });
      return [x, y, top, id];
    },
    price: { alu: 'counted' },
    range: () => ANY,
    derivative: 'zero',
  },
];
