import fc from 'fast-check';
import type {
  BlendDocument,
  BlendRole,
  BlendSurface,
  Coverage,
  Cue,
  Domain,
  GBuffer,
  Image,
  Layer,
  LayerContent,
  LayerLook,
  Seam,
  Sources,
  Water,
} from '../index';
import {
  BLEND_ROLES,
  DEFAULT_CONSTANT,
  DEFAULT_WATER,
  EXTRAS,
  MAX_FLATTENED,
  absorption,
  evaluate,
  EditPrices,
  flatDomain,
  generateSurface,
  laidOver,
  linearOf,
  lowerBlend,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  makeStack,
  optimise,
  readsOf,
  sourcesOfMaps,
  stackShape,
  stackValues,
} from '../index';

const size = 32;
const flatSide = 8;
/** One value all over. */
const even = (value: number, channels = 1): Image =>
  makeImage({ width: flatSide, height: flatSide, channels, depth: 16, data: new Uint16Array(flatSide * flatSide * channels).fill(value * 65535) });
/** Height rises along u from 0 to 1, in eight steps. */
const steps = makeImage({
  width: flatSide,
  height: flatSide,
  channels: 1,
  depth: 16,
  data: Uint16Array.from({ length: 64 }, (_, i) => Math.round(((i % 8) / 8) * 65535)),
});
const moss = generateSurface('cushion-moss', { seed: 5, size });
const stone = generateSurface('terrace-stone', { seed: 2, size });
const MAPS: Record<string, Partial<Record<BlendRole | 'id' | 'mask', Image>>> = {
  moss: moss.maps,
  stone: stone.maps,
  step: { height: steps, roughness: even(0.5), baseColor: even(0.2, 3), occlusion: even(1) },
  level: { height: even(0.5), roughness: even(0.25), baseColor: even(0.6, 3), occlusion: even(1) },
};
const surfaces: Record<string, BlendSurface> = {
  moss: { ...moss.facts, roles: new Set(BLEND_ROLES) },
  stone: { ...stone.facts, roles: new Set(BLEND_ROLES) },
  step: { sizeM: 1, reliefM: 0.08, mid: 0.5, roles: new Set(['height', 'roughness', 'baseColor', 'occlusion']) },
  level: { sizeM: 1, reliefM: 0.08, mid: 0.5, roles: new Set(['height', 'roughness', 'baseColor', 'occlusion']) },
};
const constant = (value: number): Coverage => ({ c: makeCue('constant', { value }) });
const layerOf = (
  shows: string | LayerContent,
  order: number,
  over: Partial<Omit<Layer, 'seam' | 'look'>> & { seam?: Partial<Seam>; look?: Partial<LayerLook> } = {},
): Layer => {
  const layer = makeLayer(shows, 'Layer', order);
  return { ...layer, ...over, seam: { ...layer.seam, ...over.seam }, look: { ...layer.look, ...over.look } };
};
const blendOf = (layers: Record<string, Layer>, over: Partial<BlendDocument> = {}): BlendDocument =>
  makeBlend('Test', { extentM: 1, layers, ...over });

function picture(
  blend: BlendDocument,
  width = 8,
  options: { height?: number; geometry?: GBuffer; blends?: Record<string, BlendDocument>; without?: string; far?: boolean; domain?: Domain } = {},
) {
  const stack = makeStack(blend, surfaces, options.blends);
  const lowered = lowerBlend(stack, { far: options.far });
  const finders = stack.slots.map((id) => sourcesOfMaps(MAPS[id], readsOf(lowered.channels).levels || options.far));
  const sources: Sources = (slot, channel) => finders[slot](channel) as NonNullable<ReturnType<(typeof finders)[0]>>;
  const outputs = { ...lowered.channels, specular: lowered.specular, weight: lowered.probes.at(-1)!.weight, level: lowered.probes.at(-1)!.height };
  const out = evaluate(optimise(outputs).outputs, {
    domain: options.domain ?? flatDomain(width, options.height ?? 1, blend.extentM, options.geometry),
    sources,
    values: stackValues(stack, { without: options.without }),
  });
  return { stack, out, of: (name: keyof typeof outputs, component = 0) => [...out[name][component]] };
}
const smooth = (t: number) => t * t * (3 - 2 * t);
const held = (t: number) => Math.min(1, Math.max(0, t));

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
    expect(laidOver(2.4, 1.2, { scale: 1, turn: 0 })).toEqual({ a: 2, b: 0 });
    expect(laidOver(2.4, 0.8, { scale: 1, turn: 90 })).toEqual({ a: 0, b: 3 });
    expect(laidOver(10, 1, { scale: 1, turn: 37 })).toEqual({ a: 8, b: 6 });
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

