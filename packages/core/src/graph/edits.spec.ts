import * as fc from 'fast-check';
import type { MasterDocument } from '../document';
import { makeCue } from '../coverage';
import { DEFAULT_WATER, linkTo, makeBlend, makeLayer, makeMaster, makeOperation, valueOf } from '../document';
import { blendPlaces } from './blend-places';
import { clipOf, clipText, putClip, readClip } from './clip';
import {
  appendStep,
  frameOf,
  insertStep,
  numbersAt,
  placesFed,
  proposedName,
  publish,
  removeFrame,
  removeOperations,
  removeParameter,
  removeSwitch,
  replaceStep,
  sourceAt,
  startFrom,
  toParameter,
  toggleColour,
  unpublish,
  upstream,
  wouldCircle,
} from './edits';
import { MasterMaterials } from './material';
import { NO_CONTEXT } from './step';
import { NAMED, identifierOf, namesTaken, rename, uniqueName } from './names';

const copy = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T;
let count = 0;
const key = () => `k${count++}`;
const keyOf = (d: MasterDocument) => new MasterMaterials().of(d, NO_CONTEXT).problems;

/** A layer as people build one: twelve parameters in two groups, a switch, a published value, a frame. */
function layered(): MasterDocument {
  const d = makeMaster('Layered');
  d.groups = { g: { order: 1, name: 'Moss' }, h: { order: 2, name: 'Moss seam' } };
  d.frames = { f: { order: 1, name: 'Moss', folded: false } };
  d.switches = { s: { order: 1, name: 'moss on', group: 'g', help: '', on: true } };
  d.operations['n'] = makeOperation('fractal2d', 1, { name: 'moss pattern', frame: 'f' });
  d.operations['m'] = makeOperation('remap', 2, { name: 'moss range', frame: 'f', inputs: { in: linkTo('n') } });
  d.operations['h'] = makeOperation('hsvadjust', 3, { name: 'moss colour', frame: 'f', inputs: { in: { from: 'published', published: 'p' } } });
  d.operations['w'] = makeOperation('switch', 4, { frame: 'f', settings: { switch: 's' }, inputs: { on: linkTo('h') } });
  d.published = { p: { order: 1, name: 'moss spread', operation: 'm', port: 'out' } };
  const ports: [string, string][] = [
    ['n', 'period'],
    ['n', 'seed'],
    ['n', 'octaves'],
    ['m', 'inlow'],
    ['m', 'inhigh'],
    ['m', 'outlow'],
    ['m', 'outhigh'],
    ['h', 'amount'],
    ['w', 'off'],
  ];
  ports.forEach(([operation, port], i) => toParameter(d, { operation, port }, `p${i}`, { group: i < 5 ? 'g' : 'h' }));
  for (let i = 9; i < 12; i++) {
    d.operations[`x${i}`] = makeOperation('multiply', i, { frame: 'f', inputs: { in1: linkTo('m') } });
    toParameter(d, { operation: `x${i}`, port: 'in2' }, `p${i}`, { name: `moss gain ${i}` });
  }
  d.outputs.baseColor = linkTo('w');
  return d;
}
const collisions = (d: MasterDocument): string[] =>
  NAMED.flatMap((kind) => {
    const kinds = kind === 'parameters' ? (['parameters', 'switches', 'published'] as const) : ([kind] as const);
    const names = kinds.flatMap((k) => Object.values(d[k]).flatMap(({ name }) => (name ? [identifierOf(name)] : [])));
    return names.filter((n, i) => names.indexOf(n) !== i);
  });

describe('names', () => {
  it('never collide, whatever is wanted', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.string({ maxLength: 12 }), fc.constantFrom('tint', 'Tint', 'tint 2', 'tint-2', ' tint ', 'ö', '漢')), { maxLength: 30 }),
        (wanted) => {
          const taken = new Set<string>();
          const got = wanted.map((w) => uniqueName(w, taken));
          expect(new Set(got.map(identifierOf)).size).toBe(got.length);
          for (const name of got) {
            expect(name.length).toBeGreaterThan(0);
            expect(name.length).toBeLessThanOrEqual(200);
          }
        },
      ),
    );
    expect(uniqueName('moss tint', new Set(['moss_tint']))).toBe('moss tint 2');
    expect(uniqueName('moss tint 2', new Set(['moss_tint', 'moss_tint_2']))).toBe('moss tint 3');
    expect(uniqueName('x'.repeat(500), new Set()).length).toBe(200);
  });
  it('are shared by parameters, switches and published values, which a target tells apart by nothing else', () => {
    const d = layered();
    expect(rename(d, 'parameters', 'p0', 'moss on')).toBe('moss on 2');
    expect(rename(d, 'groups', 'h', 'Moss')).toBe('Moss 2');
    expect(rename(d, 'parameters', 'p0', 'grain')).toBe('grain');
    expect(rename(d, 'parameters', 'p0', 'Grain')).toBe('Grain');
    expect(rename(d, 'parameters', 'p0', '   ')).toBe('Grain');
  });
});

