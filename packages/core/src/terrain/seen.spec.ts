import fc from 'fast-check';
import { Bvh } from '../mesh/bvh';
import { fieldMesh, hillside, seenOnField } from './index';
import type { Heightfield } from './index';

const FOOT = 100;
const field = (width: number, height: number, spacingM: number, of: (x: number, z: number) => number): Heightfield => ({
  width,
  height,
  spacingM,
  altitude: Float32Array.from({ length: width * height }, (_, k) =>
    of(((k % width) - (width - 1) / 2) * spacingM, (Math.floor(k / width) - (height - 1) / 2) * spacingM),
  ),
});
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });

describe('what is seen of a terrain', () => {
  it('lies on a plane where the ray crosses that', () => {
    fc.assert(
      fc.property(number(-0.8, 0.8), number(-0.8, 0.8), number(-19, 19), number(-13, 13), number(-19, 19), number(-13, 13), (a, b, x, z, ex, ez) => {
        // 41 × 29 samples, a metre apart; the plane stands 3 m over its foot in the middle.
        const plane = field(41, 29, 1, (px, pz) => FOOT + 3 + a * px + b * pz);
        const to = [x, 3 + a * x + b * z, z] as const;
        const eye = [ex, to[1] + 60, ez] as const;
        const met = seenOnField(plane, FOOT, eye, [to[0] - eye[0], to[1] - eye[1], to[2] - eye[2]]);
        expect(met).not.toBeNull();
        for (const c of [0, 1, 2]) expect(met![c]).toBeCloseTo(to[c], 4);
      }),
    );
  });
  it('is what is under a ray straight down, between samples too', () => {
    const bowl = field(5, 5, 2, (x, z) => FOOT + x * z);
    // x · z is bilinear: it is the ground between samples as well.
    for (const [x, z] of [
      [0.5, 0.5],
      [-3.3, 2.1],
      [4, -4],
      [-4, -4],
    ]) {
      const met = seenOnField(bowl, FOOT, [x, 50, z], [0, -1, 0])!;
      expect([met[0], met[2]]).toEqual([x, z]);
      expect(met[1]).toBeCloseTo(x * z, 9);
    }
    expect(seenOnField(bowl, FOOT, [4.01, 50, 0], [0, -1, 0])).toBeNull();
    expect(seenOnField(bowl, FOOT, [0, 50, 0], [0, 1, 0])).toBeNull();
    // Over all of it without coming down.
    expect(seenOnField(bowl, FOOT, [-40, 30, 0], [1, 0, 0.01])).toBeNull();
  });
  it('is the first of what a ray goes through, as looking along it step by step finds', () => {
    const hill = hillside(33);
    const { width, height, spacingM, altitude } = hill;
    const heightAt = (x: number, z: number): number | null => {
      const [c, r] = [x / spacingM + (width - 1) / 2, z / spacingM + (height - 1) / 2];
      if (c < 0 || r < 0 || c > width - 1 || r > height - 1) return null;
      const [i, j] = [Math.min(width - 2, Math.floor(c)), Math.min(height - 2, Math.floor(r))];
      const at = (k: number, l: number) => altitude[(j + l) * width + i + k];
      const [u, v] = [c - i, r - j];
      return (at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v - 1720;
    };
    fc.assert(
      fc.property(number(-300, 300), number(150, 400), number(-300, 300), number(-250, 250), number(-250, 250), (ex, ey, ez, x, z) => {
        const way = [x - ex, 40 - ey, z - ez] as const;
        const STEPS = 6000;
        let found: number | null = null;
        for (let k = 0; k <= STEPS && found === null; k++) {
          const t = (1.6 * k) / STEPS;
          const ground = heightAt(ex + way[0] * t, ez + way[2] * t);
          if (ground !== null && ey + way[1] * t <= ground) found = t;
        }
        const met = seenOnField(hill, 1720, [ex, ey, ez], way);
        // A ray that enters from the side under the ground has met it at the rim in steps, and from below here.
        const t = met && (met[1] - ey) / way[1];
        if (found !== null && t !== null && heightAt(ex + way[0] * (found - 1.6 / STEPS), ez + way[2] * (found - 1.6 / STEPS)) !== null)
          expect(Math.abs(t - found)).toBeLessThan(2 * (1.6 / STEPS));
        if (found === null) expect(met === null || t! > 1.6 - 1e-3).toBeTrue();
      }),
      { numRuns: 300 },
    );
  });
  it('is nearer to what is drawn than what its coarse mesh gives', () => {
    const hill = hillside(257);
    const [coarse, fine] = [new Bvh(fieldMesh(hill, 8, 1720)), new Bvh(fieldMesh(hill, 1, 1720))];
    const off = { coarse: [] as number[], field: [] as number[] };
    for (let k = 0; k < 200; k++) {
      const [x, z] = [((k * 37) % 400) - 200, ((k * 91) % 400) - 200];
      const eye = [x - 30, 230, z + 40] as const;
      const way = [30, -100, -40] as const;
      const along = (y: number) => (y - eye[1]) / way[1];
      const [c, f] = [coarse.first(eye, way), fine.first(eye, way)];
      const met = seenOnField(hill, 1720, eye, way);
      if (!c || !f || !met) continue;
      off.coarse.push(Math.abs(c.away - f.away) * Math.hypot(...way));
      off.field.push(Math.abs(along(met[1]) - f.away) * Math.hypot(...way));
    }
    expect(off.field.length).toBeGreaterThan(150);
    const most = (of: number[]) => Math.max(...of);
    expect(most(off.field)).toBeLessThan(0.5);
    expect(most(off.coarse)).toBeGreaterThan(2 * most(off.field));
  });
});
