import type { Builder, DagNode } from '../../compile';

/**
 * How a function of GLSL ES 3.00 may be called: G stands for float and all vectors, the same one in a call; F for a float,
 * V for a vec3. The result is that of G where nothing else is said. Source: GLSL ES 3.00, chapter 8.
 */
export interface FormulaFunction {
  calls: readonly string[];
  help: string;
  result?: 'float' | 'vec3';
  lower: (b: Builder, args: readonly DagNode[]) => DagNode;
}

const op =
  (name: string, ...order: number[]) =>
  (b: Builder, args: readonly DagNode[]): DagNode =>
    b.node(name, order.length ? order.map((i) => args[i]) : args);
const times =
  (k: number) =>
  (b: Builder, [x]: readonly DagNode[]) =>
    b.multiply(x, b.constant(k));
const one = (help: string, lower: FormulaFunction['lower']): FormulaFunction => ({ calls: ['G'], help, lower });
const length = (b: Builder, v: DagNode): DagNode => (v.type === 'float' ? b.node('absval', [v]) : b.node('magnitude', [v]));

export const FORMULA_FUNCTIONS: Readonly<Record<string, FormulaFunction>> = {
  radians: one('degrees as radians', times(Math.PI / 180)),
  degrees: one('radians as degrees', times(180 / Math.PI)),
  sin: one('sine of radians', op('sin')),
  cos: one('cosine of radians', op('cos')),
  tan: one('tangent of radians', op('tan')),
  asin: one('arc sine', op('asin')),
  acos: one('arc cosine', op('acos')),
  atan: {
    calls: ['G', 'GG'],
    help: 'arc tangent, or the angle of a direction (y, x)',
    lower: (b, [y, x]) => b.node('atan2', [y, x ?? b.constant(1)]),
  },
  pow: { calls: ['GG'], help: 'to the power', lower: op('power') },
  exp: one('e to the power', op('exp')),
  log: one('natural logarithm', op('ln')),
  exp2: one('2 to the power', (b, [x]) => b.node('exp', [b.multiply(x, b.constant(Math.LN2))])),
  log2: one('logarithm to base 2', (b, [x]) => b.multiply(b.node('ln', [x]), b.constant(Math.LOG2E))),
  sqrt: one('square root', op('sqrt')),
  inversesqrt: one('1 / square root', (b, [x]) => b.divide(b.constant(1), b.node('sqrt', [x]))),
  abs: one('without the sign', op('absval')),
  sign: one('−1, 0 or 1', op('sign')),
  floor: one('whole number at or below', op('floor')),
  trunc: one('whole number toward 0', (b, [x]) => b.multiply(b.node('sign', [x]), b.node('floor', [b.node('absval', [x])]))),
  round: one('nearest whole number', op('round')),
  ceil: one('whole number at or above', op('ceil')),
  fract: one('what lies past the whole number', op('fract')),
  mod: { calls: ['GG', 'GF'], help: 'what is left after whole times', lower: op('modulo') },
  min: { calls: ['GG', 'GF'], help: 'the smaller', lower: op('min') },
  max: { calls: ['GG', 'GF'], help: 'the larger', lower: op('max') },
  clamp: { calls: ['GGG', 'GFF'], help: 'held between two', lower: op('clamp') },
  mix: { calls: ['GGG', 'GGF'], help: 'from one to the other', lower: op('mix') },
  step: { calls: ['GG', 'FG'], help: '0 below the edge, else 1', lower: op('step') },
  smoothstep: { calls: ['GGG', 'FFG'], help: 'smooth rise between two edges', lower: op('smoothstep', 2, 0, 1) },
  length: { calls: ['G'], help: 'length of a vector', result: 'float', lower: (b, [v]) => length(b, v) },
  distance: { calls: ['GG'], help: 'length between', result: 'float', lower: (b, [p, q]) => length(b, b.subtract(p, q)) },
  dot: {
    calls: ['GG'],
    help: 'sum of products',
    result: 'float',
    lower: (b, [p, q]) => (p.type === 'float' ? b.multiply(p, q) : b.node('dotproduct', [p, q])),
  },
  cross: { calls: ['VV'], help: 'direction square to two', result: 'vec3', lower: op('crossproduct') },
  normalize: { calls: ['G'], help: 'length 1', lower: (b, [v]) => b.node(v.type === 'float' ? 'sign' : 'normalize', [v]) },
  reflect: {
    calls: ['GG'],
    help: 'direction mirrored by a normal',
    lower: (b, [i, n]) => {
      const along = n.type === 'float' ? b.multiply(n, i) : b.node('dotproduct', [n, i]);
      return b.subtract(i, b.multiply(n, b.multiply(along, b.constant(2))));
    },
  },
};
