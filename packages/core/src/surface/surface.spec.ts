import {
  DRAWING_STAGES,
  GENERATORS,
  bandsOf,
  boxBlur,
  makeCanvas,
  evenLook,
  weighLook,
  generateSurface,
  normalsFromHeight,
  occlusionFromHeight,
  readName,
  surfaceStems,
  statistics,
  titleOf,
  valueNoise,
  fractalNoise,
  hash3,
  deltaE2000,
  labOfBytes,
  recipeOf,
  tileRepetition,
  evaluate,
  flatDomain,
  Builder,
  unit,
} from '../index';
import type { GeneratorName } from '../index';

describe('noise', () => {
  it('is tileable, in range and decided by the seed', () => {
    for (let i = 0; i < 400; i++) {
      const x = unit(hash3(i, 0, 1)) * 7;
      const y = unit(hash3(i, 1, 1)) * 7;
      for (const noise of [valueNoise, (a: number, b: number, p: number, s: number) => fractalNoise(a, b, p, s, 4)]) {
        const v = noise(x, y, 7, 5);
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThan(1);
        expect(noise(x + 7, y - 14, 7, 5)).toBeCloseTo(v, 9);
        expect(noise(x, y, 7, 6)).not.toBe(v);
      }
    }
  });
  it('has a period of its own on each axis when asked', () => {
    expect(valueNoise(3.2 + 12, 1.7 + 5, 12, 3, 5)).toBeCloseTo(valueNoise(3.2, 1.7, 12, 3, 5), 9);
  });
});

/** The second word of the lattice hash, from its definition. */
function hash3second(x: number, y: number, z: number): number {
  let v = [x, y, z].map((c) => (Math.imul(c, 1664525) + 1013904223) >>> 0);
  const round = () => {
    v[0] = (v[0] + Math.imul(v[1], v[2])) >>> 0;
    v[1] = (v[1] + Math.imul(v[2], v[0])) >>> 0;
    v[2] = (v[2] + Math.imul(v[0], v[1])) >>> 0;
  };
  round();
  v = v.map((c) => (c ^ (c >>> 16)) >>> 0);
  round();
  return v[1];
}

