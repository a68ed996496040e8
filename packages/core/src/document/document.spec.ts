import * as fc from 'fast-check';
import {
  EditConflict,
  applyPatch,
  between,
  copyLayerInto,
  editBetween,
  inOrder,
  makeBlend,
  makeCue,
  makeEdit,
  makeLayer,
  textureBytes,
} from '../index';

describe('edits', () => {
  const json = fc.dictionary(
    fc.stringMatching(/^[a-z~/]{1,4}$/),
    fc.oneof(
      fc.integer(),
      fc.string({ maxLength: 4 }),
      fc.array(fc.integer(), { maxLength: 3 }),
      fc.dictionary(fc.stringMatching(/^[a-z]{1,2}$/), fc.boolean(), { maxKeys: 3 }),
    ),
    { maxKeys: 5 },
  );
  it('lead from any state to any other and back', () => {
    fc.assert(
      fc.property(json, json, (before, after) => {
        const edit = editBetween(before, after, 'Change');
        const reached = applyPatch(before, edit.patch);
        expect(reached).toEqual(after);
        expect(applyPatch(reached, edit.inverse)).toEqual(before);
      }),
    );
  });
  it('touch only what changed and leave the given document alone', () => {
    const blend = { layers: { a: makeLayer('s', 'Stone', 1), b: makeLayer('m', 'Moss', 2) } };
    const copy = JSON.stringify(blend);
    const edit = makeEdit(blend, 'Lift moss', (d) => {
      d.layers.b.seam.liftM = 0.004;
    });
    expect(edit.patch).toEqual([{ op: 'replace', path: '/layers/b/seam/liftM', value: 0.004 }]);
    expect(edit.inverse).toEqual([{ op: 'replace', path: '/layers/b/seam/liftM', value: 0 }]);
    expect(JSON.stringify(blend)).toBe(copy);
  });
  it('that do not fit name the place', () => {
    expect(() => applyPatch({ a: 1 }, [{ op: 'replace', path: '/b/c', value: 1 }])).toThrowMatching(
      (e) => e instanceof EditConflict && e.path === '/b/c',
    );
    expect(() => applyPatch({}, [{ op: 'add', path: '/__proto__/x', value: 1 }])).toThrowError(EditConflict);
  });
  it('keep collections in order and find a place between any two', () => {
    const items = { a: { order: 2 }, b: { order: 1 }, c: { order: between(1, 2) } };
    expect(inOrder(items).map((i) => i.id)).toEqual(['b', 'c', 'a']);
    expect([between(undefined, undefined), between(3, undefined), between(undefined, 3)]).toEqual([1, 4, 2]);
  });
});

describe('texture memory', () => {
  it('is the sum of the levels in whole blocks', () => {
    expect(textureBytes(4, 4, 'RGBA8')).toBe(4 * (16 + 4 + 1));
    expect(textureBytes(2048, 2048, 'BC7')).toBe(5592432);
    expect(textureBytes(6, 2, 'BC1')).toBe(8 * (2 + 1 + 1));
    expect(textureBytes(1024, 1024, 'BC4', 1)).toBe(textureBytes(512, 512, 'BC4'));
  });
});

describe('copying a layer to another blend', () => {
  const from = makeBlend('From', {
    layers: {
      ground: makeLayer('stone', 'Stone', 1),
      moss: makeLayer('moss', 'Moss', 2, { group: 'g', shared: 'c', solo: true, coverage: { own: makeCue('slope') } }),
    },
    groups: { g: { name: 'Wet', on: true, coverage: { low: makeCue('low') } } },
    coverages: { c: { name: 'Shade', coverage: { n: makeCue('noise') } } },
  });
  it('brings the coverage that counts, its group, and lies on top', () => {
    const into = makeBlend('Into', { layers: { a: makeLayer('clay', 'Clay', 7) } });
    copyLayerInto(into, from, 'moss', 'k1');
    expect(inOrder(into.layers).map((l) => l.name)).toEqual(['Clay', 'Moss']);
    expect(into.layers['k1']).toEqual(jasmine.objectContaining({ shared: null, solo: false, group: 'k1', coverage: { n: makeCue('noise') } }));
    expect(into.groups['k1'].coverage).toEqual({ low: makeCue('low') });
    // What is changed there stays there.
    into.layers['k1'].seam.soft = 0.9;
    into.groups['k1'].name = 'Dry';
    expect(from.layers['moss'].seam.soft).not.toBe(0.9);
    expect(from.groups['g'].name).toBe('Wet');
  });
});
