import {
  BANDS,
  HARMONIC_TERMS,
  LIGHT_LEVELS,
  LOBE_NUMBERS,
  SKIES,
  TABLE_NUMBERS,
  basisAt,
  computeLight,
  fitLobe,
  FIRST_FITS,
  irradianceBands,
  lobeError,
  lookUpShading,
  makeAlbedoTable,
  makeRandom,
  makeShadingTable,
} from '../index';
import { minimise, solve } from './minimise';

const directions = Array.from({ length: 4000 }, (_, i) => {
  const z = 1 - (2 * (i + 0.5)) / 4000;
  const r = Math.sqrt(1 - z * z);
  return [r * Math.cos(i * 2.399963), r * Math.sin(i * 2.399963), z] as const;
});

describe('the harmonics', () => {
  const values = directions.map(([x, y, z]) => basisAt(x, y, z, new Float64Array(HARMONIC_TERMS.length)));
  it('are orthonormal over the sphere', () => {
    HARMONIC_TERMS.forEach((_, a) =>
      HARMONIC_TERMS.forEach((__, b) => {
        const product = values.reduce((sum, v) => sum + v[a] * v[b], 0) * ((4 * Math.PI) / directions.length);
        expect(Math.abs(product - (a === b ? 1 : 0)))
          .withContext(`${a} with ${b}`)
          .toBeLessThan(4e-3);
      }),
    );
  });
  it('are the same written as GLSL', () => {
    HARMONIC_TERMS.forEach(({ scale, glsl }, i) => {
      // The polynomials are arithmetic in both languages.
      const of = new Function('n', 'q', `return ${glsl}`) as (n: object, q: object) => number;
      for (const [k, [x, y, z]] of directions.entries())
        if (k % 97 === 0) expect(scale * of({ x, y, z }, { x: x * x, y: y * y, z: z * z })).toBeCloseTo(values[k][i], 9);
    });
  });
  it('give the irradiance that adding up the sky gives', () => {
    for (const { sky, key } of Object.values(SKIES)) {
      const { harmonics } = computeLight({ sky, key }, 2, 2, 1);
      for (const n of [
        [0, 1, 0],
        [0.6, 0.64, 0.48],
        [-0.8, 0, 0.6],
      ]) {
        const sum = [0, 0, 0];
        const rgb: [number, number, number] = [0, 0, 0];
        for (const d of directions) {
          const cosine = d[0] * n[0] + d[1] * n[1] + d[2] * n[2];
          if (cosine <= 0) continue;
          sky(d, rgb);
          for (let c = 0; c < 3; c++) sum[c] += (rgb[c] * cosine * 4) / directions.length;
        }
        const bands = irradianceBands(harmonics, n, new Float64Array(BANDS));
        for (let c = 0; c < 3; c++) expect(Math.abs(bands[c] + bands[3 + c] + bands[6 + c] - sum[c])).toBeLessThan(0.025 * sum[c] + 0.004);
      }
    }
  });
});

describe('the taps of a lobe', () => {
  const table = makeShadingTable(makeAlbedoTable(32, 64));
  const shapeAt = (nDotV: number, roughness: number) => {
    const [, , even, ratio, spread, inner, outer, nearest, near, furthest, first, second] = lookUpShading(
      table,
      nDotV,
      roughness,
      new Float64Array(TABLE_NUMBERS),
    );
    return { ratio, spread, inner, outer, nearest, near, furthest, even, first, second };
  };
  it('lie over the lobe that they stand for, well at the roughnesses of the table and near enough between them', () => {
    for (const roughness of [4 / 15, 0.4, 0.6, 0.8, 1, 0.3, 0.5, 0.9, 0.97])
      for (const [nDotV, most] of [
        [0.97, 0.03],
        [0.75, 0.05],
        [0.55, 0.09],
      ]) {
        const between = (roughness * 15) % 1 > 1e-6 && (roughness * 15) % 1 < 1 - 1e-6;
        expect(lobeError(shapeAt(nDotV, roughness), nDotV, roughness))
          .withContext(`roughness ${roughness}, n·v ${nDotV}`)
          .toBeLessThan(between ? 0.14 : most);
      }
  });
  it('come from the search, which finds better than one look along the mirrored view', () => {
    const one = { ratio: 1, spread: 0, inner: 0.5, outer: 0.5, nearest: 0, near: 0, furthest: 0, even: 0, first: 0, second: 0 };
    const { shape } = fitLobe(0.7, 0.5, FIRST_FITS[0]);
    expect(lobeError(shape, 0.7, 0.5)).toBeLessThan(0.4 * lobeError(one, 0.7, 0.5));
    expect(Object.keys(shape).sort()).toEqual([...LOBE_NUMBERS].sort());
  });
  it('look where there is something to see, and never weigh one another out by much', () => {
    const next = makeRandom(3);
    for (let i = 0; i < 400; i++) {
      const s = shapeAt(next(), next());
      for (const w of [s.nearest, s.near, s.furthest, s.even, 1 - s.nearest - s.near - s.furthest - s.even]) expect(Math.abs(w)).toBeLessThan(4);
      for (const r of [s.inner, s.outer]) expect(r >= 0 && r <= LIGHT_LEVELS[LIGHT_LEVELS.length - 1]).toBeTrue();
    }
  });
});

describe('the downhill simplex', () => {
  it('finds the bottom of a bent valley', () => {
    const valley = ([x, y]: number[]) => (1 - x) ** 2 + 100 * (y - x * x) ** 2;
    const found = minimise(valley, [-1.2, 1], 0.5, 400);
    expect(found[0]).toBeCloseTo(1, 4);
    expect(found[1]).toBeCloseTo(1, 4);
  });
});

describe('a few equations', () => {
  it('are solved, whatever order they come in', () => {
    const next = makeRandom(9);
    for (let n = 1; n < 7; n++) {
      const matrix = Array.from({ length: n }, () => Array.from({ length: n }, () => next() - 0.5));
      const wanted = Array.from({ length: n }, () => next() * 4);
      const right = matrix.map((row) => row.reduce((sum, v, i) => sum + v * wanted[i], 0));
      solve(matrix, right).forEach((v, i) => expect(v).toBeCloseTo(wanted[i], 6));
    }
    expect(
      solve(
        [
          [0, 1],
          [2, 0],
        ],
        [3, 4],
      ),
    ).toEqual([2, 3]);
  });
});
