import * as fc from 'fast-check';
import type { BlendDocument, BlendSurface, Cue, ImageChannel, Layer, LayerContent, MapSet, Sources, WeatheringName } from '../index';
import {
  DEFAULT_CONSTANT,
  EditPrices,
  FLAT_GROUND,
  SectionCutter,
  WEATHERING,
  blendMaterial,
  priceOf,
  lessPrice,
  evaluate,
  evaluateMaterial,
  flatDomain,
  generateSurface,
  linearToSrgb,
  lowerBlend,
  makeBlend,
  makeImage,
  makeMaterialMaps,
  materialFacts,
  makeCue,
  makeLayer,
  makeStack,
  optimise,
  sourcesOfMaps,
  specimenColour,
  srgbToLinear,
  stackPrice,
  stackShape,
  stackValues,
  tallOf,
  weatheringCoverage,
} from '../index';

const size = 64;
const made = { stone: generateSurface('terrace-stone', { seed: 2, size }), moss: generateSurface('cushion-moss', { seed: 5, size }) };
const maps: Record<string, MapSet> = { stone: made.stone.maps, moss: made.moss.maps };
const surfaces: Record<string, BlendSurface> = Object.fromEntries(
  Object.entries(made).map(([id, s]) => [id, { ...s.facts, roles: new Set(Object.keys(s.maps)) as BlendSurface['roles'] }]),
);
const blendOf = (layers: Record<string, Layer>, extentM = 2.4): BlendDocument => makeBlend('Step', { extentM, layers });
const sourcesFor = (slots: string[]): Sources => {
  const found = slots.map((id) => sourcesOfMaps(maps[id]));
  return (slot, channel: ImageChannel) => found[slot](channel)!;
};
const even = (value: number): Record<string, Cue> => ({ c: makeCue('constant', { value }) });
const two = (over: Partial<Layer> = {}, seam: Partial<Layer['seam']> = {}) => {
  const top = makeLayer('moss', 'Moss', 2, { coverage: even(0.5), ...over });
  return blendOf({ a: makeLayer('stone', 'Stone', 1), b: { ...top, seam: { ...top.seam, ...seam } } });
};
function render(blend: BlendDocument) {
  const stack = makeStack(blend, surfaces);
  const into = makeMaterialMaps(size, size);
  evaluateMaterial(blendMaterial(stack), { domain: flatDomain(size, size, blend.extentM), sources: sourcesFor(stack.slots), into });
  return { stack, into };
}