describe('a copy of a layer', () => {
  it('has no name in common with the first, and nothing has to be renamed by hand', () => {
    const d = layered();
    expect(Object.keys(d.parameters).length).toBe(12);
    expect(collisions(d)).toEqual([]);
    const before = copy(d);
    const { operations, renamed } = putClip(d, clipOf(d, Object.keys(d.operations)), key);
    expect(operations.length).toBe(Object.keys(before.operations).length);
    expect(collisions(d)).toEqual([]);
    expect(Object.keys(d.parameters).length).toBe(24);
    // Every name that changed is said, before and after, and no other.
    for (const { kind, id, before: was, after } of renamed) {
      expect(d[kind][id].name).toBe(after);
      expect(Object.values(before[kind]).map((e) => e.name)).toContain(was);
    }
    expect(renamed.length).toBe(12 + 2 + 1 + 1 + 1 + 3);
    // The first layer is as it was.
    for (const kind of NAMED) for (const [id, entry] of Object.entries(before[kind])) expect(d[kind][id]).toEqual(entry as never);
    // Linked within itself: nothing of it follows the first.
    const own = new Set(operations);
    for (const id of operations)
      for (const source of Object.values(d.operations[id].inputs)) {
        if (source.from === 'link') expect(own.has(source.operation)).toBeTrue();
        if (source.from === 'parameter') expect(before.parameters[source.parameter]).toBeUndefined();
        if (source.from === 'published') expect(own.has(d.published[source.published].operation)).toBeTrue();
      }
    expect(keyOf(d)).toEqual([]);
  });
  it('goes as text to another master and keeps working there; links to what is not there are let go of', () => {
    const d = layered();
    const text = clipText(clipOf(d, ['h', 'w']));
    const other = makeMaster('Other');
    const clip = readClip(text)!;
    const { operations } = putClip(other, clip, key);
    expect(operations.length).toBe(2);
    expect(Object.keys(other.parameters).length).toBe(2);
    expect(Object.values(other.operations).map((o) => Object.keys(o.inputs).sort())).toEqual([['amount'], ['off', 'on']]);
    expect(keyOf(other)).toEqual([]);
    for (const wrong of ['', '{', '[]', 'null', '{"pebble":"operations"}', '{"pebble":"other","version":1}']) expect(readClip(wrong)).toBeNull();
  });
});

