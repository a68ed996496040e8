import type { Sources } from '../compile';
import { sourcesOfMaps } from '../compile';
import type { MasterDocument } from '../document';
import { linkTo, makeMaster, makeOperation, valueOf } from '../document';
import { makeImage } from '../image';
import { makeRandom } from '../noise';
import { anyGraph } from '../testing/any-graph';
import { NOTHING, graph, noSources, outputOf } from '../testing/graphs';
import { givesSurface, publish, removeParameter } from './edits';
import { caughtBetween, grouped } from './grouped';
import { masterKey } from './key';
import { MasterMaterials, lowerMaster } from './material';
import type { GraphContext, GraphError } from './step';
import { inputsOf, outputsOf } from './step';

const copy = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T;
const given = (masters: GraphContext['masters'], over: Partial<GraphContext> = {}): GraphContext => ({ ...NOTHING, ...over, masters });
const keys = () => {
  let n = 0;
  return () => `k${++n}`;
};
/** One operation that is a master. */
const using = (master: string, inputs: MasterDocument['operations'][string]['inputs'] = {}, port = 'out') =>
  graph(
    { o: makeOperation('own', 1, { settings: { master }, inputs }) },
    port === 'out' ? { surface: linkTo('o') } : { roughness: linkTo('o', port) },
  );
const number = (value: number, order = 1): MasterDocument['parameters'][string] => ({
  order,
  name: `p${order}`,
  group: null,
  help: '',
  holds: { kind: 'number', value: [value], low: 0, high: 1, unit: '' },
});
/** A master that gives twice its parameter, published, and as its roughness. */
const twice = (value: number): MasterDocument =>
  makeMaster('Twice', {
    operations: { m: makeOperation('multiply', 1, { inputs: { in1: { from: 'parameter', parameter: 'p' }, in2: valueOf(2) } }) },
    parameters: { p: number(value) },
    outputs: { roughness: linkTo('m') },
    published: { w: { order: 1, name: 'doubled', operation: 'm', port: 'out' } },
  });
const errorOf = (d: MasterDocument, context: GraphContext) => lowerMaster(d, context).error as GraphError;