describe('a height-led blend', () => {
  it('agrees with the formula written out on its own, pixel by pixel', () => {
    const { stack, into } = render(two({}, { soft: 0.2, liftM: 0.004, follow: 0.3, contact: 0.4 }));
    expect(stack.layers.map((l) => l.repeats)).toEqual([1, 2]);
    const span = Math.max(made.moss.facts.reliefM, made.stone.facts.reliefM);
    let worstColour = 0;
    let worstHeight = 0;
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        // Moss repeats twice, so a pixel of the picture lies exactly between texels of its map.
        const sample = (map: { data: ArrayLike<number>; channels: number }, c: number, decode: (v: number) => number) => {
          let sum = 0;
          for (const [dx, dy] of [
            [0, 0],
            [1, 0],
            [0, 1],
            [1, 1],
          ])
            sum += decode(map.data[(((2 * y + dy) % size) * size + ((2 * x + dx) % size)) * map.channels + c]);
          return sum / 4;
        };
        const i = y * size + x;
        const hB = (made.stone.maps.height.data[i] / 65535 - made.stone.facts.mid) * made.stone.facts.reliefM;
        const own = (sample(made.moss.maps.height, 0, (v) => v / 65535) - made.moss.facts.mid) * made.moss.facts.reliefM;
        const hT = own + 0.3 * hB + 0.004;
        const d = Math.min(1, Math.max(-1, (hT - hB) / span));
        const k = Math.min(1, Math.max(0, (0.8 * d - 0) / 0.4 + 0.5));
        const w = k * k * (3 - 2 * k);
        const height = hB + (hT - hB) * w;
        worstHeight = Math.max(worstHeight, Math.abs(into.height!.data[i] / 65535 - (height - stack.lo) / (stack.hi - stack.lo)));
        for (let c = 0; c < 3; c++) {
          const below = srgbToLinear(made.stone.maps.baseColor.data[i * 3 + c] / 255);
          const top = sample(made.moss.maps.baseColor, c, (v) => srgbToLinear(v / 255));
          worstColour = Math.max(worstColour, Math.abs(into.baseColor!.data[i * 3 + c] - 255 * linearToSrgb(below + (top - below) * w)));
        }
      }
    expect(worstColour).toBeLessThan(0.51);
    expect(worstHeight).toBeLessThan(2e-5);
  });
  it('leaves the ground bit for bit where coverage, strength or the switch is 0', () => {
    const ground = render(blendOf({ a: makeLayer('stone', 'Stone', 1) })).into;
    for (const over of [{ coverage: even(0) }, { strength: 0 }, { on: false }]) {
      const { into } = render(two(over));
      for (const role of ['baseColor', 'roughness', 'occlusion', 'metallic'] as const)
        expect(into[role]!.data).withContext(role).toEqual(ground[role]!.data);
    }
  });
  it('shows the top alone at full coverage and solo', () => {
    const solo = render(two({ solo: true })).into;
    const full = render(two({ coverage: {} }, { follow: 0, contact: 0 })).into;
    expect(full.baseColor!.data).toEqual(solo.baseColor!.data);
  });
  it('evaluates in bands of rows to the same bytes', () => {
    const blend = two({}, { broken: { byM: 0.006, atM: 0.3, octaves: 3, seed: 4 } });
    const whole = render(blend);
    const into = makeMaterialMaps(size, size, undefined, true);
    for (const rows of [
      [40, 64],
      [0, 40],
    ] as const)
      evaluateMaterial(blendMaterial(whole.stack), { domain: flatDomain(size, size, 2.4), sources: sourcesFor(whole.stack.slots), into, rows });
    expect([...into.normal!.data]).toEqual([...whole.into.normal!.data]);
    expect([...into.height!.data]).toEqual([...whole.into.height!.data]);
  });
  it('bounds the blended height by interval arithmetic', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.05, max: 0.05, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 0.02, noNaN: true }),
        (liftM, follow, byM) => {
          const stack = makeStack(two({}, { liftM, follow, broken: { byM, atM: 0.3, octaves: 2, seed: 1 } }), surfaces);
          const { channels } = lowerBlend(stack);
          const h = evaluate({ h: channels.height }, { domain: flatDomain(16, 16), sources: sourcesFor(stack.slots), values: stackValues(stack) })[
            'h'
          ][0];
          expect(Math.min(...h)).toBeGreaterThanOrEqual(stack.lo - 1e-6);
          expect(Math.max(...h)).toBeLessThanOrEqual(stack.hi + 1e-6);
        },
      ),
      { numRuns: 25 },
    );
  });
  it('keeps the hardness of an edge while it is lifted', () => {
    const spanAt = (liftM: number) => makeStack(two({}, { liftM }), surfaces).layers[1].span;
    expect(spanAt(0.03)).toBe(spanAt(0));
  });
  it('gives unit normals and facts that read its heights back', () => {
    const { stack, into } = render(two());
    const facts = materialFacts(blendMaterial(stack));
    expect((0 - facts.mid) * facts.reliefM).toBeCloseTo(stack.lo, 9);
    for (let i = 0; i < into.normal!.data.length; i += 3) {
      const n = [0, 1, 2].map((c) => (into.normal!.data[i + c] / 255) * 2 - 1);
      expect(Math.abs(Math.hypot(...n) - 1)).toBeLessThan(0.02);
    }
  });
  it('takes neutrals for maps that a surface lacks, without sampling', () => {
    const bare = { stone: { ...surfaces['stone'], roles: new Set(['baseColor']) as BlendSurface['roles'] } };
    const stack = makeStack(blendOf({ a: makeLayer('stone', 'Stone', 1) }), bare);
    const { channels } = lowerBlend(stack);
    const out = evaluate({ n: channels.normal, o: channels.occlusion }, { domain: flatDomain(2, 2), values: stackValues(stack) });
    expect(out['n'].map((p) => p[0])).toEqual([0, 0, 1]);
    expect(out['o'][0][0]).toBe(1);
  });
  it('compiles again only when its shape changes', () => {
    const shape = (b: BlendDocument) => stackShape(makeStack(b, surfaces));
    expect(shape(two({ strength: 0.2 }, { soft: 0.9, liftM: 0.02, follow: 1, bias: 0.2 }))).toBe(shape(two()));
    expect(shape(two({ coverage: { n: makeCue('noise') } }))).not.toBe(shape(two()));
    expect(() => lowerBlend(makeStack(blendOf({}), surfaces))).toThrowError(/at least one layer/);
  });
});

