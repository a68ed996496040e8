import { linkTo, makeMaster, makeOperation } from '../document';
import type { MasterDocument, ParameterContent } from '../document';
import { NOTHING, graph, outputOf } from '../testing/graphs';
import { removeParameter } from './edits';
import { MasterMaterials } from './material';
import { rename } from './names';
import { addVariant, asVariant, bringBack, compilesAnew, inherit, leftovers, nextVariant, setIn, setInVariant } from './variants';

const number = (value: number, over: object = {}): ParameterContent => ({ kind: 'number', value: [value], low: 0, high: 1, unit: '', ...over });
const parameter = (order: number, name: string, holds: ParameterContent) => ({ order, name, group: null, help: '', holds });
const follow = (id: string) => ({ from: 'parameter' as const, parameter: id });

function base(): MasterDocument {
  const d = graph(
    {
      m: makeOperation('multiply', 1, { inputs: { in1: follow('a'), in2: follow('b') } }),
      t: makeOperation('luminance', 2, { inputs: { in: follow('c') } }),
    },
    { roughness: linkTo('m'), metallic: linkTo('t') },
    {
      parameters: {
        a: parameter(1, 'Wear', number(0.5)),
        b: parameter(2, 'Gloss', number(0.5)),
        c: parameter(3, 'Tint', { kind: 'colour', value: '#ffffff' }),
      },
      switches: { s: { order: 1, name: 'Detail', group: null, help: '', on: true } },
    },
  );
  addVariant(d, 'old', 'Old');
  setInVariant(d, 'old', 'a', number(0.8));
  setInVariant(d, 'old', 'c', { kind: 'colour', value: '#102030' });
  setInVariant(d, 'old', 's', false);
  return d;
}
const roughness = (d: MasterDocument) => outputOf(d, 'roughness', 1)[0][0];

describe('variants', () => {
  it('set some values and inherit the rest; cleared, they inherit again', () => {
    const d = base();
    expect(roughness(d)).toBeCloseTo(0.25, 6);
    expect(roughness(asVariant(d, 'old'))).toBeCloseTo(0.4, 6);
    (d.parameters['b'].holds as { value: number[] }).value = [1];
    expect(roughness(asVariant(d, 'old'))).toBeCloseTo(0.8, 6);
    inherit(d, 'old', 'a');
    expect(roughness(asVariant(d, 'old'))).toBeCloseTo(0.5, 6);
    expect(asVariant(d, null)).toBe(d);
    expect(asVariant(d, 'gone')).toBe(d);
  });
  it('compile nothing anew unless a switch differs', () => {
    const d = base();
    const materials = new MasterMaterials();
    materials.of(d, NOTHING);
    materials.of(asVariant(d, 'old'), NOTHING);
    // The switch decides nothing in this graph.
    expect(materials.lowered).toBe(1);
    expect(compilesAnew(d, null, 'old')).toBeTrue();
    inherit(d, 'old', 's');
    expect(compilesAnew(d, null, 'old')).toBeFalse();
  });
  it('keep what they set whatever happens to a parameter: renamed, regrouped, moved, removed and brought back', () => {
    const d = base();
    rename(d, 'parameters', 'a', 'Abrasion');
    d.groups['g'] = { order: 1, name: 'Worn' };
    Object.assign(d.parameters['a'], { group: 'g', order: 9 });
    expect(roughness(asVariant(d, 'old'))).toBeCloseTo(0.4, 6);
    removeParameter(d, 'a');
    expect(d.variants['old'].values['a'].holds).toEqual(number(0.8));
    expect(leftovers(d, 'old')).toEqual([{ id: 'a', name: 'Wear', why: 'gone', holds: number(0.8) }]);
    // The picture is that of the graph without it.
    expect(new MasterMaterials().of(asVariant(d, 'old'), NOTHING).problems).toEqual([]);
    bringBack(d, 'old', 'a');
    expect(d.parameters['a'].name).toBe('Wear');
    d.operations['m'].inputs['in1'] = follow('a');
    expect(leftovers(d, 'old')).toEqual([]);
    expect(roughness(asVariant(d, 'old'))).toBeCloseTo(0.4, 6);
  });
  it('keep, and mark, a value of a parameter that became something else', () => {
    const d = base();
    d.parameters['a'].holds = { kind: 'colour', value: '#808080' };
    expect(leftovers(d, 'old').map((l) => [l.id, l.why])).toEqual([['a', 'other kind']]);
    expect(asVariant(d, 'old').parameters['a'].holds).toEqual({ kind: 'colour', value: '#808080' });
    d.parameters['a'].holds = number(0.1, { high: 4 });
    expect(asVariant(d, 'old').parameters['a'].holds).toEqual(number(0.8, { high: 4 }));
  });
  it('have with its default what is added later', () => {
    const d = base();
    d.parameters['n'] = parameter(4, 'Dust', number(0.3));
    expect(asVariant(d, 'old').parameters['n'].holds).toEqual(number(0.3));
    expect(setIn(d, 'n')).toEqual({ set: 0, all: 1 });
    expect(setIn(d, 'a')).toEqual({ set: 1, all: 1 });
  });
  it('have names of their own, are copied by value, and are gone through in a ring with the master', () => {
    const d = base();
    expect(addVariant(d, 'two', 'Old', 'old')).toBe('Old 2');
    setInVariant(d, 'two', 'a', number(0.1));
    expect(d.variants['old'].values['a'].holds).toEqual(number(0.8));
    const order: (string | null)[] = [];
    for (let at: string | null = null, i = 0; i < 4; i++) order.push((at = nextVariant(d, at, 1)));
    expect(order).toEqual(['old', 'two', null, 'old']);
    expect(nextVariant(d, null, -1)).toBe('two');
    expect(nextVariant(makeMaster('Bare'), null, 1)).toBeNull();
  });
});