describe('cells and pieces', () => {
  const at = (op: string, points: number[], attrs = {}) => {
    const b = new Builder();
    const rest = op === 'cells2d' ? [b.constant(0.9)] : [b.constant(0.8), b.constant(0.7), b.constant(0.75), b.constant(0.4)];
    const node = b.node(op, [b.texcoord(), b.constant(5, 7), b.constant(11), ...rest], attrs);
    return evaluate({ y: node }, { domain: flatDomain(points.length / 2, 1, 1, { texcoord: Float32Array.from(points) }) })['y'];
  };
  const places = Array.from({ length: 400 }, (_, i) => (i % 2 ? 7 : 5) * unit(hash3(i, 3, 9)));
  const moved = places.map((v, i) => (i % 2 ? v + 7 : v - 10));
  for (const [op, attrs] of [
    ['cells2d', {}],
    ['scatter2d', { shape: 'pebble' }],
    ['scatter2d', { shape: 'leaf' }],
    ['scatter2d', { shape: 'disc' }],
  ] as const)
    it(`${op} ${'shape' in attrs ? attrs.shape : ''} repeat after whole numbers of cells, with a period for each axis`, () => {
      const here = at(op, places, attrs);
      const there = at(op, moved, attrs);
      let off = 0;
      here.forEach((plane, c) => plane.forEach((v, i) => (off += Math.abs(v - there[c][i]) > 2e-4 ? 1 : 0)));
      // Float32 may put a point on the other side of a border.
      expect(off).toBeLessThanOrEqual(8);
    });
  it('cells: the nearest point by brute force over the lattice', () => {
    const [x, y, edge, id] = at('cells2d', places);
    for (let i = 0; i < 200; i++) {
      const [px, py] = [places[i * 2], places[i * 2 + 1]];
      const near: { d: number; dx: number; dy: number }[] = [];
      for (let cy = -1; cy <= 7; cy++)
        for (let cx = -1; cx <= 5; cx++) {
          const wrapped = [(cx + 5) % 5, (cy + 7) % 7] as const;
          const [h0, h1] = [hash3(...wrapped, 11), hash3second(...wrapped, 11)].map(unit);
          const [dx, dy] = [px - cx - 0.5 - 0.9 * (h0 - 0.5), py - cy - 0.5 - 0.9 * (h1 - 0.5)];
          near.push({ d: Math.hypot(dx, dy), dx, dy });
        }
      near.sort((p, q) => p.d - q.d);
      expect(x[i]).toBeCloseTo(near[0].dx, 4);
      expect(y[i]).toBeCloseTo(near[0].dy, 4);
      expect(edge[i]).toBeCloseTo(near[1].d - near[0].d, 4);
      expect(id[i]).toBeGreaterThanOrEqual(0);
      expect(id[i]).toBeLessThan(1);
    }
  });
  it('pieces: inside their outline, 0–1 high, and none where none is kept', () => {
    for (const shape of ['pebble', 'leaf', 'disc']) {
      const [along, across, top] = at('scatter2d', places, { shape });
      for (let i = 0; i < 200; i++) {
        expect(Math.abs(along[i])).toBeLessThanOrEqual(1);
        expect(Math.abs(across[i])).toBeLessThanOrEqual(1);
        expect(top[i]).toBeGreaterThanOrEqual(0);
        expect(top[i]).toBeLessThanOrEqual(1);
      }
      expect(top.filter((v) => v > 0).length).toBeGreaterThan(60);
    }
    const b = new Builder();
    const none = b.node(
      'scatter2d',
      [b.multiply(b.texcoord(), b.constant(5)), b.constant(5), b.constant(1), b.constant(0), b.constant(0.7), b.constant(0.7), b.constant(0.4)],
      { shape: 'disc' },
    );
    expect(Math.max(...evaluate({ y: none }, { domain: flatDomain(16, 16) })['y'][2])).toBe(0);
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
      expect(h.max - h.min).toBeGreaterThan(0.4);
      const ends = maps.height.data.filter((v) => v < 66 || v > 65469).length;
      expect(ends / maps.height.data.length).toBeLessThan(0.001);
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
    it(`${name}: at least five structures, each of which is seen`, () => {
      const { structures } = recipeOf(name);
      expect(Object.keys(structures).length).toBeGreaterThanOrEqual(5);
      const size = 256;
      const whole = generateSurface(name, { seed: 4, size }).maps;
      for (const structure of Object.keys(structures)) {
        const without = generateSurface(name, { seed: 4, size, amounts: { [structure]: 0 } }).maps;
        let seen = 0;
        for (let i = 0; i < size * size; i++) {
          const lab = (of: typeof whole) => labOfBytes(of.baseColor.data[i * 3], of.baseColor.data[i * 3 + 1], of.baseColor.data[i * 3 + 2]);
          const height = Math.abs(whole.height.data[i] - without.height.data[i]) / 65535;
          if (height >= 0.02 || deltaE2000(lab(whole), lab(without)) >= 4) seen++;
        }
        expect(seen / (size * size))
          .withContext(structure)
          .toBeGreaterThanOrEqual(0.01);
      }
    });
    it(`${name}: laid four by four and seen from 2 m, the repetition stays unnoticed`, () => {
      for (const seed of [4, 41]) {
        const { maps, facts } = generateSurface(name, { seed, size: 256 });
        expect(tileRepetition(maps.baseColor, facts.sizeM).score).toBeLessThanOrEqual(0.25);
      }
    });
  }
  it('say what is wrong with an amount', () => {
    expect(() => generateSurface('laterite-clay', { seed: 1, size: 4, amounts: { craks: 1 } })).toThrowError(
      RangeError,
      /no structure called craks; it has mounds/,
    );
    expect(() => generateSurface('laterite-clay', { seed: 1, size: 4, amounts: { cracks: 3 } })).toThrowError(RangeError, /from 0 to 2/);
  });
  it('come out the same in bands of rows', () => {
    const order = { name: 'river-gravel', seed: 5, size: 96 } as const;
    const canvas = makeCanvas(96);
    DRAWING_STAGES.forEach(({ stage }, k) => bandsOf(96, 5 + k).forEach((rows) => stage(order, canvas, rows)));
    const gains = weighLook(order, canvas);
    for (const rows of bandsOf(96, 3)) evenLook(canvas, gains, rows);
    const whole = generateSurface('river-gravel', order).maps;
    for (const role of Object.keys(whole) as (keyof typeof whole)[]) expect(canvas.maps[role].data).withContext(role).toEqual(whole[role].data);
  });
});

describe('the difference of colours', () => {
  // Pairs and results published with the formula: Sharma, Wu & Dalal 2005, table 1.
  for (const [a, b, wanted] of [
    [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
    [[50, -1.3802, -84.2814], [50, 0, -82.7485], 1.0],
    [[50, 2.5, 0], [50, 0, -2.5], 4.3065],
    [[50, 2.5, 0], [73, 25, -18], 27.1492],
    [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
    [[22.7233, 20.0904, -46.694], [23.0331, 14.973, -42.5619], 2.0373],
    [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
  ] as const)
    it(`is ${wanted} for a published pair`, () => {
      expect(deltaE2000(a, b)).toBeCloseTo(wanted, 4);
      expect(deltaE2000(b, a)).toBeCloseTo(wanted, 4);
    });
  it('knows white, black and red', () => {
    expect(labOfBytes(255, 255, 255).map((v) => Math.round(v * 100) / 100 + 0)).toEqual([100, 0, 0]);
    expect(labOfBytes(0, 0, 0)).toEqual([0, 0, 0]);
    expect(labOfBytes(255, 0, 0).map(Math.round)).toEqual([53, 80, 67]);
  });
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
  it('put files whose name says no role to the surface they begin with', () => {
    const stems = surfaceStems(['wall_nrm.png', 'wall_old_height.png', 'Wall_Old_scan3.png', 'wallpaper.png', 'Wall_photo_4k.jpg']);
    expect(stems).toEqual(['wall', 'wall_old', 'wall_old', 'wallpaper', 'wall']);
  });
});
