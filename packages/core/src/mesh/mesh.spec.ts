import { SPECIMENS, SPECIMEN_MODELS, boundsOf, makeSpecimen, specimenColour, SPECIMEN_PARTS, SPECIMEN_TITLES } from '../index';
import type { Mesh } from '../index';

const corner = (mesh: Mesh, k: number): number[][] =>
  [0, 1, 2].map((j) => [...mesh.position.subarray(mesh.index[k + j] * 3, mesh.index[k + j] * 3 + 3)]);
const cross = (e: number[], f: number[]) => [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
const dot = (a: ArrayLike<number>, b: ArrayLike<number>) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
/** Volume within a closed mesh; negative when it is inside out. */
function volume(mesh: Mesh): number {
  let sum = 0;
  for (let k = 0; k < mesh.index.length; k += 3) {
    const [a, b, c] = corner(mesh, k);
    sum += dot(a, cross(b, c)) / 6;
  }
  return sum;
}

/** Width, height and depth in metres of the things that have a size of their own. */
const SIZES = {
  'marker-stone': [0.34, 0.92, 0.26],
  'copper-still': [1.27, 1.7, 0.88],
  'ridge-tile': [0.29, 0.15, 0.46],
  'shed-wall': [3, 2.6, 0.31],
  'path-slab': [0.78, 0.09, 0.52],
} as const;

describe('specimens', () => {
  for (const name of SPECIMENS) {
    it(`${name}: outward unit normals, tangents along u, indices in range`, () => {
      const mesh = makeSpecimen(name, 2);
      const count = mesh.position.length / 3;
      expect(mesh.index.reduce((a, b) => Math.max(a, b))).toBe(count - 1);
      for (let i = 0; i < count; i += 37) {
        const n = mesh.normal.subarray(i * 3, i * 3 + 3);
        expect(Math.hypot(...n)).toBeCloseTo(1, 4);
        expect(Math.abs(dot(n, mesh.tangent.subarray(i * 4, i * 4 + 3)))).toBeLessThan(0.2);
      }
      // Winding: faces look where their vertices do, but for a few at the bottom of sharp chips.
      let against = 0;
      for (let k = 0; k < mesh.index.length; k += 3) {
        const [a, b, c] = corner(mesh, k);
        const face = cross(
          b.map((v, j) => v - a[j]),
          c.map((v, j) => v - a[j]),
        );
        if (dot(face, mesh.normal.subarray(mesh.index[k] * 3)) <= 0) against++;
      }
      expect(against / (mesh.index.length / 3)).toBeLessThan(0.003);
    });
    it(`${name}: texture coordinates in metres keep the size of a texel within 2×`, () => {
      for (const { mesh } of SPECIMEN_MODELS[name](1).lods[0]) {
        let [area, charted] = [0, 0];
        for (let k = 0; k < mesh.index.length; k += 3) {
          const [a, b, c] = corner(mesh, k);
          const uv = [0, 1, 2].map((j) => mesh.texcoord.subarray(mesh.index[k + j] * 2, mesh.index[k + j] * 2 + 2));
          area +=
            Math.hypot(
              ...cross(
                b.map((v, j) => v - a[j]),
                c.map((v, j) => v - a[j]),
              ),
            ) / 2;
          charted += Math.abs((uv[1][0] - uv[0][0]) * (uv[2][1] - uv[0][1]) - (uv[1][1] - uv[0][1]) * (uv[2][0] - uv[0][0])) / 2;
        }
        expect(charted / area).toBeGreaterThan(0.5);
        expect(charted / area).toBeLessThan(2);
      }
    });
  }
  for (const [name, size] of Object.entries(SIZES) as [keyof typeof SIZES, readonly number[]][])
    it(`${name}: true size, whatever the extent, standing on the ground`, () => {
      const { lo, hi } = boundsOf(makeSpecimen(name, 2.4));
      size.forEach((v, c) => expect(Math.abs(hi[c] - lo[c] - v)).toBeLessThan(0.05 * v + 0.012));
      if (name !== 'ridge-tile') expect(Math.abs(lo[1])).toBeLessThan(0.02);
    });
  it('are as wide as an extent, or close bodies of the volume that their form has', () => {
    const { lo, hi } = boundsOf(makeSpecimen('patch', 2));
    expect([hi[0] - lo[0], hi[2] - lo[2]].map((v) => Math.round(v * 1e5) / 1e5)).toEqual([2, 2]);
    expect(volume(makeSpecimen('sphere', 1)) / ((4 / 3) * Math.PI * 0.3 ** 3)).toBeCloseTo(1, 2);
    // A rounded cube of side a and edge r: the cube without r all round, its faces, edges and corners.
    const [a, r] = [0.5, 0.03];
    const inner = a - 2 * r;
    expect(volume(makeSpecimen('cube', 1))).toBeCloseTo(
      inner ** 3 + 6 * inner ** 2 * r + 3 * Math.PI * inner * r ** 2 + (4 / 3) * Math.PI * r ** 3,
      3,
    );
  });
  it('have a reduced form with the same outline and far fewer triangles', () => {
    for (const name of ['marker-stone', 'copper-still'] as const) {
      const [full, reduced] = [makeSpecimen(name, 1), makeSpecimen(name, 1, 1)];
      expect(reduced.index.length).toBeLessThan(full.index.length / 5);
      const [a, b] = [boundsOf(full), boundsOf(reduced)];
      for (let c = 0; c < 3; c++) expect(Math.abs(a.hi[c] - b.hi[c]) + Math.abs(a.lo[c] - b.lo[c])).toBeLessThan(0.04);
      expect(SPECIMEN_MODELS[name](1).lods[1].map((p) => p.slot)).toEqual(SPECIMEN_MODELS[name](1).lods[0].map((p) => p.slot));
    }
    expect(SPECIMEN_MODELS['copper-still'](1).lods[0].map((p) => p.name)).toEqual(['body', 'lid', 'pipe', 'stand']);
  });
  it('carry vertex colours that repeat and use their range', () => {
    const a = new Float32Array(4);
    const b = new Float32Array(4);
    const seen = { lo: 1, hi: 0 };
    for (let i = 0; i < 200; i++) {
      specimenColour(i / 200, (i * 7) / 200, a, 0);
      specimenColour(i / 200 + 1, (i * 7) / 200 - 2, b, 0);
      for (let c = 0; c < 4; c++) expect(a[c]).toBeCloseTo(b[c], 5);
      seen.lo = Math.min(seen.lo, a[1]);
      seen.hi = Math.max(seen.hi, a[1]);
    }
    expect(seen.lo).toBeLessThan(0.05);
    expect(seen.hi).toBeGreaterThan(0.95);
  });
});

describe('the titles of specimens', () => {
  it('are those of what is made', () => {
    for (const name of SPECIMENS) {
      const { title, lods } = SPECIMEN_MODELS[name](1);
      expect(SPECIMEN_TITLES[name]).toBe(title);
      expect(SPECIMEN_PARTS[name]).toEqual(lods[0].map((p) => ({ name: p.name, slot: p.slot })));
    }
  });
});