describe('a master as an operation of another', () => {
  it('has its parameters as inputs, and its outputs and published values as outputs, by their names', () => {
    const context = given({ t: twice(0.2) });
    const op = using('t').operations['o'];
    expect(inputsOf(op, context)).toEqual([{ name: 'p', label: 'p1', type: 'float', initial: [0.2], low: 0, high: 1 }]);
    expect(outputsOf(op, context).map((o) => o.label ?? o.name)).toEqual([
      'out',
      'baseColor',
      'normal',
      'roughness',
      'occlusion',
      'metallic',
      'height',
      'doubled',
    ]);
    const numbersOnly = { ...twice(0.2), outputs: {} };
    expect(outputsOf(op, given({ t: numbersOnly })).map((o) => o.name)).toEqual(['w']);
  });
  it('takes its own numbers where nothing feeds it, what is linked or typed where something does', () => {
    const context = given({ t: twice(0.2) });
    const rough = (d: MasterDocument) => outputOf(d, 'roughness', 4, context)[0][5];
    expect(rough(using('t'))).toBeCloseTo(0.4, 6);
    expect(rough(using('t', { p: valueOf(0.3) }, 'w'))).toBeCloseTo(0.6, 6);
    const linked = using('t', { p: linkTo('h') }, 'w');
    linked.operations['h'] = makeOperation('add', 2, { inputs: { in1: valueOf(0.1), in2: valueOf(0.35) } });
    expect(rough(linked)).toBeCloseTo(0.9, 6);
    // Used twice in one master, each with its own.
    const both = using('t', { p: valueOf(0.1) }, 'w');
    both.operations['q'] = makeOperation('own', 2, { settings: { master: 't' }, inputs: { p: valueOf(0.05) } });
    both.operations['s'] = makeOperation('add', 3, { inputs: { in1: linkTo('o', 'w'), in2: linkTo('q', 'w') } });
    both.outputs = { roughness: linkTo('s') };
    expect(rough(both)).toBeCloseTo(0.3, 6);
  });
  it('is edited in one place: another number of it lowers nothing, another step of it does', () => {
    const materials = new MasterMaterials();
    const d = using('t', {}, 'w');
    const at = (master: MasterDocument) => materials.of(d, given({ t: master }));
    expect(Object.values(at(twice(0.2)).values)).toContain([0.2]);
    const before = materials.lowered;
    expect(Object.values(at(twice(0.35)).values)).toContain([0.35]);
    expect(materials.lowered).toBe(before);
    const other = twice(0.2);
    other.operations['m'].step = 'add';
    expect(outputOf(d, 'roughness', 2, given({ t: other }))[0][0]).toBe(1);
    expect(masterKey(d, given({ t: other }))).not.toBe(masterKey(d, given({ t: twice(0.2) })));
    // A value that is turned for the first time is no other graph.
    expect(masterKey(using('t', { p: valueOf(0.9) }, 'w'), given({ t: twice(0.2) }))).toBe(masterKey(d, given({ t: twice(0.2) })));
  });
  it('takes maps and surfaces that stand in for those of its parameters', () => {
    const inner = makeMaster('Inner', {
      operations: { i: makeOperation('image', 1, { settings: { role: 'roughness' }, inputs: { map: { from: 'parameter', parameter: 'm' } } }) },
      parameters: {
        m: { order: 1, name: 'map', group: null, help: '', holds: { kind: 'map', surface: '', role: 'roughness' } },
        s: { order: 2, name: 'ground', group: null, help: '', holds: { kind: 'surface', surface: '' } },
      },
      outputs: { surface: { from: 'parameter', parameter: 's' }, metallic: linkTo('i') },
    });
    const facts = { sizeM: 1, reliefM: 0.1, mid: 0.5, roles: new Set(['roughness', 'baseColor'] as const) };
    const context = given({ n: inner }, { surfaces: { stone: facts } });
    const d = using('n', { m: { from: 'parameter', parameter: 'mine' } });
    const grey = (v: number) => makeImage({ width: 2, height: 2, channels: 1, data: new Uint8Array(4).fill(v) });
    const sources: Sources = (_, channel) =>
      sourcesOfMaps({ roughness: grey(51), baseColor: makeImage({ width: 1, height: 1, channels: 3, data: Uint8Array.of(255, 0, 0) }) })(channel)!;
    d.parameters['mine'] = { order: 1, name: 'mine', group: null, help: '', holds: { kind: 'map', surface: 'stone', role: 'height' } };
    // Its own role stays: a map of another surface stands in, not another kind of map.
    const of = (what: 'roughness' | 'baseColor' | 'height', doc = d) => {
      const made = makeMaster('Look', { ...doc, outputs: { [what]: linkTo('o', what === 'roughness' ? 'metallic' : what) } });
      return outputOf(made, what, 2, context, sources)[0][0];
    };
    expect(of('roughness')).toBeCloseTo(0.2, 6);
    expect(of('baseColor')).toBeCloseTo(0.5, 1);
    d.operations['g'] = makeOperation('surface', 2, { settings: { surface: 'stone' } });
    d.operations['o'].inputs['s'] = linkTo('g');
    expect(of('baseColor')).toBe(1);
    // The same by a parameter that holds a surface.
    d.parameters['at'] = { order: 2, name: 'at', group: null, help: '', holds: { kind: 'surface', surface: 'stone' } };
    d.operations['o'].inputs['s'] = { from: 'parameter', parameter: 'at' };
    expect(of('baseColor')).toBe(1);
  });
  it('gives a surface or numbers, told apart wherever they come from', () => {
    const context = given({ t: twice(0.2) });
    const d = using('t');
    d.published['s'] = { order: 1, name: 'whole', operation: 'o', port: 'out' };
    d.published['w'] = { order: 2, name: 'doubled', operation: 'o', port: 'w' };
    d.parameters['ground'] = { order: 1, name: 'ground', group: null, help: '', holds: { kind: 'surface', surface: '' } };
    d.parameters['level'] = number(0.5, 2);
    d.operations['pick'] = makeOperation('switch', 2, { inputs: { on: { from: 'published', published: 's' } } });
    const sources = [linkTo('o'), linkTo('o', 'w'), linkTo('pick'), valueOf(1), undefined];
    expect(sources.map((s) => givesSurface(d, s, context))).toEqual([true, false, true, false, false]);
    expect(['s', 'w', 'gone'].map((published) => givesSurface(d, { from: 'published', published }, context))).toEqual([true, false, false]);
    expect(['ground', 'level', 'gone'].map((parameter) => givesSurface(d, { from: 'parameter', parameter }, context))).toEqual([true, false, false]);
  });
  it('says where in it a mistake is, that it is gone, gives nothing, or is used within itself', () => {
    const broken = twice(0.1);
    broken.operations['m'].inputs['in1'] = linkTo('nowhere');
    expect(errorOf(using('t'), given({ t: broken })).message).toMatch(/^In Twice, at multiply: What in1 was linked to is gone/);
    expect(errorOf(using('gone'), NOTHING)).toEqual(jasmine.objectContaining({ code: 'missing-master', operation: 'o' }));
    expect(errorOf(using('t'), given({ t: { ...twice(1), outputs: {}, published: {} } })).message).toMatch(/gives nothing yet/);
    const [a, b] = [makeMaster('A', using('b')), makeMaster('B', using('a'))];
    const circle = given({ a: { ...a, name: 'A' }, b: { ...b, name: 'B' } });
    expect(errorOf(using('a'), circle)).toEqual(
      jasmine.objectContaining({ code: 'cycle', operation: 'o', message: jasmine.stringContaining('A → B → A') }),
    );
    const deep = Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`m${i}`, makeMaster(`M${i}`, using(`m${i + 1}`))]));
    expect(errorOf(using('m0'), given(deep)).code).toBe('cycle');
    expect(lowerMaster(using('m6'), given({ ...deep, m12: twice(0.1) })).error).toBeNull();
  });
});

