import type { Sources } from '../compile';
import { emitGlsl, evaluate, flatDomain, frameValues, optimise } from '../compile';

import { sourcesOfMaps } from '../compile';
import type { MasterDocument } from '../document';
import { linkTo, makeBlend, makeLayer, makeOperation, valueOf } from '../document';
import { makeImage } from '../image';
import { evaluateMaterial, makeMaterialMaps, materialPrice, texturesOf } from '../material';
import { blendMaterial, makeStack } from '../blend';
import { makeRandom } from '../noise';
import { anyGraph } from '../testing/any-graph';
import { NOTHING, graph, noSources, outputOf as at } from '../testing/graphs';
import type { GraphContext } from './step';
import { stepKinds } from './catalogue';
import { GraphError } from './step';
import { masterKey } from './key';
import { MasterMaterials, lowerMaster, permutationsOf, samplersOf } from './material';
import type { Role } from '../surface';
import { ROLE_FACTS } from '../surface';
import { cutAway } from './edits';

/** What a longer run asks for. */
const env = (globalThis as { process?: { env: Record<string, string | undefined> } }).process?.env ?? {};
const errorOf = (d: MasterDocument, context = NOTHING) => lowerMaster(d, context).error as GraphError;

describe('steps', () => {
  it('are about seventy and more, each with help, words to find it by, and a MaterialX name', () => {
    const kinds = stepKinds();
    expect(kinds.length).toBeGreaterThanOrEqual(70);
    for (const kind of kinds) {
      expect(kind.help.length).withContext(kind.name).toBeGreaterThan(4);
      expect(kind.words.length).withContext(kind.name).toBeGreaterThan(3);
      expect(kind.outputs({ settings: {} }, NOTHING).length)
        .withContext(kind.name)
        .toBeGreaterThan(0);
    }
  });
  it('are all lowered with what they start with, but those that need something of the project', () => {
    for (const kind of stepKinds()) {
      const lowered = lowerMaster(graph({ n: makeOperation(kind.name, 1) }), NOTHING);
      const given = lowered.steps.get('n');
      // Nothing but a blend or a master has to be chosen: surfaces that nothing feeds are neutral.
      expect(given instanceof GraphError ? given.code : '')
        .withContext(kind.name)
        .toBe(({ blend: 'missing-blend', own: 'missing-master' } as Record<string, string>)[kind.name] ?? '');
    }
  });
});

