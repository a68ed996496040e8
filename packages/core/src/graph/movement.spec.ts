import * as fc from 'fast-check';
import type { Sources } from '../compile';
import { Builder, emitGlsl, evaluate, flatDomain, lineDomain, sourcesOfMaps } from '../compile';
import type { MasterDocument } from '../document';
import { linkTo, makeOperation, valueOf } from '../document';
import { makeImage } from '../image';
import { valueNoise } from '../noise';
import { NOTHING, graph, noSources, outputOf } from '../testing/graphs';
import { MasterMaterials } from './material';

const coordinate = (step: string, inputs: MasterDocument['operations'][string]['inputs'], settings = {}) =>
  graph(
    {
      c: makeOperation(step, 1, { inputs, settings }),
      u: makeOperation('extract', 2, { inputs: { in: linkTo('c') }, settings: { index: 0 } }),
      v: makeOperation('extract', 3, { inputs: { in: linkTo('c') }, settings: { index: 1 } }),
    },
    { height: linkTo('u') },
  );
/** What a coordinate is at a place after so many seconds. */
function at(d: MasterDocument, u: number, v: number, seconds = 0): [number, number] {
  const options = { domain: lineDomain(Float32Array.of(u, v), 1 / 256), values: { time: [seconds] } };
  return (['u', 'v'] as const).map((id) => outputOf({ ...d, outputs: { height: linkTo(id) } }, 'height', 1, NOTHING, noSources, options)[0][0]) as [
    number,
    number,
  ];
}
const frac = (x: number) => x - Math.floor(x);
/** The distance between two numbers of which whole parts do not count. */
const apart = (a: number, b: number) => Math.min(frac(a - b), frac(b - a));

const KNOWN = { surfaces: { s: { sizeM: 1, reliefM: 0, mid: 0.5, roles: new Set(['roughness'] as const) } }, blends: {}, masters: {} };
/** A map that tiles and differs everywhere. */
const cloud = makeImage({
  width: 256,
  height: 256,
  channels: 1,
  data: Uint8Array.from({ length: 65536 }, (_, i) => Math.round(255 * valueNoise(((i % 256) / 256) * 16, (i >> 8) / 16, 16, 3))),
});
const clouds: Sources = (_, channel) => sourcesOfMaps({ roughness: cloud }, true)(channel)!;

