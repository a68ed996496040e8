import {
  SPECIMEN_MODELS,
  boundsOf,
  finerMesh,
  finerSpans,
  largestSlot,
  levelMesh,
  makeAsset,
  numbered,
  slotNames,
  slottedMesh,
  specimenMesh,
  specimenSlots,
  unmerged,
  withSpans,
} from '../index';
import { grid } from './mesh';

describe('the slots of an object', () => {
  const model = SPECIMEN_MODELS['copper-still'](1);
  it('are each laid by themselves: vertices stay where they are, coordinates count repetitions of what sits there', () => {
    expect(slotNames(model)).toEqual(['copper', 'pipe', 'iron']);
    const by: Record<string, number> = { copper: 1, pipe: 2, iron: 0.5 };
    const { mesh, spans } = slottedMesh(model.lods[0], (slot) => ({ set: 0, by: by[slot] }));
    const plain = levelMesh(model);
    expect(mesh.position).toEqual(plain.position);
    expect(mesh.index).toEqual(plain.index);
    for (const [slot, list] of Object.entries(spans))
      for (const [first, count] of list)
        for (const k of [first, first + count - 1])
          for (const c of [0, 1]) {
            const at = mesh.index[k] * 2 + c;
            expect(mesh.texcoord[at]).toBeCloseTo(plain.texcoord[at] / by[slot], 5);
          }
    // Body and lid share a slot; together the slots are the whole, each triangle once.
    expect(spans['copper'].length).toBe(2);
    const all = Object.values(spans).flat();
    expect(all.reduce((n, [, count]) => n + count, 0)).toBe(mesh.index.length);
    expect(
      withSpans(
        mesh,
        [...all].sort((a, b) => a[0] - b[0]),
      ).index,
    ).toEqual(mesh.index);
  });
  it('keep true size under blends of any extent, on things of their own size and on those as large as an extent', () => {
    const same = (name: 'copper-still' | 'patch') => {
      const made = SPECIMEN_MODELS[name](2.4);
      const { mesh } = specimenSlots(name, made, 2.4, () => ({ set: 0, by: 2.4 }));
      const want = specimenMesh(name, made, 2.4).texcoord;
      return Math.max(...mesh.texcoord.map((v, i) => Math.abs(v - want[i])));
    };
    expect(same('copper-still')).toBeLessThan(1e-5);
    expect(same('patch')).toBeLessThan(1e-5);
  });
  it('leave a merged mesh as the parts that they were', () => {
    const whole = levelMesh(model);
    const parts = unmerged(whole, model.lods[0].length);
    parts.forEach((part, i) => {
      const came = model.lods[0][i].mesh;
      expect(part.index.length).toBe(came.index.length);
      expect(boundsOf(part)).toEqual(boundsOf(came));
      const at = (m: typeof part, k: number) => [
        ...m.position.subarray(m.index[k] * 3, m.index[k] * 3 + 3),
        ...m.geomcolor.subarray(m.index[k] * 4, m.index[k] * 4 + 4),
      ];
      for (let k = 0; k < came.index.length; k += 97) expect(at(part, k)).toEqual(at(came, k));
    });
    expect(unmerged(whole, 6)[5].index.length).toBe(0);
  });
  it('are still theirs when the mesh is made finer', () => {
    const { mesh, spans } = slottedMesh(model.lods[0], () => ({ set: 0, by: 1 }));
    const finer = finerMesh(mesh);
    const [[first, count]] = finerSpans(spans['iron'], 1);
    // Parts have numbers, and the stand is the last one.
    for (const k of [first, first + count - 1]) expect(finer.part![finer.index[k]]).toBe(3);
    expect(first + count).toBe(finer.index.length);
  });
  it('of an asset begin with one blend on all of them', () => {
    const asset = makeAsset('Still', 'copper-still', slotNames(model), 'b1');
    expect(Object.values(asset.slots).map((s) => s.slot)).toEqual(['copper', 'pipe', 'iron']);
    expect(asset.slots['s2']).toEqual({ order: 2, slot: 'pipe', blend: 'b1', uvSet: 0, size: 1 });
  });
});

describe('the largest slot of a mesh', () => {
  it('is the one with most area, whatever the number of its triangles and the order of its parts', () => {
    const tile = (side: number, n: number) =>
      grid(
        n,
        n,
        (s, t) => ({ p: [s * side, 0, t * side], uv: [s, t] }),
        () => undefined,
      );
    const parts = [{ slot: 'small' }, { slot: 'two' }, { slot: 'big' }, { slot: 'two' }];
    expect(largestSlot(numbered([tile(1, 8), tile(1, 2), tile(1.3, 1), tile(1, 2)]), parts)).toEqual({ slot: 'two' });
    expect(largestSlot(numbered([tile(1, 8), tile(1, 2), tile(1.5, 1), tile(1, 2)]), parts)).toEqual({ slot: 'big' });
    expect(largestSlot(numbered([tile(1, 1), tile(1, 1)]), [{ slot: 'a' }, { slot: 'b' }])).toEqual({ slot: 'a' });
  });
});
