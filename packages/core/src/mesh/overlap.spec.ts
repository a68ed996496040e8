import { numbered, overlapOn, overlapPicture } from '../index';
import type { Mesh } from '../index';
import { grid } from './mesh';

const SIZE = 64;
const nothing = () => undefined;
/** A square metre of a floor that begins at `x` and is laid out over columns `[left, right)` of the page. */
const tile = (x: number, left: number, right: number): Mesh =>
  grid(4, 4, (s, t) => ({ p: [x + s, 0, t], uv: [left + s * (right - left), t] }), nothing);
const on = (meshes: Mesh[], wanted?: (a: number, b: number) => boolean) => {
  const mesh = numbered(meshes);
  return overlapOn(mesh, mesh.texcoord, wanted, SIZE);
};

describe('places that lie on each other on a texture', () => {
  it('are as many as the page says, and named by their parts', () => {
    // Half of one lies on half of the other: a quarter of the page of three quarters that are covered.
    const { share, parts } = on([tile(0, 0, 0.5), tile(3, 0.25, 0.75)]);
    expect(share).toBeCloseTo(1 / 3, 2);
    expect(parts).toEqual([0, 1]);
    expect(on([tile(0, 0, 0.5), tile(3, 0.5, 1)])).toEqual(jasmine.objectContaining({ share: 0, parts: null }));
  });
  it('are none where that is wanted, nor where a place lies on itself', () => {
    const pair = [tile(0, 0, 0.5), tile(3, 0.25, 0.75)];
    expect(on(pair, (a, b) => a === 0 && b === 1).share).toBe(0);
    expect(on(pair, (a, b) => a === b).share).toBeGreaterThan(0.3);
    // The same triangles twice: there is nothing that could not be shown.
    expect(on([tile(0, 0, 0.5), tile(0, 0, 0.5)]).share).toBe(0);
    const { parts } = on([tile(0, 0, 0.5), tile(5, 0.75, 1), tile(9, 0.8, 0.9), tile(20, 0.75, 1)]);
    expect(parts).toEqual([1, 3]);
  });
  it('are drawn in a colour of their own, on what covers the page, clear beside it', () => {
    const found = on([tile(0, 0, 0.5), tile(3, 0.25, 0.75)]);
    const picture = overlapPicture(found);
    const at = (x: number) => [...picture.subarray((32 * SIZE + x) * 4, (32 * SIZE + x) * 4 + 4)];
    expect(at(60)).toEqual([0, 0, 0, 0]);
    expect(at(8)).toEqual(at(40));
    expect(at(8)[3]).toBe(255);
    expect(at(24)).not.toEqual(at(8));
    expect(at(24)[0] - at(24)[1]).toBeGreaterThan(80);
  });
});
