import {
  GENERATORS,
  boxBlur,
  generateSurface,
  normalsFromHeight,
  occlusionFromHeight,
  readName,
  statistics,
  titleOf,
  valueNoise,
  fractalNoise,
  cellNoise,
  makeCell,
  hash2,
  unit,
} from '../index';
import type { GeneratorName } from '../index';

describe('noise', () => {
  it('is tileable, in range and decided by the seed', () => {
    for (let i = 0; i < 400; i++) {
      const x = unit(hash2(i, 0, 1)) * 7;
      const y = unit(hash2(i, 1, 1)) * 7;
      for (const noise of [valueNoise, (a: number, b: number, p: number, s: number) => fractalNoise(a, b, p, s, 4)]) {
        const v = noise(x, y, 7, 5);
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThan(1);
        expect(noise(x + 7, y - 14, 7, 5)).toBeCloseTo(v, 9);
        expect(noise(x, y, 7, 6)).not.toBe(v);
      }
      const a = cellNoise(x, y, 7, 5, 0.9, makeCell());
      const b = cellNoise(x + 7, y - 7, 7, 5, 0.9, makeCell());
      expect(b.near).toBeCloseTo(a.near, 9);
      expect(b.id).toBe(a.id);
      expect(a.next).toBeGreaterThanOrEqual(a.near);
    }
  });
  it('has a period of its own on each axis when asked', () => {
    expect(valueNoise(3.2 + 12, 1.7 + 5, 12, 3, 5)).toBeCloseTo(valueNoise(3.2, 1.7, 12, 3, 5), 9);
  });
});

describe('relief', () => {
  it('gives a tilted plane the normal of its slope, Y+', () => {
    const n = 8;
    const rise = Float32Array.from({ length: n * n }, (_, i) => Math.floor(i / n) * 0.01);
    const normal = normalsFromHeight(rise, n, n, 0.02).subarray((3 * n + 3) * 3, (3 * n + 3) * 3 + 3);
    const slope = 0.5;
    expect(normal[0]).toBeCloseTo(0, 6);
    expect(normal[1]).toBeCloseTo(slope / Math.hypot(1, slope), 5);
    expect(normal[2]).toBeCloseTo(1 / Math.hypot(1, slope), 5);
  });
  it('closes pits and leaves planes and peaks open', () => {
    const n = 64;
    const flat = new Float32Array(n * n);
    expect([...new Set(occlusionFromHeight(flat, n, n, 0.002))]).toEqual([1]);
    const pit = flat.slice().fill(0.02);
    pit[32 * n + 32] = -0.02;
    const open = occlusionFromHeight(pit, n, n, 0.002);
    expect(open[32 * n + 32]).toBeLessThan(0.6);
    expect(open[5]).toBeCloseTo(1, 3);
  });
  it('blurs with wrap and keeps the mean', () => {
    const values = Float32Array.from({ length: 25 }, (_, i) => (i === 0 ? 25 : 0));
    const blurred = boxBlur(values, 5, 5, 1);
    expect(blurred[24]).toBeCloseTo(25 / 9, 5);
    expect(blurred.reduce((a, b) => a + b)).toBeCloseTo(25, 4);
  });
});

describe('generated surfaces', () => {
  for (const name of Object.keys(GENERATORS) as GeneratorName[]) {
    it(`${name}: same seed same samples, other seed others, at any size`, () => {
      const a = generateSurface(name, { seed: 3, size: 48 });
      const b = generateSurface(name, { seed: 3, size: 48 });
      const c = generateSurface(name, { seed: 4, size: 48 });
      for (const role of Object.keys(a.maps) as (keyof typeof a.maps)[]) expect(b.maps[role].data).toEqual(a.maps[role].data);
      expect(c.maps.height.data).not.toEqual(a.maps.height.data);
      expect(generateSurface(name, { seed: 3, size: 1 }).maps.baseColor.data.length).toBe(3);
    });
    it(`${name}: height without plateaus, normals that belong to it, unit length, no seam`, () => {
      const size = 128;
      const { maps, facts } = generateSurface(name, { seed: 7, size });
      const [h] = statistics(maps.height);
      expect(h.min).toBeGreaterThan(0);
      expect(h.max).toBeLessThan(1);
      expect(h.max - h.min).toBeGreaterThan(0.45);
      const heightM = Float32Array.from(maps.height.data, (v) => (v / 65535 - facts.mid) * facts.reliefM);
      const normals = normalsFromHeight(heightM, size, size, facts.sizeM / size);
      let worst = 0;
      for (let i = 0; i < normals.length; i++) worst = Math.max(worst, Math.abs(normals[i] - ((maps.normal.data[i] / 255) * 2 - 1)));
      expect(worst).toBeLessThan(1.01 / 255);
      // The step over the border is like the steps inside: no seam.
      const step = (x0: number, x1: number) => {
        let sum = 0;
        for (let y = 0; y < size; y++) sum += Math.abs(maps.height.data[y * size + x0] - maps.height.data[y * size + x1]);
        return sum;
      };
      const inside = Array.from({ length: size - 1 }, (_, x) => step(x, x + 1)).sort((p, q) => p - q);
      expect(step(size - 1, 0)).toBeLessThanOrEqual(inside[inside.length - 1] * 1.05);
    });
  }
});

describe('file names', () => {
  it('say role, stem and normal direction in many spellings', () => {
    const read = (file: string) => {
      const { stem, role, normalDirection } = readName(file);
      return [stem, role, normalDirection];
    };
    expect(read('old_wall_4k_nrm.png')).toEqual(['old_wall', 'normal', null]);
    expect(read('TerraceStone-BaseColor.png')).toEqual(['Terrace_Stone', 'baseColor', null]);
    expect(read('moss_01_Ambient_Occlusion_2048.jpg')).toEqual(['moss_01', 'occlusion', null]);
    expect(read('moss_normal_gl.png')).toEqual(['moss', 'normal', 'y+']);
    expect(read('moss_roughness.png')).toEqual(['moss', 'roughness', null]);
    expect(read('height.png')).toEqual(['', 'height', null]);
    expect(read('photo of a step.jpg')).toEqual(['photo_of_a_step', null, null]);
    expect(titleOf('old_wall')).toBe('Old wall');
  });
});