describe('a surface that is not square', () => {
  it('keeps its shape over the extent: every texel lies where its metres say', () => {
    const relief = 0.08;
    const [width, height] = [8, 4];
    const image = makeImage({
      width,
      height,
      channels: 1,
      depth: 16,
      data: Uint16Array.from({ length: width * height }, (_, i) => (i * 40503) % 65536),
    });
    const long: BlendSurface = { sizeM: 1, tall: height / width, reliefM: relief, mid: 0.5, roles: new Set(['height']) };
    const stack = makeStack(blendOf({ a: makeLayer('long', 'Long', 1) }, 2), { long });
    const source = sourcesOfMaps({ height: image });
    const { h } = evaluate(
      { h: lowerBlend(stack).channels.height },
      { domain: flatDomain(16, 16), values: stackValues(stack), sources: (_, channel: ImageChannel) => source(channel)! },
    );
    // Sixteen places over 2 m lie at the middles of texels of an eighth of a metre, 1 m × 0.5 m a repetition.
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 16; x++) expect(h[0][y * 16 + x]).toBeCloseTo((image.data[(y % height) * width + (x % width)] / 65535 - 0.5) * relief, 5);
  });
  it('is as high as its base colour says, else its largest map', () => {
    expect(tallOf({})).toBe(1);
    expect(tallOf({ baseColor: { width: 512, height: 256 }, height: { width: 2048, height: 2048 } })).toBe(0.5);
    expect(tallOf({ roughness: { width: 8, height: 8 }, height: { width: 64, height: 128 } })).toBe(2);
  });
});

describe('prices before use', () => {
  it('are what the layer costs afterwards', () => {
    const total = (blend: BlendDocument) => {
      const stack = makeStack(blend, surfaces);
      return priceOf(optimise(lowerBlend(stack, { far: true }).channels, { hoist: true }).outputs, stackValues(stack));
    };
    const plain = two({ coverage: { a: makeCue('vertexColour') } });
    const broken = two({ coverage: { a: makeCue('vertexColour') } }, { broken: { byM: 0.01, atM: 0.3, octaves: 3, seed: 1 } });
    const prices = new EditPrices(plain, surfaces);
    expect(total(broken).operations - total(plain).operations).toBe(prices.extra('broken', 'b').operations);
    for (const kind of ['vertexColour', 'noise', 'constant'] as const) {
      const more = two({ coverage: { a: makeCue('vertexColour'), b: makeCue(kind, { order: 2 }) } });
      expect(total(more).operations - total(plain).operations)
        .withContext(kind)
        .toBe(prices.cue(kind, (d) => d.layers['b'].coverage).operations);
    }
    const ground = blendOf({ a: makeLayer('stone', 'Stone', 1) });
    const onGround = new EditPrices(ground, surfaces);
    expect(onGround.layer(plain.layers['b'])).toEqual({
      samples: total(plain).samples - total(ground).samples,
      operations: total(plain).operations - total(ground).operations,
    });
    const even = onGround.layer(makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT }, 'Even', 2, { coverage: { a: makeCue('constant') } }));
    expect(even.samples).toBe(0);
    expect(even.operations).toBeGreaterThan(0);
  });
  it('of weathering and of something else in the place of a surface are what they cost afterwards', () => {
    const total = (blend: BlendDocument) => stackPrice(makeStack(blend, surfaces));
    const plain = two({ coverage: { a: makeCue('vertexColour') } });
    const prices = new EditPrices(plain, surfaces);
    for (const name of Object.keys(WEATHERING) as WeatheringName[]) {
      const more = Object.entries(weatheringCoverage(name)).map(([id, cue]) => [`w${id}`, { ...cue, order: 10 + cue.order }] as const);
      const weathered = two({ coverage: { a: makeCue('vertexColour'), ...Object.fromEntries(more) } });
      expect(prices.weathering(name, (d) => d.layers['b'].coverage))
        .withContext(name)
        .toEqual(lessPrice(total(weathered), total(plain)));
    }
    const even: LayerContent = { kind: 'constant', ...DEFAULT_CONSTANT };
    const other = { ...plain, layers: { ...plain.layers, b: { ...plain.layers['b'], shows: even } } };
    expect(prices.shows('b', even)).toEqual(lessPrice(total(other), total(plain)));
    expect(prices.shows('b', even).samples).toBeLessThan(0);
    expect(prices.shows('gone', even)).toEqual({ samples: 0, operations: 0 });
  });
  it('of a coverage that layers share hold once', () => {
    const noise = { a: makeCue('noise', { sizeM: 0.3 }) };
    const even = (name: string, order: number, shared: string | null): Layer => ({
      ...makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT }, name, order, { coverage: { a: { ...noise.a } } }),
      shared,
    });
    const one: BlendDocument = {
      ...blendOf({ a: makeLayer('stone', 'Stone', 1), b: even('One', 2, 'n') }),
      coverages: { n: { name: 'Noise', coverage: noise } },
    };
    const prices = new EditPrices(one, surfaces);
    const [same, own] = [prices.layer(even('Same', 3, 'n')), prices.layer(even('Own', 3, null))];
    expect(own.operations - same.operations).toBeGreaterThan(600);
    expect(same.operations).toBeLessThan(0.3 * own.operations);
    // It is the same picture all the same, and another program than with a coverage that may change by itself.
    const stacks = [even('Same', 3, 'n'), even('Own', 3, null)].map((c) => makeStack({ ...one, layers: { ...one.layers, c } }, surfaces));
    const pictures = stacks.map((stack) =>
      evaluate(
        { h: lowerBlend(stack).channels.height },
        { domain: flatDomain(24, 24), values: stackValues(stack), sources: sourcesFor(stack.slots) },
      ),
    );
    expect(pictures[0]['h']).toEqual(pictures[1]['h']);
    expect(stackShape(stacks[0])).not.toBe(stackShape(stacks[1]));
  });
});

