import * as fc from 'fast-check';
import { Builder, allOperations, evaluateOnce } from '../index';

/** One application to numbers. */
const at = (op: string, args: readonly (readonly number[])[], attrs = {}): readonly number[] => {
  const b = new Builder();
  return evaluateOnce({
    x: b.node(
      op,
      args.map((a) => b.constant(...a)),
      attrs,
    ),
  })['x'];
};
const close = (got: number, want: number, why: string, by = 2e-6) =>
  expect(Math.abs(got - want))
    .withContext(`${why}: ${got}, not ${want}`)
    .toBeLessThanOrEqual(by * Math.max(1, Math.abs(want)));
// What is smaller than the least normal number graphics processors take for zero.
const some = fc.double({ min: -40, max: 40, noNaN: true }).filter((v) => v === 0 || Math.abs(v) >= 2 ** -126);
/** What a float holds of a number. */
const f = (x: number): number => Math.fround(x) + 0;

/** References written from what each is, in double numbers. */
const ONE: Record<string, (x: number) => number> = {
  sin: (x) => Math.sin(x),
  cos: (x) => Math.cos(x),
  sign: (x) => Math.sign(x),
  ceil: (x) => Math.ceil(x),
  floor: (x) => Math.floor(x),
  round: (x) => Math.floor(x + 0.5),
  exp: (x) => Math.exp(x),
  ln: (x) => Math.log(Math.max(x, 2 ** -126)),
  acos: (x) => Math.acos(Math.min(1, Math.max(-1, x))),
  asin: (x) => Math.asin(Math.min(1, Math.max(-1, x))),
  sqrt: (x) => Math.sqrt(Math.max(0, x)),
  absval: (x) => Math.abs(x),
  invert: (x) => 1 - x,
};
const TWO: Record<string, (a: number, b: number) => number> = {
  // What passes the largest power of two is held there.
  power: (a, b) => (b === 0 ? 1 : a > 0 ? Math.min(2 ** 127, a ** b) : 0),
  atan2: (y, x) => Math.atan2(y, x),
  step: (edge, x) => (x < edge ? 0 : 1),
  min: Math.min,
  max: Math.max,
};