describe('panning', () => {
  it('moves by so many repetitions a second, and by what is left of whole ones', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        fc.double({ min: 0, max: 60, noNaN: true }),
        (u, speed, t) => {
          const [x, y] = at(coordinate('panning', { speed: valueOf(speed, -speed) }), u, 0.25, t);
          expect(apart(x, u - speed * t)).toBeLessThan(1e-4);
          expect(apart(y, 0.25 + speed * t)).toBeLessThan(1e-4);
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('time and waves', () => {
  const number = (step: string, inputs: object, seconds: number) =>
    outputOf(graph({ t: makeOperation(step, 1, { inputs: inputs as never }) }, { height: linkTo('t') }), 'height', 1, NOTHING, noSources, {
      values: { time: [seconds] },
    })[0][0];
  it('run with the clock', () => {
    expect(number('time', { speed: valueOf(0.5) }, 3)).toBe(1.5);
    for (const t of [0, 0.3, 1.7, 4]) {
      const swing = 0.5 - 0.5 * Math.cos(2 * Math.PI * 0.5 * t);
      expect(number('wave', { rate: valueOf(0.5), low: valueOf(2), high: valueOf(3) }, t)).toBeCloseTo(2 + swing, 4);
    }
  });
  it('are one number a frame: no pixel works them out', () => {
    const d = graph(
      { w: makeOperation('wave', 1), m: makeOperation('multiply', 2, { inputs: { in1: linkTo('w'), in2: valueOf(0.5) } }) },
      { roughness: linkTo('m') },
    );
    expect(emitGlsl({ x: new MasterMaterials().of(d, NOTHING).far.outputs.roughness }, 'live').source).toContain('u_time');
  });
});

describe('polar mapping', () => {
  const far = (u: number, v: number) => Math.hypot(u - 0.5, v - 0.5);
  it('is θ·around + fract(spin·t), 2ρ·outward + fract(flow·t)', () => {
    const unitRange = fc.double({ min: 0, max: 1, noNaN: true });
    const rate = fc.double({ min: -2, max: 2, noNaN: true });
    fc.assert(
      fc.property(
        unitRange,
        unitRange,
        fc.integer({ min: -6, max: 6 }),
        rate,
        rate,
        rate,
        fc.double({ min: 0, max: 10, noNaN: true }),
        (u, v, around, outward, spin, flow, t) => {
          fc.pre(far(u, v) > 1e-3);
          const d = coordinate('polar', { around: valueOf(around), outward: valueOf(outward), spin: valueOf(spin), flow: valueOf(flow) });
          const [x, y] = at(d, u, v, t);
          const turns = Math.atan2(v - 0.5, u - 0.5) / (2 * Math.PI);
          expect(apart(x, turns * (around || 1) + spin * t)).toBeLessThan(2e-4);
          expect(apart(y, 2 * far(u, v) * outward + flow * t)).toBeLessThan(2e-4);
        },
      ),
      { numRuns: 60 },
    );
  });
  it('is a number in the middle too', () => {
    for (const cut of ['whole', 'folded']) expect(at(coordinate('polar', {}, { cut }), 0.5, 0.5)).toEqual([0, 0]);
  });

  const swirl = (inputs: object = {}, cut = 'whole') =>
    graph(
      {
        p: makeOperation('polar', 1, { inputs: { around: valueOf(2), outward: valueOf(2), ...inputs } as never, settings: { cut } }),
        i: makeOperation('image', 2, { inputs: { texcoord: linkTo('p') }, settings: { surface: 's', role: 'roughness' } }),
      },
      { roughness: linkTo('i') },
    );
  /** Differences between a row above the middle and one below it, left of it (where the angle jumps) and right of it. */
  function acrossMiddle(d: MasterDocument, side: number): { cut: number; others: number } {
    const [plane] = outputOf(d, 'roughness', side, KNOWN, clouds);
    const step = (x: number, y: number) => Math.abs(plane[y * side + x] - plane[(y + 1) * side + x]);
    let [cut, others] = [0, 0];
    for (let x = 0; x < side / 2 - 1; x++) cut = Math.max(cut, step(x, side / 2 - 1));
    for (let x = side / 2 + 1; x < side; x++) others = Math.max(others, step(x, side / 2 - 1));
    for (let y = 0; y < side - 1; y++) if (y !== side / 2 - 1) for (let x = 0; x < side; x++) others = Math.max(others, step(x, y));
    return { cut, others };
  }
  for (const distortion of [0, 0.2])
    it(`differs across its cut by no more than anywhere else, at every mip (distortion ${distortion})`, () => {
      for (const side of [512, 256, 128, 64, 32, 16, 8]) {
        const { cut, others } = acrossMiddle(swirl(distortion ? { distortion: valueOf(distortion) } : {}), side);
        expect(cut).withContext(`${side}`).toBeLessThanOrEqual(others);
      }
    });
  it('with the distortion that is called usable still shows the map, not its mean', () => {
    const deviation = (plane: Float32Array) => {
      const mean = plane.reduce((a, b) => a + b) / plane.length;
      return Math.sqrt(plane.reduce((a, b) => a + (b - mean) ** 2, 0) / plane.length);
    };
    const of = (inputs: object) => deviation(outputOf(swirl(inputs), 'roughness', 256, KNOWN, clouds)[0]);
    expect(of({ distortion: valueOf(0.2) })).toBeGreaterThan(0.8 * of({}));
  });
  it('has slopes as steep as the formula says, and no steeper than a pixel in its middle allows', () => {
    const b = new Builder();
    const uv = b.texcoord();
    const polar = b.node('polar2d', [uv, b.constant(0.5, 0.5), b.constant(3), b.constant(1.5)], { folded: 0 });
    const side = 64;
    const { x } = evaluate({ x: b.derivative(polar, 'x') }, { domain: flatDomain(side, side) });
    for (let i = 0; i < side * side; i++) {
      const [px, py] = [((i % side) + 0.5) / side - 0.5, (Math.floor(i / side) + 0.5) / side - 0.5];
      const r = Math.hypot(px, py);
      // n⊥·dx with dx = (1/side, 0).
      const du = (3 * (-py / r / side)) / (2 * Math.PI * Math.max(r, 1 / side / Math.PI));
      expect(x[0][i]).toBeCloseTo(du, 4);
      expect(x[1][i]).toBeCloseTo((2 * 1.5 * px) / r / side, 4);
      expect(Math.abs(x[0][i])).toBeLessThanOrEqual(1.5 + 1e-5);
    }
  });
  it('tells live shaders its slopes; folded, the hardware finds them', () => {
    const source = (cut: string) => emitGlsl({ x: new MasterMaterials().of(swirl({}, cut), KNOWN).far.outputs.roughness }, 'live').source;
    expect(source('whole')).toMatch(/= pb_fetch_slopes\(/);
    expect(source('whole')).toContain('dFdx(in_texcoord)');
    expect(source('folded')).not.toMatch(/= pb_fetch_slopes\(/);
    expect(source('folded')).not.toMatch(/dFdx\(in_texcoord\)/);
  });
  it('folded is the same on both sides of its axis', () => {
    const d = coordinate('polar', { around: valueOf(3) }, { cut: 'folded' });
    for (const [u, v] of [
      [0.1, 0.3],
      [0.8, 0.1],
    ])
      at(d, u, v).forEach((x, i) => expect(x).toBeCloseTo(at(d, u, 1 - v)[i], 5));
  });
});

describe('levels of what is looked up', () => {
  it('are worked out wherever a coordinate jumps, whoever made it jump', () => {
    const cut = graph(
      {
        f: makeOperation('fract', 1, { inputs: { in: linkTo('t') } }),
        t: makeOperation('multiply', 2, { inputs: { in1: linkTo('x'), in2: valueOf(3) } }),
        x: makeOperation('texcoord', 3),
        i: makeOperation('image', 4, { inputs: { texcoord: linkTo('f') }, settings: { surface: 's', role: 'roughness' } }),
      },
      { roughness: linkTo('i') },
    );
    expect(emitGlsl({ x: new MasterMaterials().of(cut, KNOWN).far.outputs.roughness }, 'live').source).toMatch(/= pb_fetch_slopes\(/);
    const [plane] = outputOf(cut, 'roughness', 64, KNOWN, clouds);
    const whole = { ...cut, operations: { ...cut.operations, f: makeOperation('add', 1, { inputs: { in1: linkTo('t'), in2: valueOf(0, 0) } }) } };
    outputOf(whole, 'roughness', 64, KNOWN, clouds)[0].forEach((v, i) => expect(plane[i]).toBeCloseTo(v, 4));
  });
});