describe('a master', () => {
  it('evaluates what is linked, with numbers, parameters and published values', () => {
    const d = graph(
      {
        half: makeOperation('multiply', 1, { inputs: { in1: { from: 'parameter', parameter: 'p' }, in2: valueOf(0.5) } }),
        sum: makeOperation('add', 2, { inputs: { in1: { from: 'published', published: 'h' }, in2: linkTo('half') } }),
      },
      { roughness: linkTo('sum') },
      {
        parameters: { p: { order: 1, name: 'wear', group: null, help: '', holds: { kind: 'number', value: [0.6], low: 0, high: 1, unit: '' } } },
        published: { h: { order: 1, name: 'half', operation: 'half', port: 'out' } },
      },
    );
    expect(at(d, 'roughness')[0][3]).toBeCloseTo(0.6, 6);
  });
  it('holds what leaves it: colours, roughness, and what is no number', () => {
    const d = graph(
      {
        huge: makeOperation('multiply', 1, { inputs: { in1: valueOf(1e30), in2: valueOf(1e30) } }),
        none: makeOperation('subtract', 2, { inputs: { in1: linkTo('huge'), in2: linkTo('huge') } }),
        low: makeOperation('subtract', 3, { inputs: { in1: valueOf(0), in2: valueOf(3) } }),
        steep: makeOperation('combine3', 4, { inputs: { in1: valueOf(9), in2: valueOf(0), in3: valueOf(-1) } }),
      },
      { roughness: linkTo('none'), baseColor: linkTo('low'), height: linkTo('huge'), normal: linkTo('steep') },
    );
    expect(at(d, 'roughness')[0][0]).toBe(0);
    expect(at(d, 'baseColor').map((p) => p[0])).toEqual([0, 0, 0]);
    expect(at(d, 'height')[0][0]).toBe(1000);
    const n = at(d, 'normal').map((p) => p[0]);
    expect(Math.hypot(...n)).toBeCloseTo(1, 5);
    expect(n[2]).toBeGreaterThan(0);
  });
  it('keeps its key and its graph while only numbers change, and not when anything else does', () => {
    const d = graph({ n: makeOperation('smoothstep', 1, { inputs: { in: valueOf(0.3) } }) }, { roughness: linkTo('n') });
    const materials = new MasterMaterials();
    const before = materials.of(d, NOTHING);
    const turned = graph(
      { n: makeOperation('smoothstep', 1, { inputs: { in: valueOf(0.4), low: valueOf(0.1), high: valueOf(0.9) } }) },
      { roughness: linkTo('n') },
    );
    const after = materials.of(turned, NOTHING);
    expect(after.key).toBe(before.key);
    expect(after.far).toBe(before.far);
    expect(materials.lowered).toBe(1);
    const x = (0.4 - 0.1) / 0.8;
    expect(at(turned, 'roughness')[0][0]).toBeCloseTo(x * x * (3 - 2 * x), 6);
    const others = [
      { ...d, outputs: { occlusion: linkTo('n') } },
      graph({ n: makeOperation('remap', 1) }, { roughness: linkTo('n') }),
      graph({ n: { ...d.operations['n'], bypassed: true } }, { roughness: linkTo('n') }),
      graph({ n: makeOperation('smoothstep', 1, { inputs: { in: valueOf(0.3, 0.1, 0.2) } }) }, { roughness: linkTo('n') }),
    ];
    for (const other of others) expect(masterKey(other, NOTHING)).not.toBe(before.key);
    // What no output needs is nobody's business.
    expect(masterKey({ ...d, operations: { ...d.operations, more: makeOperation('sin', 2) } }, NOTHING)).toBe(before.key);
  });
  it('is on a blend what the blend is by itself, bit for bit, and follows parameters into it', () => {
    const blend = makeBlend('Ground', {
      layers: {
        low: makeLayer({ kind: 'constant', baseColor: '#804020', roughness: 0.7, metallic: 0, heightM: 0 }, 'Low', 1),
        high: makeLayer({ kind: 'constant', baseColor: '#208040', roughness: 0.3, metallic: 0, heightM: 0.02 }, 'High', 2, {
          coverage: {
            c: {
              order: 1,
              join: 'and',
              amount: 1,
              inverted: false,
              shape: 'smooth',
              centre: 0.5,
              width: 0.4,
              kind: 'noise',
              noise: 'value',
              sizeM: 0.4,
              octaves: 1,
              seed: 3,
            },
          },
        }),
      },
    });
    const context: GraphContext = { ...NOTHING, blends: { g: blend } };
    const d = graph({ b: makeOperation('blend', 1, { settings: { blend: 'g' } }) }, { surface: linkTo('b') }, { extentM: blend.extentM });
    const run = (material: ReturnType<MasterMaterials['of']>) => {
      const into = makeMaterialMaps(32, 32, ['baseColor', 'roughness']);
      evaluateMaterial(material, { domain: flatDomain(32, 32), sources: noSources, into });
      return [...into.baseColor!.data, ...into.roughness!.data];
    };
    const of = (b = blend) => run(blendMaterial(makeStack(b, {})));
    expect(run(new MasterMaterials().of(d, context))).toEqual(of());
    d.operations['b'].inputs['layers.high.coverage.c.centre'] = { from: 'parameter', parameter: 'p' };
    d.parameters['p'] = { order: 1, name: 'spread', group: null, help: '', holds: { kind: 'number', value: [0.3], low: 0, high: 1, unit: '' } };
    const moved = JSON.parse(JSON.stringify(blend)) as typeof blend;
    moved.layers['high'].coverage['c'].centre = 0.3;
    expect(of(moved)).not.toEqual(of());
    expect(run(new MasterMaterials().of(d, context))).toEqual(of(moved));
    // A number whose place is gone from the blend decides nothing, and says so.
    const { c } = moved.layers['high'].coverage;
    const without = { ...blend, layers: { ...blend.layers, high: { ...blend.layers['high'], coverage: { other: c } } } };
    const after = lowerMaster(d, { ...context, blends: { g: without } });
    expect(after.notes.map((n) => [n.operation, n.code, n.message])).toEqual([
      ['b', 'missing-place', 'The blend has no c centre there any more: what follows it decides nothing. Let go of it'],
    ]);
  });
  it('lays an own normal over a stack, and is the stack bit for bit where the switch is off', () => {
    const d = graph(
      {
        stack: makeOperation('makesurface', 1, { inputs: { normal: valueOf(0.3, 0.1, 0.948683) } }),
        own: makeOperation('ownnormal', 2, { inputs: { in: linkTo('stack'), normal: valueOf(0, 0.6, 0.8) } }),
        pick: makeOperation('switch', 3, { settings: { switch: 's' }, inputs: { off: linkTo('stack'), on: linkTo('own') } }),
      },
      { surface: linkTo('pick') },
      { switches: { s: { order: 1, name: 'own normal', group: null, help: '', on: false } } },
    );
    const plain = { ...d, outputs: { surface: linkTo('stack') } };
    for (const channel of ['normal', 'baseColor', 'roughness'] as const) expect(at(d, channel)).toEqual(at(plain, channel));
    d.switches['s'].on = true;
    expect(at(d, 'normal')).not.toEqual(at(plain, 'normal'));
    // Reoriented by hand: t = base + z, u = detail·(−1, −1, 1), r = t·(t·u)/t.z − u.
    const [b, e] = [
      [0, 0.6, 0.8],
      [0.3, 0.1, 0.948683],
    ];
    const t = [b[0], b[1], b[2] + 1];
    const u = [-e[0], -e[1], e[2]];
    const k = t.reduce((sum, x, i) => sum + x * u[i], 0) / t[2];
    const r = t.map((x, i) => x * k - u[i]);
    at(d, 'normal').forEach((plane, i) => expect(plane[0]).toBeCloseTo(r[i] / Math.hypot(...r), 5));
  });
  it('shows maps by their role, the neutral of the role where there is none, and says so', () => {
    const rough = makeImage({ width: 2, height: 2, channels: 1, data: Uint8Array.of(51, 51, 51, 51) });
    const context: GraphContext = { ...NOTHING, surfaces: { s: { sizeM: 1, reliefM: 0.1, mid: 0.5, roles: new Set(['roughness']) } } };
    const sources: Sources = (_, channel) => sourcesOfMaps({ roughness: rough })(channel)!;
    const image = (settings: Record<string, string>, inputs = {}) =>
      graph({ i: makeOperation('image', 1, { settings, inputs }) }, { roughness: linkTo('i') });
    expect(at(image({ surface: 's', role: 'roughness' }), 'roughness', 4, context, sources)[0][5]).toBeCloseTo(0.2, 6);
    const gone = image({ surface: 's', role: 'occlusion' });
    expect(at(gone, 'roughness', 4, context, sources)[0][5]).toBe(1);
    expect(lowerMaster(gone, context).notes[0]).toEqual(jasmine.objectContaining({ operation: 'i', code: 'missing-surface' }));
    const mapped = image({ role: 'roughness' }, { map: { from: 'parameter', parameter: 'm' } });
    mapped.parameters['m'] = { order: 1, name: 'dirt', group: null, help: '', holds: { kind: 'map', surface: '', role: 'roughness' } };
    expect(at(mapped, 'roughness', 4, context, sources)[0][5]).toBeCloseTo(0.8, 6);
    expect(lowerMaster(mapped, context).notes[0].message).toMatch(/No map is chosen.*neutral roughness/);
    mapped.parameters['m'].holds = { kind: 'map', surface: 's', role: 'roughness' };
    expect(at(mapped, 'roughness', 4, context, sources)[0][5]).toBeCloseTo(0.2, 6);
    expect(samplersOf(new MasterMaterials().of(mapped, context).far)).toBe(1);
  });
  it('takes the fed side of a switch where the other is fed by nothing, and is neutral where a surface is', () => {
    const d = graph(
      {
        stone: makeOperation('makesurface', 1, { inputs: { roughness: valueOf(0.3) } }),
        pick: makeOperation('switch', 2, { settings: { switch: 'a' }, inputs: { off: linkTo('stone') } }),
        plain: makeOperation('switch', 3, { settings: { switch: 'a' } }),
        empty: makeOperation('makesurface', 4),
      },
      { surface: linkTo('pick') },
      { switches: { a: { order: 1, name: 'stone', group: null, help: '', on: false } } },
    );
    for (const on of [false, true]) {
      d.switches['a'].on = on;
      d.outputs = { surface: linkTo('pick') };
      expect(lowerMaster(d, NOTHING).error).toBeNull();
      expect(at(d, 'roughness')[0][0]).toBeCloseTo(0.3, 6);
      d.outputs = { roughness: linkTo('plain') };
      expect(at(d, 'roughness')[0][0]).toBe(on ? 1 : 0);
    }
    d.outputs = { surface: linkTo('empty') };
    expect(at(d, 'baseColor').map((p) => p[0])).toEqual([...ROLE_FACTS.baseColor.neutral].map((v) => Math.fround(v)));
    expect(at(d, 'height')[0][0]).toBe(0);
  });
  it('binds a packed texture once for each array and slot that is read, of maps, masks and IDs', () => {
    const reads = {
      mesh: new Set<never>(),
      roles: new Map<number, Set<Role>>([
        // Roughness, occlusion and the normal lie in one array, metallic in another.
        [0, new Set(['roughness', 'occlusion', 'normal', 'metallic'])],
        [2, new Set(['baseColor', 'opacity', 'height'])],
      ]),
      masks: new Set([0, 1]),
      ids: new Set([0]),
      levels: false,
    };
    const bound = texturesOf(reads)
      .map(({ unit, slot }) => `${unit} ${slot}`)
      .sort();
    expect(bound).toEqual(['colour 2', 'height 2', 'id 0', 'mask 0', 'mask 1', 'rare 0', 'shape 0']);
  });
  it('counts programs by the switches that decide something, and says what they cut away', () => {
    const on = (name: string, order: number) => ({ order, name, group: null, help: '', on: false });
    const d = graph(
      {
        dear: makeOperation('fractal2d', 1),
        more: makeOperation('sin', 2, { inputs: { in: linkTo('dear') } }),
        pick: makeOperation('switch', 3, { settings: { switch: 'a' }, inputs: { off: valueOf(0.5), on: linkTo('more') } }),
      },
      { roughness: linkTo('pick') },
      { switches: { a: on('grain', 1), b: on('nobody', 2) } },
    );
    expect(permutationsOf(d)).toEqual({ live: ['a'], count: 2 });
    expect(cutAway(d, 'a')).toEqual(['dear', 'more']);
    const off = materialPrice(new MasterMaterials().of(d, NOTHING)).operations;
    d.switches['a'].on = true;
    expect(materialPrice(new MasterMaterials().of(d, NOTHING)).operations).toBeGreaterThan(off + 40);
    expect(cutAway(d, 'a')).toEqual([]);
  });
});

