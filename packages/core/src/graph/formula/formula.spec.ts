import * as fc from 'fast-check';
import { Builder, evaluateOnce } from '../../compile';
import { lowerFormula } from './lower';
import { FormulaError, parseFormula } from './parse';

const given: Record<string, readonly number[]> = { a: [0.3], b: [2], v: [1, 2, 3], w: [0.5, -1, 4], uv: [0.25, 0.75], c: [0.1, 0.2, 0.3, 0.4] };
const run = (text: string): readonly number[] => {
  const b = new Builder();
  return evaluateOnce({ x: lowerFormula(b, parseFormula(text).body, (name) => b.constant(...(given[name] ?? [1]))) })['x'];
};
const mistake = (text: string): FormulaError => {
  try {
    run(text);
  } catch (error) {
    if (error instanceof FormulaError) return error;
    throw error;
  }
  return fail(`${text} was taken`) as never;
};

describe('a formula', () => {
  it('is worked out as GLSL says', () => {
    const cases: [string, number[]][] = [
      ['1.0 + 2.0 * 3.0', [7]],
      ['(1.0 + 2.0) * 3.0', [9]],
      ['8.0 - 3.0 - 2.0', [3]],
      ['16.0 / 4.0 / 2.0', [2]],
      ['-a + b', [1.7]],
      ['-a * -b', [0.6]],
      ['v * w', [0.5, -2, 12]],
      ['v * b', [2, 4, 6]],
      ['v.zyx', [3, 2, 1]],
      ['v.rg + uv', [1.25, 2.75]],
      ['v[2]', [3]],
      ['c.stpq.a', [0.4]],
      ['vec3(uv, a)', [0.25, 0.75, 0.3]],
      ['vec2(v)', [1, 2]],
      ['vec4(a)', [0.3, 0.3, 0.3, 0.3]],
      ['float(v)', [1]],
      ['dot(v, w)', [10.5]],
      ['length(vec2(3.0, 4.0))', [5]],
      ['cross(vec3(1., 0., 0.), vec3(0., 1., 0.))', [0, 0, 1]],
      ['mix(v, w, 0.5)', [0.75, 0.5, 3.5]],
      ['clamp(w, 0.0, 1.0)', [0.5, 0, 1]],
      ['smoothstep(0.0, 1.0, 0.25)', [0.15625]],
      ['step(0.5, v)', [1, 1, 1]],
      ['mod(-1.0, 3.0)', [2]],
      ['a > 0.2 ? b : 0.0', [2]],
      ['a > 0.2 && b < 1.0 ? 1.0 : 5.0', [5]],
      ['!(a > 0.2) || b == 2.0 ? 1.0 : 5.0', [1]],
      ['true ^^ false ? 1.0 : 0.0', [1]],
      ['a < 0.5 ? b > 3.0 ? 1.0 : 2.0 : 3.0', [2]],
      ['v == vec3(1.0, 2.0, 3.0) ? 1.0 : 0.0', [1]],
      ['2 * b', [4]],
      ['1e-1 + .5', [0.6]],
      ['// what is left\n pow(2.0, 3.0) /* eight */', [8]],
      ['exp2(3.0) + log2(8.0)', [11]],
      ['atan(1.0, -1.0)', [2.3561945]],
      ['reflect(vec2(1.0, -1.0), vec2(0.0, 1.0))', [1, 1]],
      ['trunc(-1.5)', [-1]],
      ['in vec3 v; v.y;', [2]],
    ];
    for (const [text, want] of cases) {
      const got = run(text);
      expect(got.length).withContext(text).toBe(want.length);
      want.forEach((x, i) => expect(got[i]).withContext(text).toBeCloseTo(x, 5));
    }
  });

  it('says what is wrong and at which characters', () => {
    const cases: [string, RegExp, [number, number]][] = [
      ['', /Write an expression/, [0, 0]],
      ['a +', /missing at the end/, [3, 4]],
      ['a $ b', /"\$" has no place/, [2, 3]],
      ['(a + b', /ends before \)/, [6, 7]],
      ['a b', /operator is missing before "b"/, [2, 3]],
      ['clampp(a, 0.0, 1.0)', /no function clampp\. Did you mean clamp/, [0, 6]],
      ['clamp(a)', /clamp takes 3 values, not 1/, [0, 8]],
      ['v + uv', /vec3 \+ vec2: sizes differ/, [0, 6]],
      ['a.x', /float has no component \.x/, [0, 3]],
      ['uv.z', /vec2 has no component z/, [0, 4]],
      ['v.xg', /names no components/, [0, 4]],
      ['v[3]', /components 0 to 2/, [0, 4]],
      ['a % b', /% is for whole numbers/, [2, 3]],
      ['a = b', /sets no variables/, [2, 3]],
      ['v > w', /compares floats, not vec3/, [0, 5]],
      ['a ? b : a', /wanted, such as a > b/, [0, 1]],
      ['a > b ? v : a', /of one type, not vec3 and float/, [0, 13]],
      ['(a > b) + 1.0', /bool where a number/, [0, 7]],
      ['vec3(uv)', /needs 3 numbers, here are 2/, [0, 8]],
      ['vec2(a, b, a)', /takes 2 numbers, here are 3/, [0, 13]],
      ['pow(v, a)', /pow\(vec3, float\) does not fit/, [0, 9]],
      ['for + 1.0', /word of the language/, [0, 3]],
      ['gl_x', /kept for the language/, [0, 4]],
      ['vec3', /is a type/, [0, 4]],
      ['1e99', /larger than a float/, [0, 4]],
      ['3u', /Whole numbers/, [0, 2]],
      ['in vec5 q; q', /comes a type/, [3, 7]],
    ];
    for (const [text, message, [from, to]] of cases) {
      const error = mistake(text);
      expect(error.message).withContext(text).toMatch(message);
      expect([error.from, error.to]).withContext(text).toEqual([from, to]);
    }
  });

  it('of absurd length or depth is refused with a sentence, and nothing else gives way', () => {
    expect(mistake('a+'.repeat(5000) + 'a').message).toMatch(/4000 characters at most, this one 10001/);
    expect(mistake(`${'('.repeat(1500)}a${')'.repeat(1500)}`).message).toMatch(/brackets within each other/);
    expect(mistake(`${'-'.repeat(3000)}a`).message).toMatch(/within each other/);
    expect(mistake(Array.from({ length: 30 }, (_, i) => `x${i}`).join('+')).message).toMatch(/16 inputs at most/);
    expect(run(`${'a+'.repeat(1500)}a`)[0]).toBeCloseTo(0.3 * 1501, 1);
  });

  it('never ends otherwise than with nodes or a mistake, whatever is written', () => {
    const piece = fc.constantFrom(
      'a',
      'v',
      'uv',
      '1.0',
      '.5',
      '(',
      ')',
      '+',
      '*',
      '-',
      '/',
      ',',
      '.x',
      '.zz',
      '?',
      ':',
      '<',
      '==',
      '&&',
      '!',
      'vec3(',
      'mix(',
      'sin(',
      '[0]',
      ';',
      'in ',
      ' ',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 14 }), (pieces) => {
        try {
          run(pieces.join(''));
        } catch (error) {
          if (!(error instanceof FormulaError)) throw error;
          expect(error.from).toBeLessThanOrEqual(error.to);
        }
      }),
      { numRuns: 1500 },
    );
  });

  /** Random sums, products and functions, worked out here in double numbers. */
  it('agrees with the same worked out by hand', () => {
    type Made = { text: string; value: number };
    const leaf: fc.Arbitrary<Made> = fc.oneof(
      fc.constantFrom('a', 'b').map((text) => ({ text, value: given[text][0] })),
      fc.integer({ min: -8, max: 8 }).map((n) => ({ text: n < 0 ? `(${(n / 4).toFixed(2)})` : (n / 4).toFixed(2), value: n / 4 })),
    );
    const { tree } = fc.letrec<{ tree: Made }>((tie) => ({
      tree: fc.oneof(
        { maxDepth: 4 },
        leaf,
        fc
          .tuple(tie('tree'), tie('tree'), fc.constantFrom('+', '-', '*'))
          .map(([p, q, sign]) => ({
            text: `(${p.text} ${sign} ${q.text})`,
            value: sign === '+' ? p.value + q.value : sign === '-' ? p.value - q.value : p.value * q.value,
          })),
        fc.tuple(tie('tree'), tie('tree')).map(([p, q]) => ({ text: `min(${p.text}, ${q.text})`, value: Math.min(p.value, q.value) })),
        tie('tree').map((p) => ({ text: `abs(${p.text})`, value: Math.abs(p.value) })),
        tie('tree').map((p) => ({ text: `sin(${p.text})`, value: Math.sin(p.value) })),
      ),
    }));
    fc.assert(
      fc.property(tree, ({ text, value }) => {
        if (Math.abs(value) < 1e4)
          expect(Math.abs(run(text)[0] - value))
            .withContext(text)
            .toBeLessThan(1e-3 * Math.max(1, Math.abs(value)));
      }),
      { numRuns: 200 },
    );
  });
});