describe('operations made one of one’s own', () => {
  const plain = (): MasterDocument =>
    graph(
      {
        uv: makeOperation('texcoord', 1),
        u: makeOperation('extract', 2, { inputs: { in: linkTo('uv') } }),
        less: makeOperation('subtract', 3, { inputs: { in1: linkTo('u'), in2: { from: 'parameter', parameter: 'level' } } }),
        lit: makeOperation('clamp', 4, { name: 'lit', inputs: { in: linkTo('less') } }),
        far: makeOperation('multiply', 5, { inputs: { in1: linkTo('lit'), in2: linkTo('less') } }),
      },
      { roughness: linkTo('lit'), metallic: linkTo('far') },
      { parameters: { level: number(0.25) } },
    );
  it('keep their names, parameters and links; who read them reads the new one', () => {
    const d = plain();
    const { master, replace } = grouped(d, ['less', 'lit'], { lowered: lowerMaster(d, NOTHING), context: NOTHING, name: 'Gauge', key: keys() });
    replace(d, 'g', 'one');
    expect(Object.keys(d.operations).sort()).toEqual(['far', 'one', 'u', 'uv']);
    expect(Object.values(master.parameters).map((p) => p.name)).toEqual(['p1', 'in1']);
    expect(
      Object.values(master.published)
        .map((p) => p.name)
        .sort(),
    ).toEqual(['lit', 'subtract']);
    expect(outputsOf(d.operations['one'], given({ g: master })).map((o) => o.label)).toEqual(['subtract', 'lit']);
    expect(lowerMaster(d, given({ g: master })).error).toBeNull();
    for (const output of ['roughness', 'metallic'] as const)
      expect(outputOf(d, output as 'roughness', 8, given({ g: master }))).toEqual(outputOf(plain(), output as 'roughness', 8));
  });
  it('take places and directions along instead of asking for them', () => {
    const d = plain();
    const { master, replace } = grouped(d, ['u', 'less'], { lowered: lowerMaster(d, NOTHING), context: NOTHING, name: 'Along', key: keys() });
    expect(Object.keys(master.operations).sort()).toEqual(['less', 'u', 'uv']);
    expect(Object.values(master.parameters).map((p) => p.name)).toEqual(['p1']);
    replace(d, 'g', 'one');
    expect(Object.keys(d.operations)).toContain('uv');
    expect(outputOf(d, 'roughness', 8, given({ g: master }))).toEqual(outputOf(plain(), 'roughness', 8));
  });
  it('are refused where something between them would feed itself, by its name', () => {
    expect(caughtBetween(plain(), ['uv', 'less'])).toEqual(['u']);
    expect(caughtBetween(plain(), ['u', 'less'])).toEqual([]);
  });
  it('give what they gave, bit for bit, in random graphs', () => {
    const seed = 20261128;
    const next = makeRandom(seed);
    let done = 0;
    for (let i = 0; i < 60; i++) {
      const d = anyGraph(next, 14);
      // What lies between is taken along until nothing does.
      let ids = Object.keys(d.operations).filter(() => next() < 0.3);
      for (let more = caughtBetween(d, ids); more.length; more = caughtBetween(d, ids)) ids = [...ids, ...more];
      if (!ids.length) continue;
      const before = copy(d);
      const { master, replace } = grouped(d, ids, { lowered: lowerMaster(d, NOTHING), context: NOTHING, name: 'Own', key: keys() });
      const untouched = copy(d);
      expect(untouched).toEqual(before);
      replace(d, 'own', 'own-1');
      const context = given({ own: master });
      const lowered = lowerMaster(d, context);
      expect(lowered.error?.message ?? '')
        .withContext(`graph ${i} of seed ${seed}`)
        .toBe('');
      for (const output of ['baseColor', 'roughness'] as const)
        expect(outputOf(d, output, 8, context, noSources))
          .withContext(`graph ${i} of seed ${seed}, ${output}`)
          .toEqual(outputOf(before, output, 8));
      done++;
    }
    expect(done).toBeGreaterThan(40);
  });
  it('give what they end in where nobody reads them yet, by the names that it has', () => {
    const context = given({ t: { ...twice(0.2), outputs: {} } });
    const d = graph({ o: makeOperation('own', 1, { settings: { master: 't' } }), parts: makeOperation('separatesurface', 2) });
    const { master, replace } = grouped(d, ['o', 'parts'], { lowered: lowerMaster(d, context), context, name: 'Ends', key: keys() });
    expect(Object.values(master.published).map((p) => [p.name, p.port])).toEqual([
      ['doubled', 'w'],
      ['baseColor', 'baseColor'],
    ]);
    replace(d, 'g', 'one');
    d.outputs = { roughness: linkTo('one', Object.keys(master.published)[0]) };
    expect(outputOf(d, 'roughness', 1, given({ ...context.masters, g: master }))[0][0]).toBeCloseTo(0.4, 6);
    // Published again outside, it keeps the name by which it is known.
    expect(publish(d, { operation: 'one', port: Object.keys(master.published)[0] }, 'p', given({ g: master }))).toBe('doubled');
  });
  it('let their map go back to their own when a parameter of it is taken away', () => {
    const d = using('t', { m: { from: 'parameter', parameter: 'mine' } });
    d.parameters['mine'] = { order: 1, name: 'mine', group: null, help: '', holds: { kind: 'map', surface: 'stone', role: 'height' } };
    removeParameter(d, 'mine');
    expect(d.operations['o']).toEqual(makeOperation('own', 1, { settings: { master: 't' } }));
  });
  it('carry a surface in and out, and the switches that they are of', () => {
    const d = graph(
      {
        base: makeOperation('makesurface', 1, { inputs: { roughness: valueOf(0.7) } }),
        red: makeOperation('tint', 2, { inputs: { in: linkTo('base'), colour: valueOf(1, 0, 0) } }),
        pick: makeOperation('switch', 3, { settings: { switch: 's' }, inputs: { off: linkTo('base'), on: linkTo('red') } }),
      },
      { surface: linkTo('pick') },
      { switches: { s: { order: 1, name: 'dye', group: null, help: '', on: true } } },
    );
    const before = copy(d);
    const { master, replace } = grouped(d, ['red', 'pick'], { lowered: lowerMaster(d, NOTHING), context: NOTHING, name: 'Dyed', key: keys() });
    replace(d, 'g', 'one');
    expect(Object.values(master.parameters).map((p) => p.holds)).toEqual([{ kind: 'surface', surface: '' }]);
    expect(master.outputs.surface).toEqual(linkTo('pick'));
    expect(d.switches).toEqual({});
    for (const output of ['baseColor', 'roughness'] as const)
      expect(outputOf(d, output, 2, given({ g: master }))).toEqual(outputOf(before, output, 2));
  });
});