describe('mistakes in a graph', () => {
  const cases: [string, MasterDocument, { code: string; operation: string; port?: string; says: RegExp }][] = [
    [
      'a circle',
      graph(
        { a: makeOperation('sin', 1, { inputs: { in: linkTo('b') } }), b: makeOperation('cos', 2, { inputs: { in: linkTo('a') } }) },
        { roughness: linkTo('a') },
      ),
      { code: 'cycle', operation: 'b', says: /feeds itself: cos → sin → cos/ },
    ],
    [
      'a type that does not fit',
      graph({ v: makeOperation('combine3', 1), w: makeOperation('rotate2d', 2, { inputs: { in: linkTo('v') } }) }, { baseColor: linkTo('w') }),
      { code: 'type-mismatch', operation: 'w', port: 'in', says: /takes a vec2, and a vec3 comes in/ },
    ],
    [
      'a link to nothing',
      graph({ s: makeOperation('sin', 1, { inputs: { in: linkTo('gone') } }) }, { roughness: linkTo('s') }),
      { code: 'missing-link', operation: 's', port: 'in', says: /is gone/ },
    ],
    [
      'a port that is not there',
      graph({ a: makeOperation('sin', 1), s: makeOperation('sin', 2, { inputs: { in: linkTo('a', 'z') } }) }, { roughness: linkTo('s') }),
      { code: 'unknown-port', operation: 's', port: 'in', says: /has no output z: it has out/ },
    ],
    [
      'a step that is not known',
      graph({ s: makeOperation('nosuch', 1) }, { roughness: linkTo('s') }),
      { code: 'unknown-step', operation: 's', says: /no operation called nosuch/ },
    ],
    [
      'a surface into a number',
      graph({ a: makeOperation('makesurface', 1), s: makeOperation('sin', 2, { inputs: { in: linkTo('a') } }) }, { roughness: linkTo('s') }),
      { code: 'type-mismatch', operation: 's', port: 'in', says: /a surface comes in/ },
    ],
    [
      'a number as the surface',
      graph({ s: makeOperation('sin', 1) }, { surface: linkTo('s') }),
      { code: 'type-mismatch', operation: '', port: 'surface', says: /takes a surface/ },
    ],
    [
      'a mistake in a formula',
      graph({ f: makeOperation('formula', 1, { settings: { text: 'a +' } }) }, { roughness: linkTo('f') }),
      { code: 'formula', operation: 'f', says: /missing at the end/ },
    ],
    [
      'a blend that is gone',
      graph({ b: makeOperation('blend', 1, { settings: { blend: 'x' } }) }, { surface: linkTo('b') }),
      { code: 'missing-blend', operation: 'b', says: /blend is gone/ },
    ],
    [
      'sizes that differ',
      graph(
        {
          v: makeOperation('combine3', 1),
          u: makeOperation('texcoord', 2),
          s: makeOperation('add', 3, { inputs: { in1: linkTo('v'), in2: linkTo('u') } }),
        },
        { baseColor: linkTo('s') },
      ),
      { code: 'type-mismatch', operation: 's', port: 'in2', says: /vec2 beside vec3/ },
    ],
  ];
  for (const [name, document, { code, operation, port, says }] of cases)
    it(`${name}: said with its place, and there is a neutral picture`, () => {
      const error = errorOf(document);
      expect(error).withContext(name).toBeInstanceOf(GraphError);
      expect([error.code, error.operation, error.port]).toEqual([code as never, operation, port]);
      expect(error.message).toMatch(says);
      expect(new MasterMaterials().of(document, NOTHING).problems.at(-1)?.message).toBe(error.message);
    });
  it('two thousand operations in a row are refused, not crashed on', () => {
    const operations = Object.fromEntries(
      Array.from({ length: 2000 }, (_, i) => [`n${i}`, makeOperation('sin', i, i ? { inputs: { in: linkTo(`n${i - 1}`) } } : {})]),
    );
    expect(errorOf(graph(operations, { roughness: linkTo('n1999') })).code).toBe('too-many');
  });
});

