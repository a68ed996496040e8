import fc from 'fast-check';
import type { Heightfield } from '../index';
import { TerrainDetail, hillside, makeRandom } from '../index';

const SMALL = hillside(129);
type Point = readonly [number, number, number];
const eyes = fc.tuple(
  fc.double({ min: -300, max: 300, noNaN: true }),
  fc.double({ min: 1, max: 400, noNaN: true }),
  fc.double({ min: -300, max: 300, noNaN: true }),
);
/** Edges by their ends, with how many triangles they have. */
function edges(index: Uint32Array): Map<string, number> {
  const out = new Map<string, number>();
  for (let k = 0; k < index.length; k++) {
    const [a, b] = [index[k], index[k % 3 === 2 ? k - 2 : k + 1]];
    const key = a < b ? `${a} ${b}` : `${b} ${a}`;
    out.set(key, (out.get(key) ?? 0) + 1);
  }
  return out;
}

describe('a terrain as fine as it is seen', () => {
  const whole = new TerrainDetail(SMALL, 1720);
  it('has no crack: every edge inside belongs to two triangles that share both its ends, whatever the sight', () => {
    fc.assert(
      fc.property(eyes, fc.double({ min: 0.2, max: 20, noNaN: true }), (eye, tolerancePx) => {
        const { mesh } = whole.mesh({ eye: eye as Point, pixelsPerMetre: 900, tolerancePx });
        const half = 256 - 1e-3;
        const rim = (v: number) => Math.abs(mesh.position[v * 3]) > half || Math.abs(mesh.position[v * 3 + 2]) > half;
        for (const [key, count] of edges(mesh.index)) {
          const [a, b] = key.split(' ').map(Number);
          if (count !== 2) expect(rim(a) && rim(b)).toBeTrue();
        }
        // It covers all of the ground, once.
        let area = 0;
        for (let t = 0; t < mesh.index.length; t += 3) {
          const [a, b, c] = [0, 1, 2].map((k) => mesh.index[t + k] * 3);
          const p = mesh.position;
          const twice = (p[b] - p[a]) * (p[c + 2] - p[a + 2]) - (p[b + 2] - p[a + 2]) * (p[c] - p[a]);
          expect(twice).toBeLessThan(0);
          area -= twice / 2;
        }
        expect(area / 512 ** 2).toBeCloseTo(1, 4);
      }),
      { numRuns: 30 },
    );
  });
  it('leaves nothing out that would be seen: no sample lies farther off than the tolerance, as seen from the eye', () => {
    fc.assert(
      fc.property(eyes, fc.double({ min: 0.5, max: 8, noNaN: true }), (eye, tolerancePx) => {
        const pixelsPerMetre = 700;
        const { mesh, tolerancePx: kept } = whole.mesh({ eye: eye as Point, pixelsPerMetre, tolerancePx });
        expect(kept).toBe(tolerancePx);
        const { position: p, index } = mesh;
        const step = 4;
        for (let t = 0; t < index.length; t += 3) {
          const [a, b, c] = [0, 1, 2].map((k) => index[t + k] * 3);
          const [x0, x1] = [Math.min(p[a], p[b], p[c]), Math.max(p[a], p[b], p[c])];
          const [z0, z1] = [Math.min(p[a + 2], p[b + 2], p[c + 2]), Math.max(p[a + 2], p[b + 2], p[c + 2])];
          if (x1 - x0 <= step && z1 - z0 <= step) continue;
          const det = (p[b] - p[a]) * (p[c + 2] - p[a + 2]) - (p[c] - p[a]) * (p[b + 2] - p[a + 2]);
          for (let x = x0; x <= x1; x += step)
            for (let z = z0; z <= z1; z += step) {
              const v = ((x - p[a]) * (p[c + 2] - p[a + 2]) - (z - p[a + 2]) * (p[c] - p[a])) / det;
              const w = ((p[b] - p[a]) * (z - p[a + 2]) - (p[b + 2] - p[a + 2]) * (x - p[a])) / det;
              if (v < 0 || w < 0 || v + w > 1) continue;
              const drawn = p[a + 1] + v * (p[b + 1] - p[a + 1]) + w * (p[c + 1] - p[a + 1]);
              const real = whole.heightAt(x, z) ?? drawn;
              const away = Math.hypot(x - eye[0], real - eye[1], z - eye[2]);
              // Errors of a triangle add up along what it is cut from: at most one a level of the tree over it.
              expect((Math.abs(drawn - real) * pixelsPerMetre) / away).toBeLessThan(3 * tolerancePx);
            }
        }
      }),
      { numRuns: 8 },
    );
  });
  it('is as few as two triangles on a plane, and all of the samples where nothing may be off', () => {
    const plane: Heightfield = { width: 65, height: 65, spacingM: 1, altitude: Float32Array.from({ length: 65 * 65 }, (_, i) => (i % 65) * 0.5) };
    expect(new TerrainDetail(plane).mesh({ eye: [0, 10, 0], pixelsPerMetre: 900, tolerancePx: 0.5 }).mesh.index.length).toBe(6);
    const random = makeRandom(4);
    const rough: Heightfield = { width: 33, height: 33, spacingM: 1, altitude: Float32Array.from({ length: 33 * 33 }, () => random() * 9) };
    expect(new TerrainDetail(rough).mesh({ eye: [0, 10, 0], pixelsPerMetre: 900, tolerancePx: 0 }).mesh.index.length / 6).toBe(32 * 32);
  });
  it('keeps to a number of triangles, and says how far off it is then', () => {
    const { mesh, tolerancePx } = new TerrainDetail(hillside(1025), 1720).mesh({ eye: [0, 300, 300], pixelsPerMetre: 4000, tolerancePx: 0.05 });
    expect(mesh.index.length / 3).toBeLessThanOrEqual(220_000);
    expect(tolerancePx).toBeGreaterThan(0.05);
  });
  it('lies where fields of other sizes do', () => {
    const field = hillside(100, 61);
    const { mesh } = new TerrainDetail(field, 1720).mesh({ eye: [0, 50, 0], pixelsPerMetre: 900, tolerancePx: 0 });
    const half = [(field.spacingM * 99) / 2, (field.spacingM * 60) / 2];
    for (let i = 0; i < mesh.position.length / 3; i++) {
      expect(Math.abs(mesh.position[i * 3])).toBeLessThanOrEqual(half[0] + 1e-3);
      expect(Math.abs(mesh.position[i * 3 + 2])).toBeLessThanOrEqual(half[1] + 1e-3);
      expect(mesh.uv1[i * 2]).toBeCloseTo((mesh.position[i * 3] + half[0]) / (2 * half[0]), 4);
      expect(mesh.uv1[i * 2 + 1]).toBeCloseTo((mesh.position[i * 3 + 2] + half[1]) / (2 * half[0]), 4);
    }
  });
});