describe('functions of numbers', () => {
  for (const [name, want] of Object.entries(ONE))
    it(`${name} is what it is called`, () => {
      fc.assert(
        fc.property(some, (x) => close(at(name, [[f(x)]])[0], want(f(x)), `${name}(${x})`, name === 'exp' ? 2e-5 : 4e-6)),
        { numRuns: 200 },
      );
    });
  for (const [name, want] of Object.entries(TWO))
    it(`${name} is what it is called`, () => {
      const bounds = name === 'power' ? fc.double({ min: -4, max: 4, noNaN: true }) : some;
      fc.assert(
        fc.property(bounds, bounds, (a, b) => close(at(name, [[f(a)], [f(b)]])[0], want(f(a), f(b)), `${name}(${a}, ${b})`, 2e-5)),
        { numRuns: 200 },
      );
    });
  it('modulo leaves what is less than the divisor, with its sign', () => {
    fc.assert(
      fc.property(some, fc.double({ min: 0.25, max: 9, noNaN: true }), (a, b) => {
        const rest = at('modulo', [[f(a)], [f(b)]])[0];
        expect(rest).toBeGreaterThanOrEqual(-1e-4);
        expect(rest).toBeLessThanOrEqual(f(b) + 1e-4);
        const times = (f(a) - rest) / f(b);
        close(times, Math.round(times), `${a} mod ${b}`, 1e-5);
      }),
      { numRuns: 150 },
    );
  });
  it('tangent is sine over cosine away from its poles', () => {
    for (const x of [-1.2, -0.3, 0, 0.7, 1.4, 3.5]) close(at('tan', [[x]])[0], Math.tan(x), `tan ${x}`, 1e-5);
  });
  it('contrast, range and hsv by hand', () => {
    expect(at('contrast', [[0.75], [2], [0.5]])).toEqual([1]);
    close(at('range', [[0.25], [0], [1], [2], [1], [3]])[0], 1 + 2 * 0.5, 'range with gamma 2');
    close(at('range', [[5], [0], [1], [1], [0], [0.5]])[0], 0.5, 'range holds its end');
    // Orange: hue 30° of 360.
    const [h, s, v] = at('rgbtohsv', [[1, 0.5, 0]]);
    [h - 1 / 12, s - 1, v - 1].forEach((d) => close(d, 0, 'orange'));
    at('hsvtorgb', [[2 / 3, 1, 0.5]]).forEach((x, i) => close(x, [0, 0, 0.5][i], 'blue'));
    at('hsvadjust', [
      [1, 0.5, 0],
      [0.5, 1, 1],
    ]).forEach((x, i) => close(x, [0, 0.5, 1][i], 'half around from orange'));
    close(at('luminance', [[1, 1, 1]])[0], 1, 'white');
    close(at('luminance', [[0, 1, 0]])[0], 0.7152, 'green');
  });
  it('colours come back from hue, saturation and value', () => {
    const part = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(part, part, part, (r, g, b) => {
        const back = at('hsvtorgb', [[...at('rgbtohsv', [[r, g, b]])]]);
        [r, g, b].forEach((x, i) => close(back[i], x, `${r} ${g} ${b}`, 2e-6));
      }),
      { numRuns: 150 },
    );
  });
  it('directions by hand', () => {
    expect(
      at('crossproduct', [
        [1, 0, 0],
        [0, 1, 0],
      ]),
    ).toEqual([0, 0, 1]);
    expect(at('magnitude', [[3, 4]])).toEqual([5]);
    expect(
      at('distance', [
        [1, 1],
        [4, 5],
      ]),
    ).toEqual([5]);
    at('rotate2d', [[1, 0], [90]]).forEach((x, i) => close(x, [0, -1][i], 'quarter turn', 1e-6));
    // A place that faces +X, whose u runs along −Z: z of the tangent space becomes x, x becomes −z.
    const place = [
      [1, 0, 0],
      [0, 0, -1, 1],
    ];
    const out = at('transformnormal', [[0, 0, 1], ...place], { fromspace: 'tangent', tospace: 'world' });
    out.forEach((x, i) => close(x, [1, 0, 0][i], 'out of the ground'));
    at('transformnormal', [[1, 0, 0], ...place], { fromspace: 'tangent', tospace: 'world' }).forEach((x, i) => close(x, [0, 0, -1][i], 'along u'));
    // A tangent that lies along the normal has no direction of its own, whatever rounding leaves of it.
    const [a, b, c] = [0.36, 0.48, 0.8].map(Math.fround);
    expect(
      at(
        'transformnormal',
        [
          [1, 0, 0],
          [a, b, c],
          [3 * a, 3 * b, 3 * c, 1],
        ],
        { fromspace: 'tangent', tospace: 'world' },
      ),
    ).toEqual([0, 0, 0]);
    expect(at('transformnormal', [[0.6, 0, 0.8], ...place], { fromspace: 'object', tospace: 'world' }).map((v) => Math.round(v * 10))).toEqual([
      6, 0, 8,
    ]);
  });
  it('a normal goes from tangent space to the world and back', () => {
    const angle = fc.double({ min: -1, max: 1, noNaN: true });
    fc.assert(
      fc.property(fc.array(angle, { minLength: 8, maxLength: 8 }), ([a, b, c, d, e, g, h, i]) => {
        const unit = (v: number[]) => v.map((x) => x / (Math.hypot(...v) || 1));
        const [normal, along, v] = [unit([a, b, c + 1.5]), [d, e + 1.5, g, 1], unit([h, i, 1])];
        const world = at('transformnormal', [v, normal, along], { fromspace: 'tangent', tospace: 'world' });
        const back = at('transformnormal', [[...world], normal, along], { fromspace: 'world', tospace: 'tangent' });
        back.forEach((x, k) => close(x, v[k], 'there and back', 1e-5));
      }),
      { numRuns: 100 },
    );
  });
  it('reoriented normals: flat detail leaves the base, a flat base the detail, all have length 1', () => {
    const slope = fc.double({ min: -1.2, max: 1.2, noNaN: true });
    const unit = (x: number, y: number) => [x, y, 1].map((v) => v / Math.hypot(x, y, 1));
    fc.assert(
      fc.property(slope, slope, slope, slope, (a, b, c, d) => {
        const [base, detail] = [unit(a, b), unit(c, d)];
        at('overnormal', [base, [0, 0, 1]]).forEach((x, i) => close(x, base[i], 'flat detail', 1e-5));
        at('overnormal', [[0, 0, 1], detail]).forEach((x, i) => close(x, detail[i], 'flat base', 1e-5));
        close(Math.hypot(...at('overnormal', [base, detail])), 1, 'length', 1e-5);
      }),
      { numRuns: 100 },
    );
  });
  it('conditions choose by what stands between the two', () => {
    const choose = (op: string, a: number, b: number) => at(op, [[a], [b], [7], [9]])[0];
    expect([choose('ifgreater', 2, 1), choose('ifgreater', 1, 1), choose('ifgreatereq', 1, 1), choose('ifgreatereq', 0, 1)]).toEqual([7, 9, 7, 9]);
    expect([choose('ifequal', 1, 1), choose('ifequal', 1, 1.0001)]).toEqual([7, 9]);
  });
  it('random numbers are even, the same for the same seed, and others for another', () => {
    const list = Array.from({ length: 2000 }, (_, i) => at('randomfloat', [[i], [3]])[0]);
    const mean = list.reduce((a, x) => a + x, 0) / list.length;
    close(mean, 0.5, 'mean', 0.03);
    expect(new Set(list.map((x) => Math.floor(x * 10))).size).toBe(10);
    expect(at('randomfloat', [[5.9], [3]])).toEqual(at('randomfloat', [[5], [3]]));
    expect(at('randomfloat', [[5], [4]])).not.toEqual(at('randomfloat', [[5], [3]]));
  });
});