describe('seams', () => {
  it('are decided by large relief alone when detail says so', () => {
    // Stripes one texel wide vanish in relief of half the map, and the seam is the same everywhere.
    const stripes = makeImage({ width: 8, height: 8, channels: 1, depth: 16, data: Uint16Array.from({ length: 64 }, (_, i) => (i % 2 ? 65535 : 0)) });
    MAPS['comb'] = { height: stripes };
    surfaces['comb'] = { sizeM: 1, reliefM: 0.08, mid: 0.5, roles: new Set(['height']) };
    const spread = (w: number[]) => Math.max(...w) - Math.min(...w);
    const half = { coverage: constant(0.5) };
    const decided = (below: Record<string, Layer>, blends: Record<string, BlendDocument> = {}, before = 0.9) => {
      const seam = (detailM: number) =>
        picture(blendOf({ ...below, z: layerOf('level', 9, { ...half, seam: { soft: 0.2, detailM } }) }), 8, { blends }).of('weight');
      expect(spread(seam(0))).toBeGreaterThan(before);
      expect(spread(seam(0.5))).toBeLessThan(1e-4);
      expect(seam(0.5)[0]).toBeCloseTo(0.5, 3);
    };
    const comb = layerOf('comb', 1);
    decided({ a: comb });
    // A layer that drapes over relief has that relief, and one that leaves heights alone hands it on.
    decided({ a: comb, b: layerOf('level', 2, { coverage: constant(1), seam: { soft: 1, follow: 1 } }) });
    decided({ a: comb, b: layerOf('level', 2, { coverage: constant(1), untouched: { height: true } }) });
    // So has a blend that lies there as a layer.
    decided({ a: layerOf({ kind: 'blend', blend: 'n' }, 1) }, { n: blendOf({ a: comb }) });
    // Water evens out what it covers, and only that.
    const water = { kind: 'water', ...DEFAULT_WATER, levelM: 0 } as const;
    decided({ a: comb, w: layerOf(water, 2, { coverage: constant(1) }) }, {}, 0.45);
  });
  it('bend the normal up the step from one layer to the next', () => {
    const blend = (normal: number) =>
      blendOf({ a: layerOf('step', 1), b: layerOf('level', 2, { coverage: constant(0.5), seam: { soft: 0.3, liftM: 0.02, normal } }) });
    const [flat, bent] = [picture(blend(0), 64), picture(blend(1), 64)];
    expect(flat.of('normal').every((x) => Math.abs(x) < 1e-6)).toBeTrue();
    // ∇h of the seam term by the book, at texel centres away from the jumps of the steps.
    const weight = picture(blend(0), 2048).of('weight');
    const gap = (i: number) => bent.of('level')[i] - (Math.min(0.875, Math.max(0, (i + 0.5) / 64 - 1 / 16)) - 0.5) * 0.08;
    let compared = 0;
    for (let i = 8; i < 56; i++) {
      const slope = (weight[i * 32 + 17] - weight[i * 32 + 15]) / (2 / 2048);
      const want = -gap(i) * slope;
      if (Math.abs(want) < 0.02) continue;
      compared++;
      expect(bent.of('normal')[i] / bent.of('normal', 2)[i]).toBeCloseTo(want, 1);
    }
    expect(compared).toBeGreaterThan(5);
  });
});

