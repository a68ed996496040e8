import type { ImageChannel, Mesh, Sources } from '../index';
import {
  Accountant,
  blendMaterial,
  CueSampler,
  carriedAt,
  clipMatrix,
  evaluate,
  eyeOf,
  flatDomain,
  frameBounds,
  boundsOf,
  generateSurface,
  lowerBlend,
  makeBlend,
  makeCue,
  makeLayer,
  makeSpecimen,
  makeStack,
  optimise,
  pickMesh,
  rayThrough,
  sourcesOfMaps,
  stackValues,
} from '../index';

const made = { stone: generateSurface('terrace-stone', { seed: 2, size: 32 }), moss: generateSurface('cushion-moss', { seed: 5, size: 32 }) };
const surfaces = Object.fromEntries(Object.entries(made).map(([id, s]) => [id, { ...s.facts, roles: new Set(Object.keys(s.maps)) as never }]));
const blend = makeBlend('Step', {
  layers: {
    a: makeLayer('stone', 'Stone', 1),
    b: makeLayer('moss', 'Moss', 2, {
      group: 'wet',
      coverage: {
        green: makeCue('vertexColour', { order: 2, channel: 'g', centre: 0.4, width: 0.6 }),
        even: makeCue('constant', { order: 1, value: 0.8 }),
      },
    }),
    c: makeLayer('stone', 'Chips', 3, { coverage: { gone: makeCue('mask', { surface: 'nowhere' }) } }),
  },
  groups: { wet: { name: 'Wet', on: true, coverage: { low: makeCue('low', { inverted: true, centre: 0.02, width: 0.05 }) } } },
});
const stack = makeStack(blend, surfaces);
const material = blendMaterial(stack);
const finders = stack.slots.map((id) => sourcesOfMaps(made[id as 'stone'].maps, true));
const sources: Sources = (slot, channel: ImageChannel) => finders[slot](channel)!;
const places = { texcoord: Float32Array.of(0.2, 0.3, 0.71, 0.44), geomcolor: Float32Array.of(1, 0.5, 0, 1, 0.2, 0.3, 0.4, 1) };

describe('the account of a place', () => {
  it('says what the picture shows there, and how it came to that', () => {
    const accounts = new Accountant().at(material, sources, places, 1 / 32);
    const lowered = lowerBlend(stack, { far: true });
    const direct = evaluate(optimise({ ...lowered.channels, w: lowered.probes[1].weight, c: lowered.probes[1].coverage }).outputs, {
      domain: { ...flatDomain(2, 1, 1, places), footprint: { x: [1 / 32, 0], y: [0, 1 / 32] } },
      sources,
      values: stackValues(stack),
    });
    accounts.forEach((account, i) => {
      expect(account.result.roughness[0]).toBeCloseTo(direct['roughness'][0][i], 6);
      expect(account.result.baseColor).toEqual([0, 1, 2].map((c) => direct['baseColor'][c][i]));
      const [ground, moss, chips] = account.layers;
      expect(moss.weight).toBeCloseTo(direct['w'][0][i], 6);
      expect(account.layers.reduce((sum, l) => sum + l.share, 0)).toBeCloseTo(1, 6);
      expect(ground.coverages).toEqual([]);
      // The group's cue first, then the layer's own in their order; together they are its coverage.
      const [[low], [even, green]] = moss.coverages;
      expect([low.id, even.id, green.id]).toEqual(['low', 'even', 'green']);
      expect(green.input).toBeCloseTo(places.geomcolor[i * 4 + 1], 6);
      expect(low.input).toBeCloseTo(-ground.height, 6);
      expect(moss.coverage).toBeCloseTo(low.value * even.value * green.value, 5);
      expect(chips.coverages[0][0]).toEqual({ id: 'gone', input: null, value: 0 });
      // A texel a pixel of a map of 32 that lies twice over the extent: one level up.
      expect(moss.level).toBeCloseTo(Math.log2(stack.layers[1].repeats), 6);
    });
  });
  it('is the same for one cue over many places', () => {
    const out = { input: new Float32Array(2), value: new Float32Array(2) };
    new CueSampler().sample({ material, sources, at: { layer: 'b', coverage: 1, cue: 'green' }, places, footprint: 1 / 32 }, out);
    const accounts = new Accountant().at(material, sources, places, 1 / 32);
    accounts.forEach((a, i) => {
      expect(out.input[i]).toBeCloseTo(a.layers[1].coverages[1][1].input as number, 6);
      expect(out.value[i]).toBeCloseTo(a.layers[1].coverages[1][1].value, 6);
    });
    // Two of a kind that change places: the one that is asked for is looked at, not the place where it was.
    const sampler = new CueSampler();
    const of = (first: number, second: number) => {
      const coverage = { x: makeCue('noise', { order: first, seed: 1 }), y: makeCue('noise', { order: second, seed: 99 }) };
      const swapped = makeStack({ ...blend, layers: { a: blend.layers['a'], b: makeLayer('moss', 'Moss', 2, { coverage }) } }, surfaces);
      const found = { input: new Float32Array(2), value: new Float32Array(2) };
      sampler.sample({ material: blendMaterial(swapped), sources, at: { layer: 'b', coverage: 0, cue: 'x' }, places, footprint: 1 / 32 }, found);
      return [...found.input];
    };
    expect(of(1, 2)).toEqual(of(2, 1));
    expect(() =>
      new CueSampler().sample({ material, sources, at: { layer: 'b', coverage: 1, cue: 'none' }, places, footprint: 1 / 32 }, out),
    ).toThrowError(/no such cue/);
  });
});

describe('pointing at a mesh', () => {
  it('finds the place whose picture is pointed at', () => {
    const mesh: Mesh = makeSpecimen('marker-stone', 1);
    const orbit = frameBounds(boundsOf(mesh));
    const clip = clipMatrix(orbit, 1.5);
    let hits = 0;
    for (let x = 0.05; x < 1; x += 0.1)
      for (let y = 0.05; y < 1; y += 0.1) {
        const [ex, ey, ez] = eyeOf(orbit);
        const found = pickMesh(mesh, [ex, ey, ez], rayThrough(orbit, 1.5, x, y));
        if (!found) continue;
        hits++;
        const p = carriedAt(mesh, found, 'position')!;
        const w = clip[3] * p[0] + clip[7] * p[1] + clip[11] * p[2] + clip[15];
        expect(((clip[0] * p[0] + clip[4] * p[1] + clip[8] * p[2] + clip[12]) / w + 1) / 2).toBeCloseTo(x, 3);
        expect((1 - (clip[1] * p[0] + clip[5] * p[1] + clip[9] * p[2] + clip[13]) / w) / 2).toBeCloseTo(y, 3);
        expect(found.shares.reduce((a, b) => a + b)).toBeCloseTo(1, 6);
      }
    expect(hits).toBeGreaterThan(5);
    expect(pickMesh(mesh, [0, 5, 5], [0, 1, 0])).toBeNull();
  });
});