describe('the section', () => {
  const blend = two({ coverage: { v: makeCue('vertexColour', { channel: 'g' }) } }, { soft: 0.1, follow: 0.2 });
  const stack = makeStack(blend, surfaces);
  const material = blendMaterial(stack);
  it('shows the heights and weights that the picture has at the same place', () => {
    const n = 32;
    const cutter = new SectionCutter();
    // A level cut through the middle of row 20 of a 64 × 64 picture, at the centres of every second pixel.
    const cut = { ax: 0, ay: 20.5 / size, bx: 1, by: 20.5 / size };
    const section = cutter.cut(material, cut, sourcesFor(stack.slots), n, FLAT_GROUND);
    const colours = new Float32Array(n * 4);
    for (let i = 0; i < n; i++) specimenColour((i + 0.5) / n, cut.ay, colours, i * 4);
    const { channels, probes } = lowerBlend(stack);
    const texcoord = Float32Array.from({ length: n * 2 }, (_, k) => (k % 2 ? cut.ay : (Math.floor(k / 2) + 0.5) / n));
    const direct = evaluate(
      { h: channels.height, w: probes[1].weight, c: probes[1].coverage },
      { domain: flatDomain(n, 1, 1, { texcoord, geomcolor: colours }), sources: sourcesFor(stack.slots), values: stackValues(stack) },
    );
    for (let i = 0; i < n; i++) {
      expect(section.height[i]).toBeCloseTo(direct['h'][0][i], 6);
      expect(section.layers[1].weight[i]).toBeCloseTo(direct['w'][0][i], 6);
      expect(section.layers[1].coverage[i]).toBeCloseTo(direct['c'][0][i], 6);
    }
    expect(section.lengthM).toBeCloseTo(2.4, 9);
  });
  it('has shares that sum to 1 and a winner with the largest', () => {
    const section = new SectionCutter().cut(material, { ax: 0.3, ay: 0.02, bx: 0.6, by: 0.98 }, sourcesFor(stack.slots), 100, FLAT_GROUND);
    for (let i = 0; i < 100; i++) {
      const shares = section.layers.map((l) => l.share[i]);
      expect(shares.reduce((a, b) => a + b)).toBeCloseTo(1, 5);
      expect(shares[section.winner[i]]).toBe(Math.max(...shares));
    }
    expect(new Set(section.winner).size).toBe(2);
  });
  it('is prepared in pieces: the same cut, and one that is given up half way changes nothing', () => {
    const line = { ax: 0.3, ay: 0.02, bx: 0.6, by: 0.98 };
    const alone = makeStack(blendOf({ a: makeLayer('stone', 'Stone', 1) }), surfaces);
    const cutter = new SectionCutter();
    const pieces = [...cutter.preparing(material)].length;
    expect(pieces).toBeGreaterThan(2);
    expect([...cutter.preparing(material)].length).toBe(0);
    const want = new SectionCutter().cut(material, line, sourcesFor(stack.slots), 40, FLAT_GROUND);
    expect(cutter.cut(material, line, sourcesFor(stack.slots), 40, FLAT_GROUND)).toEqual(want);
    const given = cutter.preparing(blendMaterial(alone));
    given.next();
    given.next();
    expect(cutter.cut(material, line, sourcesFor(stack.slots), 40, FLAT_GROUND)).toEqual(want);
    expect(cutter.cut(blendMaterial(alone), line, sourcesFor(alone.slots), 40, FLAT_GROUND).layers.length).toBe(1);
  });
  it('moves with lift by exactly the lift', () => {
    const cutter = new SectionCutter();
    const before = cutter.cut(material, blend.cut, sourcesFor(stack.slots), 16, FLAT_GROUND).layers[1].profile;
    const lifted = makeStack(
      { ...blend, layers: { ...blend.layers, b: { ...blend.layers['b'], seam: { ...blend.layers['b'].seam, liftM: 0.01 } } } },
      surfaces,
    );
    const cut = cutter.cut(blendMaterial(lifted), blend.cut, sourcesFor(stack.slots), 16, FLAT_GROUND);
    cut.layers[1].profile.forEach((h, i) => expect(h - before[i]).toBeCloseTo(0.01, 6));
  });
});
