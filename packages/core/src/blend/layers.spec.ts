import fc from 'fast-check';
import type { Layer, LayerLook } from '../index';
import {
  BLEND_ROLES,
  DEFAULT_CONSTANT,
  EXTRAS,
  MAX_FLATTENED,
  EditPrices,
  laidOver,
  linearOf,
  makeBlend,
  makeCue,
  makeStack,
  stackShape,
} from '../index';
import { surfaces, constant, layerOf, blendOf, picture, smooth } from '../testing/layered';

describe('layers', () => {
  it('leave untouched roles bit for bit as they are below', () => {
    fc.assert(
      fc.property(
        fc.subarray([...BLEND_ROLES]),
        fc.double({ min: 0.05, max: 0.95, noNaN: true }),
        fc.constantFrom('mix', 'multiply', 'screen', 'overlay'),
        (roles, value, mode) => {
          const untouched = Object.fromEntries(roles.map((r) => [r, true as const]));
          const blend = blendOf(
            { a: layerOf('stone', 1), b: layerOf('moss', 2, { coverage: constant(value), untouched, mode: mode as Layer['mode'] }) },
            { extentM: 2.4 },
          );
          const [ground, both] = [picture(blend, 16, { height: 16, without: 'b' }), picture(blend, 16, { height: 16 })];
          for (const role of BLEND_ROLES)
            if (roles.includes(role))
              both.out[role].forEach((plane, c) =>
                expect([...plane])
                  .withContext(role)
                  .toEqual([...ground.out[role][c]]),
              );
          // What it may touch it does.
          if (!roles.includes('roughness') && value > 0.3) expect(both.of('roughness')).not.toEqual(ground.of('roughness'));
        },
      ),
      { numRuns: 25 },
    );
  });
  it('mix colour by their mode, in linear light', () => {
    const over = (mode: Layer['mode']) =>
      picture(blendOf({ a: layerOf('step', 1), b: layerOf('level', 2, { coverage: {}, mode, seam: { soft: 1 } }) })).of('baseColor')[0];
    const [a, b] = [0.2, 0.6];
    expect(over('mix')).toBeCloseTo(b, 4);
    expect(over('multiply')).toBeCloseTo(a * b, 4);
    expect(over('screen')).toBeCloseTo(1 - (1 - a) * (1 - b), 4);
    expect(over('overlay')).toBeCloseTo(2 * a * b, 4);
  });
  it('are tinted, levelled, made rougher and steeper as their look says', () => {
    const base = (look: Partial<LayerLook>) => picture(blendOf({ a: layerOf('level', 1, { look }) }));
    expect(base({ tint: '#ff8000' }).out['baseColor'].map((p) => p[0])).toEqual(
      linearOf('#ff8000').map((v) => Math.fround(Math.fround(v) * Math.fround(base({}).out['baseColor'][0][0]))),
    );
    expect(base({ low: 0.2, high: 0.8 }).of('baseColor')[0]).toBeCloseTo((0.6 - 0.2) / 0.6, 4);
    // What was the middle grey becomes one half.
    expect(base({ mid: 0.6 }).of('baseColor')[0]).toBeCloseTo(0.5, 4);
    expect(base({ roughness: 0.3 }).of('roughness')[0]).toBeCloseTo(0.55, 4);
    expect(base({ roughness: 0.9 }).of('roughness')[0]).toBe(1);
    const slope = (normal: number) => {
      const { of } = picture(blendOf({ a: layerOf('stone', 1, { look: { normal } }) }, { extentM: 2.4 }), 16, { height: 16 });
      return of('normal').map((x, i) => x / of('normal', 2)[i]);
    };
    const [plain, double] = [slope(1), slope(2)];
    plain.forEach((v, i) => expect(Math.abs(double[i] - 2 * v)).toBeLessThan(1e-3 + 0.01 * Math.abs(v)));
  });
  it('turn by whole numbers of repetitions, their normals with them', () => {
    expect(laidOver(2.4, 1.2, { scale: 1, turn: 0 })).toEqual({ a: 2, b: 0, c: 0, d: 2 });
    expect(laidOver(2.4, 0.8, { scale: 1, turn: 90 })).toEqual({ a: 0, b: 3, c: 3, d: 0 });
    expect(laidOver(10, 1, { scale: 1, turn: 37 })).toEqual({ a: 8, b: 6, c: 6, d: 8 });
    // Half as high as wide: twice as often down the extent.
    expect(laidOver(4, 2, { scale: 1, turn: 0 }, 0.5)).toEqual({ a: 2, b: 0, c: 0, d: 4 });
    expect(laidOver(10, 1, { scale: 1, turn: 37 }, 0.5)).toEqual({ a: 8, b: 6, c: 12, d: 16 });
    for (const tall of [0.1, 0.4, 0.75, 1.3, 5])
      for (let turn = -180; turn <= 180; turn += 7) {
        const { a, b, c, d } = laidOver(1.7, 1, { scale: 1, turn }, tall);
        expect([a, b, c, d].every(Number.isInteger)).toBeTrue();
        expect(a * d + b * c).not.toBe(0);
      }
    // Turned or not, one repetition of the extent meets the next.
    const blend = blendOf({ a: layerOf('stone', 1, { look: { turn: 37, scale: 0.5 } }) }, { extentM: 2.4 });
    const at = (from: number) =>
      picture(blend, 16, { geometry: { texcoord: Float32Array.from({ length: 32 }, (_, i) => (i % 2 ? 0.3 : from + i / 32)) } });
    at(0)
      .of('height')
      .forEach((h, i) => expect(h).toBeCloseTo(at(1).of('height')[i], 4));
    // By a quarter, what leaned along u leans along v: heights rise to the right, then down the picture.
    const lean = (turn: number) => {
      const { of } = picture(blendOf({ a: layerOf('stone', 1, { look: { turn } }) }, { extentM: 1.2 }), 32, { height: 32 });
      return { h: of('height'), x: of('normal'), y: of('normal', 1) };
    };
    const [plain, quarter] = [lean(0), lean(90)];
    for (const [x, y] of [
      [3, 5],
      [17, 9],
      [28, 30],
    ] as const) {
      // u′ = −v, v′ = u: the place (x, y) of the turned picture shows (31 − y, x) of the plain one.
      const [here, there] = [y * 32 + x, x * 32 + (31 - y)];
      expect(quarter.h[here]).toBeCloseTo(plain.h[there], 4);
      expect(quarter.x[here]).toBeCloseTo(-plain.y[there], 3);
      expect(quarter.y[here]).toBeCloseTo(plain.x[there], 3);
    }
  });
  it('may be constant values', () => {
    const { of } = picture(
      blendOf({
        a: layerOf('step', 1),
        b: layerOf({ kind: 'constant', ...DEFAULT_CONSTANT, roughness: 0.9, metallic: 1, heightM: 0.01 }, 2, { coverage: {}, seam: { soft: 1 } }),
      }),
    );
    expect(of('roughness')[3]).toBeCloseTo(0.9, 6);
    expect(of('metallic')[3]).toBe(1);
    expect(of('height')[0]).toBeCloseTo(0.01, 6);
  });
  it('share a coverage of the blend, and take that of their group beside their own', () => {
    const named = blendOf(
      { a: layerOf('step', 1), b: layerOf('level', 2, { coverage: constant(0), shared: 'half', seam: { soft: 1 } }) },
      { coverages: { half: { name: 'Half', coverage: constant(0.5) } } },
    );
    expect(picture(named).of('weight')[0]).toBeCloseTo(0.5, 6);
    const group = (on: boolean) =>
      blendOf(
        { a: layerOf('step', 1), b: layerOf('level', 2, { coverage: constant(0.8), group: 'g', seam: { soft: 1 } }) },
        { groups: { g: { name: 'Wet', on, coverage: constant(0.5) } } },
      );
    expect(picture(group(true)).of('weight')[0]).toBeCloseTo(smooth(0.4), 5);
    expect(picture(group(false)).stack.layers.map((l) => l.id)).toEqual(['a']);
  });
  it('may be blends, and those of blends; a circle is refused and the rest goes on', () => {
    const inner = makeBlend('Inner', { extentM: 0.5, layers: { x: layerOf('stone', 1), y: layerOf('moss', 2, { coverage: constant(0.5) }) } });
    const outer = blendOf({ a: layerOf({ kind: 'blend', blend: 'inner' }, 1) }, { extentM: 1 });
    const [whole, alone] = [picture(outer, 32, { height: 32, blends: { inner } }), picture(inner, 16, { height: 16 })];
    // Its own extent lies twice over the other.
    for (const role of ['height', 'roughness', 'baseColor'] as const)
      for (let y = 0; y < 16; y++) for (let x = 0; x < 16; x++) expect(whole.of(role)[y * 32 + x + 16]).toBeCloseTo(alone.of(role)[y * 16 + x], 4);
    const around = makeBlend('Around', {
      layers: { self: layerOf({ kind: 'blend', blend: 'around' }, 1, { name: 'Self' }), b: layerOf('stone', 2) },
    });
    const stack = makeStack(around, surfaces, { around });
    expect(stack.layers.map((l) => l.id)).toEqual(['b']);
    expect(stack.problems).toEqual([
      { layer: 'self', code: 'cycle', message: 'Self: Around holds this blend, so it cannot be a layer of it. Choose another' },
    ]);
    expect(makeStack(blendOf({ a: layerOf('gone', 1) }), surfaces).problems[0].code).toBe('missing-surface');
    // Blends inside count.
    const inside = (blend: string) => ({ kind: 'blend', blend }) as const;
    const many = Object.fromEntries(Array.from({ length: 16 }, (_, i) => [`l${i}`, layerOf('stone', i)]));
    const deep = makeStack(blendOf({ a: layerOf(inside('one'), 1), b: layerOf(inside('two'), 2), c: layerOf(inside('two'), 3) }), surfaces, {
      one: blendOf(many),
      two: blendOf(many),
    });
    expect(deep.problems.some((p) => p.code === 'too-many-layers')).toBeTrue();
    expect(MAX_FLATTENED).toBe(32);
  });
  it('say that they have no height, and that a map of their coverage is gone', () => {
    const flat = { ...surfaces, flat: { ...surfaces['level'], roles: new Set(['baseColor'] as const) } };
    const coverage = { c: makeCue('mask', { surface: 'moss', role: 'cavity' }) };
    const { problems, layers } = makeStack(blendOf({ a: layerOf('flat', 1), b: layerOf('stone', 2, { coverage }) }), flat as never);
    expect(problems.map((p) => p.code)).toEqual(['no-height', 'missing-map']);
    expect(layers.length).toBe(2);
  });
  it('keep their slots when others are switched off, where that is asked for', () => {
    const layers = { a: layerOf('stone', 1), b: layerOf('moss', 2, { on: false }), c: layerOf('level', 3) };
    const steady = (on: boolean) => makeStack(blendOf({ ...layers, b: { ...layers.b, on } }), surfaces, {}, true);
    expect(steady(false).slots).toEqual(['stone', 'moss', 'level']);
    expect(steady(true).slots).toEqual(steady(false).slots);
    expect(steady(false).layers.map((l) => l.slot)).toEqual([0, 2]);
    expect(makeStack(blendOf(layers), surfaces).slots).toEqual(['stone', 'level']);
  });
  it('compile anew only for what is used', () => {
    const shape = (over: Parameters<typeof layerOf>[2]) =>
      stackShape(makeStack(blendOf({ a: layerOf('stone', 1), b: layerOf('moss', 2, over) }), surfaces));
    expect(shape({ look: { normal: 0.4, u: 0.2, scale: 0.7 }, strength: 0.3 })).toBe(shape({}));
    for (const change of Object.values(EXTRAS)) {
      const layer = layerOf('moss', 2);
      change(layer);
      expect(stackShape(makeStack(blendOf({ a: layerOf('stone', 1), b: layer }), surfaces))).not.toBe(shape({}));
    }
    const tint = (tint: string) => shape({ look: { tint } });
    expect(tint('#ff0000')).toBe(tint('#00ff00'));
    const price = new EditPrices(blendOf({ a: layerOf('stone', 1), b: layerOf('moss', 2, { coverage: { v: makeCue('vertexColour') } }) }), surfaces);
    expect(price.extra('seamNormal', 'b').samples).toBeGreaterThan(0);
    expect(price.extra('tint', 'b')).toEqual({ samples: 0, operations: 3 });
    expect(price.of(() => undefined)).toEqual({ samples: 0, operations: 0 });
  });
});
