import fc from 'fast-check';
import type { BlendSurface, CueKindSpec, Layer, MeshInput } from '../index';
import {
  Builder,
  EditPrices,
  MESH_INPUTS,
  ROLES,
  blendMaterial,
  coverageText,
  cueKinds,
  evaluate,
  flatDomain,
  lowerCoverage,
  makeBlend,
  makeCue,
  makeLayer,
  makeStack,
  emitGlsl,
  materialReads,
  optimise,
  parseCoverage,
  priceOf,
  registerCues,
  stackValues,
  unregisterCue,
} from '../index';
import { anyBlend } from '../testing/any-blend';

const surface: BlendSurface = { sizeM: 1, reliefM: 0.05, mid: 0.5, roles: new Set(ROLES) };
const surfaces = { stone: surface, moss: surface, clay: surface };
const over = (layer: Partial<Layer>, extentM = 1) =>
  makeBlend('', { extentM, layers: { a: makeLayer('stone', 'Ground', 1), b: makeLayer('moss', 'Top', 2, layer) } });
const readsOver = (layer: Partial<Layer>) => blendMaterial(makeStack(over(layer), surfaces)).reads;

describe('what a material reads', () => {
  it('is what changes its picture when it changes, for any blend and any input', () => {
    // One place whose inputs are moved one at a time: what is not read must not matter, whatever the rest is.
    const images = (channel: string) => ({
      levels: [{ width: 4, height: 4, data: Float32Array.from({ length: 48 }, (_, i) => ((i * 7) % 11) / 11), stride: 3, offset: 0 }],
      table: null,
      channel,
    });
    let read = 0;
    fc.assert(
      fc.property(
        anyBlend(['stone', 'moss', 'clay'], 1),
        fc.constantFrom<MeshInput>(...MESH_INPUTS.filter((n) => n !== 'texcoord')),
        fc.integer(),
        (blend, name, seed) => {
          const stack = makeStack(blend, surfaces);
          const { near, values, reads } = blendMaterial(stack, { standing: { groundM: -0.2, parts: ['lid', 'outer wall'] } });
          const at = (offset: number) => {
            const n = 16;
            const geometry = Object.fromEntries(
              MESH_INPUTS.map((input) => {
                const width = { position: 3, normal: 3, tangent: 4, texcoord: 2, geomcolor: 4, curvature: 1, occlusion: 1, part: 1, uv1: 2, uv2: 2 }[
                  input
                ];
                return [
                  input,
                  Float32Array.from(
                    { length: n * width },
                    (_, i) => Math.sin(i * 3.7 + seed + (input === name ? offset : 0)) * (input === 'curvature' ? 30 : 1),
                  ),
                ];
              }),
            );
            const out = evaluate(optimise(near.outputs).outputs, { domain: flatDomain(n, 1, 1, geometry), values, sources: (_, c) => images(c) });
            return JSON.stringify(Object.values(out).map((planes) => planes.map((p) => [...p])));
          };
          if (reads.mesh.has(name)) read++;
          else expect(at(0)).withContext(name).toBe(at(0.73));
        },
      ),
      { numRuns: 250 },
    );
    expect(read).toBeGreaterThan(20);
  });
  it('names masks and IDs laid by a set of the mesh, and no mesh where nothing looks at it', () => {
    expect([...readsOver({ coverage: { m: makeCue('mask', { surface: 'clay', set: 2 }) } }).mesh]).toEqual(['uv2']);
    expect([...readsOver({ coverage: { m: makeCue('id', { surface: 'clay', set: 1 }) } }).mesh]).toEqual(['uv1']);
    expect(readsOver({ coverage: { m: makeCue('mask', { surface: 'clay' }) } }).mesh.size).toBe(0);
    // A picture that is gone, a ground that lies everywhere, a layer that leaves the asked channel alone.
    expect(readsOver({ coverage: { m: makeCue('mask', { surface: 'gone', set: 2 }) } }).mesh.size).toBe(0);
    const ground = makeBlend('', { layers: { a: makeLayer('stone', 'Ground', 1, { coverage: { s: makeCue('slope') } }) } });
    expect(blendMaterial(makeStack(ground, surfaces)).reads.mesh.size).toBe(0);
    const leaves = blendMaterial(makeStack(over({ coverage: { s: makeCue('slope') }, untouched: { roughness: true } }), surfaces));
    expect(materialReads(leaves, ['roughness']).mesh.size).toBe(0);
    expect([...materialReads(leaves, ['baseColor']).mesh]).toEqual(['normal']);
  });
});