describe('random graphs', () => {
  const count = Number(env['PEBBLE_GRAPHS'] ?? 150);
  const seed = Number(env['PEBBLE_SEED'] ?? 20261128);
  it(`compile, and passes change nothing past 1e-5 (${count}, seed ${seed})`, () => {
    for (let i = 0; i < count; i++) {
      const d = anyGraph(makeRandom(seed + i), 4 + (i % 24));
      const material = new MasterMaterials().of(d, NOTHING);
      expect(material.problems.filter((p) => p.code !== 'unused'))
        .withContext(`seed ${seed + i}`)
        .toEqual([]);
      const { baseColor, roughness } = material.far.outputs;
      const plain = { baseColor, roughness };
      const { outputs, hoisted } = optimise(plain, { hoist: true });
      const domain = flatDomain(7, 5, 1, {
        position: Float32Array.from({ length: 105 }, (_, k) => Math.sin(k * 12.9) * 3),
        geomcolor: Float32Array.from({ length: 140 }, (_, k) => (k * 0.37) % 1),
      });
      const before = evaluate(plain, { domain, values: material.values });
      const after = evaluate(outputs, { domain, values: frameValues(hoisted, material.values) });
      for (const name of ['baseColor', 'roughness'] as const)
        before[name].forEach((plane, c) =>
          plane.forEach((v, k) => {
            if (!(v >= 0 && v <= 1)) fail(`seed ${seed + i}: ${name} is ${v}`);
            if (Math.abs(v - after[name][c][k]) > 1e-5) fail(`seed ${seed + i}: ${name} ${v} became ${after[name][c][k]}`);
          }),
        );
      expect(emitGlsl(outputs, 'live').source).toContain('pb_evaluate');
    }
  });
});
