import fc from 'fast-check';
import type { BlendDocument, Cue, Layer, Sources, Water } from '../index';
import {
  BLEND_ROLES,
  DEFAULT_WATER,
  absorption,
  evaluate,
  flatDomain,
  linearOf,
  lowerBlend,
  makeCue,
  makeImage,
  makeStack,
  sourcesOfMaps,
  stackValues,
} from '../index';
import { MAPS, surfaces, constant, layerOf, blendOf, picture, smooth, held } from '../testing/layered';

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