describe('standing water', () => {
  const pool = (value: number, over: Partial<Water> = {}, layer: Partial<Layer> = {}) =>
    blendOf({ a: layerOf('step', 1), w: layerOf({ kind: 'water', ...DEFAULT_WATER, ...over }, 2, { coverage: constant(value), ...layer }) });
  const heights = Array.from({ length: 8 }, (_, i) => (Math.round((i / 8) * 65535) / 65535 - 0.5) * 0.08);

  it('covers by depth and lets light through by Beer–Lambert: golden numbers, worked by hand', () => {
    const water = { ...DEFAULT_WATER, levelM: 0.01, clearM: 0.1 };
    const { of, out } = picture(pool(1, water));
    const [base, scatter, a] = [0.2, linearOf(water.scatter), absorption(water.murk, water.clearM)];
    heights.forEach((h, i) => {
      const depth = Math.max(0, 0.01 - h);
      const cover = smooth(held(depth / 0.004));
      expect(of('weight')[i]).toBeCloseTo(cover, 5);
      const rim = 1 - smooth(held((h - 0.01) / water.rimM));
      const damp = Math.max(rim, 0.6) * water.wet;
      const wet = base * (1 - damp);
      for (let c = 0; c < 3; c++) {
        const seen = scatter[c] + (wet - scatter[c]) * Math.exp(-a[c] * depth);
        expect(out['baseColor'][c][i])
          .withContext(`${i},${c}`)
          .toBeCloseTo(wet + (seen - wet) * cover, 4);
      }
      expect(of('roughness')[i]).toBeCloseTo(0.5 * (1 - 1.3 * damp) * (1 - cover) + water.roughness * cover, 4);
      expect(of('specular')[i]).toBeCloseTo(0.5 + (0.25 - 0.5) * cover, 5);
      expect(of('height')[i]).toBeCloseTo(Math.max(h, 0.01), 5);
    });
    // At the clear depth what passes is the murk colour.
    absorption(water.murk, water.clearM).forEach((k, c) => expect(Math.exp(-k * water.clearM)).toBeCloseTo(linearOf(water.murk)[c], 6));
  });
  it('is nothing where nothing is painted, damp where little is, and never less for more', () => {
    const [none, dry] = [picture(pool(0, { levelM: 0.02 })), picture(blendOf({ a: layerOf('step', 1) }))];
    for (const role of BLEND_ROLES) expect(none.of(role)).withContext(role).toEqual(dry.of(role));
    const weak = picture(pool(0.2, { levelM: 0.0 }));
    expect(
      weak
        .of('weight')
        .slice(4)
        .every((w) => w === 0),
    ).toBeTrue();
    expect(weak.of('baseColor')[6]).toBeLessThan(dry.of('baseColor')[6]);
    expect(weak.of('roughness')[6]).toBeLessThan(dry.of('roughness')[6]);
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: -0.05, max: 0.05, noNaN: true }),
        (a, b, levelM) => {
          const cover = (v: number) => picture(pool(v, { levelM })).of('weight');
          const [less, more] = [cover(Math.min(a, b)), cover(Math.max(a, b))];
          less.forEach((w, i) => expect(more[i]).toBeGreaterThanOrEqual(w - 1e-6));
        },
      ),
      { numRuns: 60 },
    );
  });
  it('gives way to its strength and to what it may not touch', () => {
    const dry = picture(blendOf({ a: layerOf('step', 1) }));
    const off = picture(pool(1, { levelM: 0.02 }, { strength: 0 }));
    for (const role of BLEND_ROLES) expect(off.of(role)).withContext(role).toEqual(dry.of(role));
    expect(picture(pool(1, { levelM: 0.02 }, { untouched: { roughness: true } })).of('roughness')).toEqual(dry.of('roughness'));
  });
});

describe('golden pictures of eight by eight', () => {
  it('of the crossover, worked by hand', () => {
    // Heights (k/8 − ½)·80 mm below, level above; span 80 mm, softness ¼, coverage 0.6.
    const blend = blendOf({ a: layerOf('step', 1), b: layerOf('level', 2, { coverage: constant(0.6), seam: { soft: 0.25 } }) });
    const { of } = picture(blend, 8, { height: 8 });
    const row = Array.from({ length: 8 }, (_, k) => {
      const d = held((0 - (k / 8 - 0.5) * 0.08) / 0.08 / 2 + 0.5) * 2 - 1;
      return smooth(held((0.75 * d + 0.2) / 0.5 + 0.5));
    });
    // 1 where the step is low; at its highest d = −0.375, x = 0.3375 and 3x² − 2x³ = 0.2648.
    expect(row[0]).toBe(1);
    expect(row[7]).toBeCloseTo(0.2648, 4);
    for (let i = 0; i < 64; i++) expect(of('weight')[i]).toBeCloseTo(row[i % 8], 4);
  });
  it('of an ID map, each colour its surface', () => {
    const colours = [
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255],
      [250, 5, 0],
    ];
    MAPS['level'].id = makeImage({
      width: 8,
      height: 8,
      channels: 3,
      data: Uint8Array.from({ length: 192 }, (_, i) => colours[Math.floor(i / 3) % 4][i % 3]),
    });
    const cue = (colour: string, width = 0): Cue => makeCue('id', { surface: 'level', colour, centre: 0.1, width });
    const known = { ...surfaces, level: { ...surfaces['level'], roles: new Set([...surfaces['level'].roles, 'id' as const]) } };
    const weight = (colour: string) => {
      const blend = blendOf({ a: layerOf('step', 1), b: layerOf('level', 2, { coverage: { c: cue(colour) } }) });
      const stack = makeStack(blend, known);
      const finders = stack.slots.map((id) => sourcesOfMaps(MAPS[id]));
      const ids = stack.ids.map((p) => sourcesOfMaps(MAPS[p.kind === 'id' ? p.surface : '']));
      const sources: Sources = (slot, channel) => (channel === 'id' ? ids : finders)[slot](channel)!;
      return [...evaluate({ w: lowerBlend(stack).probes[1].weight }, { domain: flatDomain(8, 8), sources, values: stackValues(stack) })['w'][0]];
    };
    // Near-equal red counts as red: it is 0.028 away.
    expect(weight('#ff0000')).toEqual(Array.from({ length: 64 }, (_, i) => Number(i % 4 === 0 || i % 4 === 3)));
    expect(weight('#0000ff')).toEqual(Array.from({ length: 64 }, (_, i) => Number(i % 4 === 2)));
  });
});