describe('a material', () => {
  it('keeps its graph while only numbers change', () => {
    const one = blendMaterial(makeStack(over({ strength: 0.3 }), surfaces));
    const other = blendMaterial(makeStack(over({ strength: 0.8 }), surfaces));
    expect(one.key).toBe(other.key);
    expect(one.values).not.toEqual(other.values);
    expect(blendMaterial(makeStack(over({ coverage: { s: makeCue('slope') } }), surfaces)).key).not.toBe(one.key);
  });
  it('says which shared coverage or group is not there', () => {
    const { problems } = blendMaterial(makeStack(over({ shared: 'gone', group: 'nowhere' }), surfaces));
    expect(problems.map((p) => p.code)).toEqual(['missing-coverage', 'missing-group']);
    expect(problems[0].message).toContain('"gone"');
  });
});

describe('the span of a seam', () => {
  const spanOver = (middle: Partial<Layer>) => {
    const tall = { ...surface, reliefM: 4 };
    const layers = { a: makeLayer('stone', 'Ground', 1), m: makeLayer('tall', 'Middle', 2, middle), b: makeLayer('moss', 'Top', 3) };
    return makeStack(makeBlend('', { extentM: 1, layers }), { ...surfaces, tall }).layers.at(-1)!.span;
  };
  it('heeds layers that can change the height, and none that cannot', () => {
    expect(spanOver({ on: false })).toBe(0.05);
    expect(spanOver({})).toBe(4);
    expect(spanOver({ strength: 0 })).toBe(0.05);
    expect(spanOver({ untouched: { height: true } })).toBe(0.05);
    const even = (value: number, more = {}) => ({ c: makeCue('constant', { value }), ...more });
    expect(spanOver({ coverage: even(0) })).toBe(0.05);
    expect(spanOver({ coverage: even(0.01) })).toBe(4);
    // 0 but for what comes after it.
    expect(spanOver({ coverage: even(0, { d: makeCue('constant', { order: 2, join: 'or', value: 0.5 }) }) })).toBe(4);
    expect(spanOver({ coverage: even(1, { d: makeCue('constant', { order: 2, join: 'butNot', value: 1 }) }) })).toBe(0.05);
    expect(spanOver({ coverage: { s: makeCue('slope') } })).toBe(4);
  });
});

describe('a price', () => {
  const operations = (change: (layer: Layer) => void) => {
    const blend = over({ coverage: { v: makeCue('vertexColour') } });
    return new EditPrices(blend, surfaces).of((d) => change(d.layers['b'])).operations;
  };
  it('of noise goes by its octaves, evenly, and by its kind', () => {
    const noise = (octaves: number) => operations((l) => (l.coverage['n'] = makeCue('noise', { order: 2, octaves })));
    const steps = [2, 3, 4, 5, 6, 7, 8].map((o) => noise(o) - noise(o - 1));
    expect(new Set(steps).size).toBe(1);
    // A hash of three words, four corners, two curves and three mixes.
    expect(steps[0]).toBeGreaterThan(80);
    expect(steps[0]).toBeLessThan(200);
    const kind = (k: 'value' | 'gradient' | 'cellular') => operations((l) => (l.coverage['n'] = makeCue('noise', { order: 2, noise: k })));
    expect(kind('gradient')).toBeGreaterThan(kind('value'));
    expect(kind('cellular')).toBeGreaterThan(2 * kind('value'));
  });
  it('of a change is the difference that it makes on this stack', () => {
    const layers = Object.fromEntries(
      Array.from({ length: 6 }, (_, i) => [
        `l${i}`,
        makeLayer('moss', `L${i}`, i + 1, { coverage: { s: makeCue('slope'), n: makeCue('noise', { order: 2 }) } }),
      ]),
    );
    const blend = makeBlend('', { extentM: 1, layers });
    const total = (b: typeof blend) => {
      const stack = makeStack(b, surfaces);
      const { baseColor, normal, roughness, occlusion, metallic, height } = blendMaterial(stack).far.outputs;
      return priceOf(optimise({ baseColor, normal, roughness, occlusion, metallic, height }, { hoist: true }).outputs, stackValues(stack)).operations;
    };
    const bent = { ...blend, layers: { ...blend.layers, l5: { ...blend.layers['l5'], seam: { ...blend.layers['l5'].seam, normal: 1 } } } };
    expect(new EditPrices(blend, surfaces).extra('seamNormal', 'l5').operations).toBe(total(bent) - total(blend));
    const low = { ...blend, layers: { ...blend.layers, l1: { ...blend.layers['l1'], seam: { ...blend.layers['l1'].seam, normal: 1 } } } };
    // Higher up the weight is worked out from all that lies below.
    expect(total(bent) - total(blend)).toBeGreaterThan(total(low) - total(blend));
  });
});