describe('edits', () => {
  const chain = () =>
    makeMaster('Chain', {
      operations: {
        a: makeOperation('fractal2d', 1),
        b: makeOperation('smoothstep', 2, { inputs: { in: linkTo('a'), low: valueOf(0.2) } }),
        c: makeOperation('multiply', 3, { inputs: { in1: linkTo('b'), in2: linkTo('a') } }),
      },
      outputs: { roughness: linkTo('c') },
    });
  it('take an operation away and leave what it fed on what fed it', () => {
    const d = chain();
    removeOperations(d, ['b']);
    expect(d.operations['c'].inputs).toEqual({ in1: linkTo('a'), in2: linkTo('a') });
    removeOperations(d, ['c']);
    expect(d.outputs.roughness).toEqual(linkTo('a'));
    removeOperations(d, ['a']);
    expect(d.outputs).toEqual({});
  });
  it('put an operation into a link, and after one', () => {
    const d = chain();
    insertStep(d, { operation: 'c', port: 'in1' }, 'invert', 'i');
    expect(d.operations['i'].inputs).toEqual({ in: linkTo('b') });
    expect(sourceAt(d, { operation: 'c', port: 'in1' })).toEqual(linkTo('i'));
    expect(appendStep(d, { operation: 'c', port: 'out' }, 'mix', 'm')).toBe('bg');
    insertStep(d, { operation: '', port: 'roughness' }, 'clamp', 'e');
    expect(d.outputs.roughness).toEqual(linkTo('e'));
    expect(keyOf(d)).toEqual([]);
  });
  it('put steps on surfaces where surfaces go', () => {
    const d = makeMaster('S', { operations: { s: makeOperation('makesurface', 1) }, outputs: { surface: linkTo('s') } });
    insertStep(d, { operation: '', port: 'surface' }, 'tint', 't');
    insertStep(d, { operation: '', port: 'surface' }, 'crossover', 'x');
    expect(d.operations['x'].inputs).toEqual({ below: linkTo('t') });
    removeOperations(d, ['x']);
    expect(d.outputs.surface).toEqual(linkTo('t'));
  });
  it('replace a step and keep its links, by name and then by order', () => {
    const d = chain();
    replaceStep(d, 'b', 'remap');
    expect(sourceAt(d, { operation: 'b', port: 'in' })).toEqual(linkTo('a'));
    replaceStep(d, 'c', 'mix');
    expect(d.operations['c'].inputs).toEqual({ bg: linkTo('b'), fg: linkTo('a') });
    expect(d.outputs.roughness).toEqual(linkTo('c'));
    expect(keyOf(d)).toEqual([]);
  });
  it('make a parameter of a constant and a constant of a parameter, the picture being the same', () => {
    const d = chain();
    const values = (m: MasterDocument) => {
      const material = new MasterMaterials().of(m, NO_CONTEXT);
      return Object.values(material.values)
        .map((v) => v.join())
        .sort();
    };
    const before = values(d);
    expect(toParameter(d, { operation: 'b', port: 'low' }, 'p')).toBe('in1 low'.replace('in1', 'smoothstep'));
    expect(d.operations['b'].inputs['low']).toEqual({ from: 'parameter', parameter: 'p' });
    expect(values(d)).toEqual(before);
    removeParameter(d, 'p');
    expect(sourceAt(d, { operation: 'b', port: 'low' })).toEqual(valueOf(0.2));
    expect(values(d)).toEqual(before);
  });
  it('propose a name from where a constant is used', () => {
    const d = chain();
    expect(proposedName(d, { operation: 'a', port: 'octaves' })).toBe('octaves');
    expect(proposedName(d, { operation: 'c', port: 'in2' })).toBe('roughness in2');
    d.operations['b'].name = 'wear';
    expect(proposedName(d, { operation: 'b', port: 'low' })).toBe('wear low');
    expect(proposedName(d, { operation: 'x', port: 'layers.moss.seam.liftM' })).toBe('lift');
  });
  it('publish a value and read it back as links when it is withdrawn', () => {
    const d = chain();
    d.operations['a'].name = 'pattern';
    expect(publish(d, { operation: 'a', port: 'out' }, 'p')).toBe('pattern');
    d.operations['c'].inputs['in2'] = { from: 'published', published: 'p' };
    unpublish(d, 'p');
    expect(sourceAt(d, { operation: 'c', port: 'in2' })).toEqual(linkTo('a'));
    expect(d.published).toEqual({});
  });
  it('remove a switch and keep what it chose', () => {
    const d = layered();
    removeSwitch(d, 's');
    expect(d.outputs.baseColor).toEqual(linkTo('h'));
    expect(d.switches).toEqual({});
  });
  it('start on a surface or a blend, all of which goes to the outputs', () => {
    for (const kind of ['surface', 'blend'] as const) {
      const d = makeMaster('New');
      startFrom(d, kind, 'stone', 'first');
      expect(d.operations['first']).toEqual(jasmine.objectContaining({ step: kind, settings: { [kind]: 'stone' } }));
      expect(d.outputs).toEqual({ surface: linkTo('first') });
    }
  });
  it('turn a number into a colour where a port takes either, and back', () => {
    const d = makeMaster('M', { operations: { m: makeOperation('mix', 1), r: makeOperation('remap', 2) } });
    const port = { operation: 'm', port: 'fg' };
    const before = numbersAt(d, port)![0];
    expect(toggleColour(d, port)).toBeTrue();
    expect(numbersAt(d, port)).toEqual([before, before, before]);
    expect(toggleColour(d, port)).toBeTrue();
    expect(numbersAt(d, port)).toEqual([before]);
    d.operations['m'].inputs['fg'] = linkTo('r');
    expect(toggleColour(d, port)).toBeFalse();
    expect(d.operations['m'].inputs['fg']).toEqual(linkTo('r'));
  });
  it('frame operations, and let the frame go without them', () => {
    const d = layered();
    const name = frameOf(d, ['n', 'x9'], 'new', 'moss');
    expect(name).toBe('moss 2');
    expect(d.frames['new'].order).toBe(2);
    expect([d.operations['n'].frame, d.operations['x9'].frame, d.operations['m'].frame]).toEqual(['new', 'new', 'f']);
    removeFrame(d, 'new');
    expect(d.frames['new']).toBeUndefined();
    expect(d.operations['n'].frame).toBeNull();
    removeOperations(d, Object.keys(d.operations));
    expect(d.frames).toEqual({});
  });
  it('know what feeds an operation, the nearest first, published values as well', () => {
    expect(upstream(layered(), 'w')).toEqual(['h', 'm', 'n']);
  });
  it('know what would go in a circle', () => {
    const d = chain();
    expect(wouldCircle(d, 'c', 'a')).toBeTrue();
    expect(wouldCircle(d, 'a', 'c')).toBeFalse();
    expect(wouldCircle(d, 'a', 'a')).toBeTrue();
    expect(wouldCircle(d, 'a', '')).toBeFalse();
  });
  it('find every place that a port feeds', () => {
    const d = chain();
    expect(placesFed(d, 'a')).toEqual([
      { operation: 'b', port: 'in' },
      { operation: 'c', port: 'in2' },
    ]);
    expect(placesFed(d, 'c')).toEqual([{ operation: '', port: 'roughness' }]);
  });
  it('leave names free again that are given up', () => {
    const d = layered();
    expect(namesTaken(d, 'parameters').has('octaves') || namesTaken(d, 'parameters').has('moss_pattern_octaves')).toBeTrue();
    removeParameter(d, 'p2');
    expect(namesTaken(d, 'parameters').has('moss_pattern_octaves')).toBeFalse();
  });
});