describe('ends of what operations can take', () => {
  const WILD = [0, -0, 1, -1, 0.5, 1e-30, -1e-30, 1e6, -1e6, 1e30, -1e30];
  it('never give what is no number, nor infinity, for numbers of ordinary and of absurd size', () => {
    for (const op of allOperations()) {
      if (op.leaf || op.picture || !op.lanes) continue;
      for (const x of WILD)
        for (const y of [0, 1, -2, 1e6]) {
          // Past the square root of the largest float even a product is too large for anybody.
          if (
            Math.abs(x) > 1e10 &&
            !['sin', 'cos', 'exp', 'ln', 'sqrt', 'sign', 'power', 'hold', 'step', 'clamp', 'acos', 'asin', 'atan2'].includes(op.name)
          )
            continue;
          const args = op.inputs.map(({ type, name }, i) => {
            const wide = type === 'any' ? 1 : Number(type.slice(3)) || 1;
            const value = ['period', 'octaves', 'seed', 'bias'].includes(name) ? Math.min(8, Math.abs(y)) : i % 2 ? y : x;
            return new Array<number>(wide).fill(value);
          });
          const attrs = { shape: 'pebble', index: 0, fromspace: 'tangent', tospace: 'world' };
          const out = at(op.name, args, attrs);
          if (!out.every(Number.isFinite)) fail(`${op.name}(${args.join('; ')}) gives ${out.join()}`);
        }
    }
    expect().nothing();
  });
  it('0/0, log 0, 0⁰, the direction of nothing, the root of less than nothing', () => {
    expect(at('divide', [[0], [0]])).toEqual([0]);
    close(at('ln', [[0]])[0], Math.log(2 ** -126), 'ln 0');
    expect(at('power', [[0], [0]])).toEqual([1]);
    expect(at('power', [[-2], [3]])).toEqual([0]);
    expect(at('atan2', [[0], [0]])).toEqual([0]);
    expect(at('sqrt', [[-4]])).toEqual([0]);
    expect(at('normalize', [[0, 0, 0]])).toEqual([0, 0, 0]);
    expect(at('hold', [[Number.NaN], [0.25], [1]])).toEqual([0.25]);
    expect(at('hold', [[Infinity], [0], [1]])).toEqual([1]);
    close(at('power', [[10], [60]])[0], 2 ** 127, 'held', 1);
    expect(at('power', [[10], [60]])[0]).toBeLessThan(3.5e38);
  });
  it('stay in the range that is promised', () => {
    const one = fc.double({ min: -3, max: 3, noNaN: true });
    fc.assert(
      fc.property(
        fc.constantFrom(...allOperations().filter((o) => o.lanes && !o.picture && !o.leaf)),
        fc.array(one, { minLength: 8, maxLength: 8 }),
        (op, n) => {
          const b = new Builder();
          const args = op.inputs.map(({ type, name }, i) => {
            const wide = type === 'any' ? 1 : Number(type.slice(3)) || 1;
            const x = ['period', 'octaves', 'seed'].includes(name) ? 1 + Math.floor(Math.abs(n[i])) : n[i];
            return b.constant(...Array.from({ length: wide }, (_, c) => (['period', 'seed'].includes(name) ? x : n[(i + c) % 8])));
          });
          const node = b.node(op.name, args, { shape: 'leaf', index: 0, fromspace: 'tangent', tospace: 'world' });
          for (const v of evaluateOnce({ node })['node'])
            if (v < node.range.lo - 1e-4 * Math.max(1, Math.abs(v)) || v > node.range.hi + 1e-4 * Math.max(1, Math.abs(v)))
              fail(`${op.name}: ${v} outside ${node.range.lo}…${node.range.hi}`);
        },
      ),
      { numRuns: 600 },
    );
  });
});

describe('a number beside a vector', () => {
  it('goes with every component, at every port that takes both', () => {
    for (const op of allOperations()) {
      const any = op.inputs.flatMap(({ type }, i) => (type === 'any' ? [i] : []));
      if (op.leaf || op.picture || any.length < 2) continue;
      for (const wide of any) {
        const arg = (i: number, spread: boolean) =>
          op.inputs[i].type !== 'any' ? [0.4] : i === wide ? [0.2, 0.5, 0.7] : spread ? [0.3, 0.3, 0.3] : [0.3];
        const [mixed, even] = [false, true].map((spread) =>
          at(
            op.name,
            op.inputs.map((_, i) => arg(i, spread)),
          ),
        );
        expect(mixed).withContext(`${op.name}, port ${wide}`).toEqual(even);
      }
    }
  });
});
