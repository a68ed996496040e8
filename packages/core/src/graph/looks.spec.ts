import type { CarriedDag, DagNode, Values } from '../compile';
import { Builder, carried, evaluate, flatDomain, optimise, topological, uncarried } from '../compile';
import { linkTo, makeOperation, valueOf } from '../document';
import { liveProgram, materialPrice } from '../material';
import { NOTHING, graph, noSources } from '../testing/graphs';
import { PROBE_COLOUR, histogramOf, plotOf, probedGraph, reachShare, shownChannel, shownGraph, stepLooks, stepValue, workedOut } from './looks';
import { MasterMaterials, lowerMaster } from './material';
import { operationPrices } from './price';

describe('looks', () => {
  const over = (side: number, values: Values) => ({ values, sources: noSources, domain: flatDomain(side, side) });
  const gauge = graph(
    {
      mask: makeOperation('extract', 1, { inputs: { in: linkTo('uv') } }),
      uv: makeOperation('texcoord', 0),
      less: makeOperation('subtract', 2, { inputs: { in1: linkTo('mask'), in2: { from: 'parameter', parameter: 'level' } } }),
      steep: makeOperation('multiply', 3, { inputs: { in1: linkTo('less'), in2: valueOf(10) } }),
      lit: makeOperation('clamp', 4, { inputs: { in: linkTo('steep') } }),
    },
    { roughness: linkTo('lit') },
    {
      parameters: { level: { order: 1, name: 'level', group: null, help: '', holds: { kind: 'number', value: [0.75], low: 0, high: 1, unit: '' } } },
    },
  );
  const lowered = lowerMaster(gauge, NOTHING);
  const { values } = new MasterMaterials().of(gauge, NOTHING);
  it('say of every step what it gives and how much of it leaves 0–1', () => {
    const looks = stepLooks(lowered, over(20, values), { mask: 'out', steep: 'out', lit: 'out' });
    expect(looks.get('mask')!.lo).toBeCloseTo(0.025, 5);
    expect(looks.get('steep')!.lo).toBeCloseTo(-7.25, 4);
    // u < 0.75 and u > 0.85: 15 and 3 of 20 columns.
    expect(looks.get('steep')!.outside).toBeCloseTo(0.9, 5);
    expect(looks.get('lit')!.outside).toBe(0);
  });
  it('plot a step against what feeds it from afar, everything else as it is', () => {
    const along = { operation: 'mask', port: 'out' };
    const plot = plotOf(
      lowered,
      {
        curves: [
          { operation: 'lit', port: 'out' },
          { operation: 'steep', port: 'out' },
          { operation: 'uv', port: 'out' },
        ],
        along,
        from: 0,
        to: 1,
        at: [0.5, 0.5],
        points: 101,
      },
      over(96, values),
    );
    plot.x.forEach((x, i) => {
      expect(plot.curves[0]!.planes[0][i]).toBeCloseTo(Math.min(1, Math.max(0, (x - 0.75) * 10)), 4);
      expect(plot.curves[1]!.planes[0][i]).toBeCloseTo((x - 0.75) * 10, 4);
    });
    expect(plot.curves.map((c) => c!.follows)).toEqual([true, true, false]);
    expect(plot.occurs!.from).toBeCloseTo(0.01, 1);
    expect(plot.occurs!.bins.reduce((a, n) => a + n, 0)).toBe(96 * 96);
  });
  it('plot against a parameter', () => {
    const plot = plotOf(
      lowered,
      { curves: [{ operation: 'lit', port: 'out' }], along: { value: 'plevel' }, from: 0, to: 1, at: [0.5, 0.5], points: 11 },
      over(96, values),
    );
    plot.x.forEach((x, i) => expect(plot.curves[0]!.planes[0][i]).toBeCloseTo(Math.min(1, Math.max(0, (0.5 - x) * 10)), 4));
  });
  it('count how often numbers occur, and where all but a hundredth at either end are', () => {
    const found = histogramOf(
      Float32Array.from({ length: 101 }, (_, i) => (100 - i) / 100),
      4,
    );
    expect([found.lo, found.hi]).toEqual([0, 1]);
    // 0–0.24, 0.25–0.49, 0.5–0.74, 0.75–1.
    expect(found.bins).toEqual([25, 25, 25, 26]);
    expect(found.from).toBeCloseTo(0.01, 6);
    expect(found.to).toBeCloseTo(0.99, 6);
    expect(histogramOf(new Float32Array(5).fill(3)).bins[0]).toBe(5);
  });
  it('show numbers in the channel of normals as they are, and a surface as itself', () => {
    const b = graph(
      {
        colour: makeOperation('combine3', 1, { inputs: { in1: valueOf(0.2), in2: valueOf(1.7), in3: valueOf(-0.4) } }),
        one: makeOperation('multiply', 2, { inputs: { in1: valueOf(0.5), in2: valueOf(0.5) } }),
        stone: makeOperation('makesurface', 3, { inputs: { roughness: valueOf(0.3) } }),
      },
      { roughness: linkTo('one') },
    );
    const low = lowerMaster(b, NOTHING);
    const { values: own } = new MasterMaterials().of(b, NOTHING);
    const seen = (id: string, output: 'normal' | 'roughness') => {
      const { outputs } = shownGraph(low.far, stepValue(low, id, 'out')!);
      return evaluate(optimise({ x: outputs[output] }).outputs, { domain: flatDomain(2, 2), values: own, sources: noSources })['x'].map((p) => p[0]);
    };
    // The stage draws (x + 1) / 2 of this channel.
    const drawn = (x: number) => (x + 1) / 2;
    seen('colour', 'normal').forEach((x, c) => expect(drawn(x)).toBeCloseTo([0.2, 1, 0][c], 6));
    expect(shownChannel(stepValue(low, 'one', 'out')!)).toBe('normal');
    seen('one', 'normal').forEach((x) => expect(drawn(x)).toBeCloseTo(0.25, 6));
    expect(shownChannel(stepValue(low, 'stone', 'out')!)).toBe('lit');
    expect(seen('stone', 'roughness')[0]).toBeCloseTo(0.3, 6);
  });
  it('paint the probe where a step reaches, and leave the rest as it is', () => {
    const masked = graph(
      {
        uv: makeOperation('texcoord', 0),
        u: makeOperation('extract', 1, { inputs: { in: linkTo('uv') } }),
        inside: makeOperation('step', 2, { inputs: { edge: valueOf(0.5), in: linkTo('u') } }),
        dye: makeOperation('combine3', 3, { inputs: { in1: valueOf(0.2), in2: valueOf(0.4), in3: valueOf(0.1) } }),
        mixed: makeOperation('mix', 4, { inputs: { bg: valueOf(0.5), fg: linkTo('dye'), mix: linkTo('inside') } }),
      },
      { baseColor: linkTo('mixed') },
    );
    const low = lowerMaster(masked, NOTHING);
    const { values: own } = new MasterMaterials().of(masked, NOTHING);
    const { outputs } = probedGraph(low.far, stepValue(low, 'dye', 'out')!);
    const planes = evaluate(optimise({ x: outputs.baseColor }).outputs, { domain: flatDomain(4, 1), values: own, sources: noSources })['x'];
    const at4 = (i: number) => planes.map((p) => Number(p[i].toFixed(4)));
    expect(at4(0)).toEqual([0.5, 0.5, 0.5]);
    expect(at4(3)).toEqual([...PROBE_COLOUR]);
  });
  it('say what each operation adds: nothing where it only hands on, less than the whole', () => {
    const low = lowerMaster(gauge, NOTHING);
    const prices = operationPrices(low, values, (id) =>
      Object.values(gauge.operations[id].inputs).flatMap((s) => (s.from === 'link' ? [s.operation] : [])),
    );
    expect(prices['uv']).toEqual({ samples: 0, operations: 0 });
    expect(prices['mask']).toEqual({ samples: 0, operations: 0 });
    for (const id of ['less', 'steep', 'lit']) expect(prices[id].operations).withContext(id).toBeGreaterThan(0);
    const sum = Object.values(prices).reduce((n, p) => n + p.operations, 0);
    const whole = materialPrice(new MasterMaterials().of(gauge, NOTHING)).operations;
    expect(whole).toBeGreaterThanOrEqual(sum);
  });
  it('are had of as many steps in a row as a master may have', () => {
    const many = 598;
    // Each step many nodes deep.
    const text = `in vec4 x; ${'fract('.repeat(12)}x * k${')'.repeat(12)}`;
    const deep = Object.fromEntries(
      Array.from({ length: many }, (_, i) => [
        `s${i}`,
        makeOperation('formula', i + 2, { settings: { text }, inputs: { x: i ? linkTo(`s${i - 1}`) : linkTo('c'), k: valueOf(3) } }),
      ]),
    );
    const deeper = graph({ c: makeOperation('geomcolor', 1), ...deep }, { roughness: linkTo('pick') });
    deeper.operations['pick'] = makeOperation('extract', 700, { inputs: { in: linkTo(`s${many - 1}`) } });
    expect(liveProgram(new MasterMaterials().of(deeper, NOTHING), false, 0).glsl.source.length).toBeGreaterThan(12 * many * 20);
    const row = Object.fromEntries(
      Array.from({ length: many }, (_, i) => [
        `s${i}`,
        makeOperation('remap', i + 2, { inputs: { in: i ? linkTo(`s${i - 1}`) : linkTo('c'), inhigh: valueOf(1, 1, 1, 0.5 + i / 1000) } }),
      ]),
    );
    const last = `s${many - 1}`;
    const d = graph(
      { c: makeOperation('geomcolor', 1), ...row, pick: makeOperation('extract', 700, { inputs: { in: linkTo(last) } }) },
      { roughness: linkTo('pick') },
    );
    const material = new MasterMaterials().of(d, NOTHING);
    expect(material.problems).toEqual([]);
    expect(materialPrice(material).operations).toBeGreaterThan(many);
    expect(material.bounds.hi).toBeGreaterThan(material.bounds.lo);
    expect(liveProgram(material, false, 0).glsl.source).toContain('pb_evaluate');
    const low = lowerMaster(d, NOTHING);
    expect(low.steps.size).toBe(many + 2);
    expect(stepLooks(low, over(4, material.values), { [last]: 'out' }).size).toBe(1);
    expect(
      plotOf(
        low,
        { curves: [{ operation: 'pick', port: 'out' }], along: { operation: 's0', port: 'out' }, from: 0, to: 1, at: [0.5, 0.5], points: 4 },
        over(4, material.values),
      ).curves[0]!.follows,
    ).toBeTrue();
    expect(reachShare(low.far, stepValue(low, 's0', 'out')!, over(4, material.values))).toBeGreaterThanOrEqual(0);
    expect(Object.keys(operationPrices(low, material.values, () => [])).length).toBe(many + 2);
    expect(workedOut(low, ['c', last]).outputs.baseColor.type).toBe('vec3');
  });
  it('measure what a step reaches', () => {
    const masked = graph(
      {
        uv: makeOperation('texcoord', 0),
        u: makeOperation('extract', 1, { inputs: { in: linkTo('uv') } }),
        inside: makeOperation('step', 2, { inputs: { edge: valueOf(0.75), in: linkTo('u') } }),
        dye: makeOperation('combine3', 3, { inputs: { in1: valueOf(0.2), in2: valueOf(0.4), in3: valueOf(0.1) } }),
        mixed: makeOperation('mix', 4, { inputs: { bg: valueOf(0.5), fg: linkTo('dye'), mix: linkTo('inside') } }),
      },
      { baseColor: linkTo('mixed') },
    );
    const low = lowerMaster(masked, NOTHING);
    const { values: own } = new MasterMaterials().of(masked, NOTHING);
    const share = (id: string) => reachShare(low.far, stepValue(low, id, 'out')!, over(64, own));
    expect(share('dye')).toBeCloseTo(0.25, 6);
    expect(share('mixed')).toBe(1);
    masked.operations['mixed'].inputs['mix'] = valueOf(0);
    const none = lowerMaster(masked, NOTHING);
    const { values: still } = new MasterMaterials().of(masked, NOTHING);
    expect(reachShare(none.far, stepValue(none, 'dye', 'out')!, over(16, still))).toBe(0);
  });
});

describe('nodes that go to another thread', () => {
  it('are the same there, shared as they were, however long a row they make', () => {
    const b = new Builder();
    let node: DagNode = b.texcoord();
    for (let i = 0; i < 9000; i++) node = b.node('fract', [b.add(node, b.value('k', 'float'))]);
    const there = uncarried(JSON.parse(JSON.stringify(carried([node, b.add(node, node)]))) as CarriedDag);
    const [one, twice] = there;
    expect(twice.args[0]).toBe(one);
    expect(twice.args[1]).toBe(one);
    const key = (roots: readonly DagNode[]) =>
      topological(roots).map(({ op, type, attrs, args }) => [op, type, JSON.stringify(attrs), args.length].join(' '));
    expect(key(there)).toEqual(key([node, b.add(node, node)]));
  });
});