describe('numbers of a blend', () => {
  it('are all found where the blend keeps them, and moving any of them moves what is evaluated or how it is laid', () => {
    const blend = makeBlend('Ground', {
      layers: {
        low: makeLayer({ kind: 'constant', baseColor: '#804020', roughness: 0.7, metallic: 0, heightM: 0 }, 'Low', 1),
        wet: makeLayer({ kind: 'water', ...DEFAULT_WATER }, 'Puddle', 2, { coverage: { c: makeCue('noise') } }),
      },
    });
    const places = blendPlaces(blend);
    expect(places.length).toBeGreaterThan(30);
    expect(new Set(places.map((p) => p.path)).size).toBe(places.length);
    const context = { ...NO_CONTEXT, blends: { g: blend } };
    const d = makeMaster('M', { operations: { b: makeOperation('blend', 1, { settings: { blend: 'g' } }) }, outputs: { surface: linkTo('b') } });
    const before = new MasterMaterials().of(d, context);
    const still: string[] = [];
    for (const place of places) {
      const with1 = copy(d);
      const holds = copy(place.holds);
      if (holds.kind === 'number') holds.value = [holds.value[0] === holds.high ? holds.low : holds.high];
      if (holds.kind === 'colour') holds.value = '#123456';
      toParameter(with1, { operation: 'b', port: place.path }, 'p', { holds });
      const after = new MasterMaterials().of(with1, context);
      expect(after.problems).withContext(place.path).toEqual([]);
      if (JSON.stringify(after.values) === JSON.stringify(before.values) && after.key === before.key) still.push(place.path);
    }
    expect(still).toEqual([]);
  });
  it('are called by what they are, under the layer that has them; what layers share stands once', () => {
    const cue = { c: makeCue('noise', { sizeM: 0.3 }) };
    const blend = makeBlend('Ground', {
      layers: {
        low: makeLayer('s', 'Stone', 1),
        mid: makeLayer('m', 'Moss', 2, { shared: 'damp', group: 'g' }),
        top: makeLayer('l', 'Lichen', 3, { shared: 'damp' }),
      },
      groups: { g: { name: 'Growth', on: true, coverage: { c: makeCue('slope') } } },
      coverages: { damp: { name: 'Damp', coverage: cue } },
    });
    const places = blendPlaces(blend);
    const called = (path: string) => places.flatMap((p) => (p.path === path ? [`${p.layer}: ${p.label}`] : []));
    expect(called('layers.mid.seam.broken.byM')).toEqual(['Moss: broken by']);
    expect(called('layers.top.seam.liftM')).toEqual(['Lichen: lift']);
    expect(called('coverages.damp.coverage.c.sizeM')).toEqual(['Lichen: noise, size']);
    expect(called('groups.g.coverage.c.centre')).toEqual(['Growth: slope, centre']);
    // Which picture, which seed and in which order is not how much.
    expect(places.filter((p) => /\.(order|seed|octaves|channel|set)$/.test(p.path))).toEqual([]);
    const lift = places.find((p) => p.path === 'layers.top.seam.liftM')?.holds;
    expect(lift).toEqual(jasmine.objectContaining({ kind: 'number', value: [0], low: -0.05, high: 0.05, unit: 'm' }));
    expect(places.find((p) => p.path === 'coverages.damp.coverage.c.sizeM')?.holds).toEqual(
      jasmine.objectContaining({ value: [0.3], low: 0.001, high: 1.2, unit: 'm' }),
    );
  });
});