describe('a kind of cue that a test makes up', () => {
  interface Checker {
    kind: 'checker';
    fields: number;
  }
  const checker: CueKindSpec<Checker> = {
    kind: 'checker',
    title: 'checker',
    help: 'every other square',
    unit: '',
    least: 0,
    most: 1,
    usual: { input: { kind: 'checker', fields: 4 }, centre: 0.5, width: 0 },
    ramped: true,
    input(_, { b, uv, value }) {
      const cell = (i: number) => b.node('floor', [b.multiply(b.extract(uv, i), value('fields'))]);
      return b.multiply(b.constant(2), b.node('fract', [b.multiply(b.add(cell(0), cell(1)), b.constant(0.5))]));
    },
    values: ({ fields }) => ({ fields: [fields] }),
    words: ({ inverted }) => `squares ${inverted ? 'below' : 'above'}`,
    tail: ({ fields }) => ` by ${fields}`,
    starts: [
      {
        phrase: 'squares',
        read(r) {
          const common = { inverted: r.side(['above', 'below']), ...r.ramp('') };
          r.expect('by');
          return { ...common, fields: r.wholeNumber('a number of squares', { least: 1, most: 64 }) };
        },
      },
    ],
    controls: [{ as: 'number', key: 'fields', label: 'Squares', shown: 'whole', least: 1, most: 64, at: 'sentence' }],
    preview: true,
  };
  beforeAll(() => registerCues(checker));
  afterAll(() => unregisterCue('checker'));

  it('is in the menu, the sentence and the parser', () => {
    expect(cueKinds().map((k) => k.title)).toContain('checker');
    const { coverage } = parseCoverage('where squares above 0.5 by 8 and slope under 20°');
    expect(coverageText(coverage)).toBe('where squares above 0.5 by 8 and slope under 20°');
    expect(() => parseCoverage('where squares above 0.5 by 99')).toThrowError(/a number of squares from 1 to 64/);
    expect(() => parseCoverage('where nothing')).toThrowError(/"squares"/);
  });
  it('is worked out by both back ends, priced and accounted for', () => {
    const { coverage } = parseCoverage('where squares above 0.5 by 2');
    const stack = makeStack(over({ coverage }), surfaces);
    const material = blendMaterial(stack);
    const [cue] = material.far.probes[1].cues[0];
    const out = evaluate({ v: cue.value }, { domain: flatDomain(4, 4), values: material.values });
    expect([...out['v'][0]].join('')).toBe('0011' + '0011' + '1100' + '1100');
    expect(emitGlsl({ v: cue.value }, 'live').source).toContain('u_l1_g0c0_fields');
    expect(new EditPrices(over({}), surfaces).cue('checker' as never, (d) => d.layers['b'].coverage).operations).toBeGreaterThan(3);
    const b = new Builder();
    expect(lowerCoverage(b, coverage, '', { uv: b.texcoord(), below: b.constant(0), level: null, pictures: new Map() }).type).toBe('float');
  });
});
