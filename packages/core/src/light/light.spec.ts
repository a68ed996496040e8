import {
  computeLight,
  directionOf,
  directionalAlbedo,
  furnace,
  generateSurface,
  BANDS,
  irradianceBands,
  lookUpShading,
  makeShadingTable,
  TABLE_NUMBERS,
  makeAlbedoTable,
  packLight,
  addRadiance,
  renderPebble,
  sampleGgx,
  shadeEnvironment,
  shadeKey,
  toneMap,
  toneOf,
  unpackLight,
  NO_KEY,
  SKIES,
} from '../index';
import type { Vec3 } from '../index';

describe('the BRDF', () => {
  it('passes the furnace: a white surface in light 1 gives 1, rough or smooth, metal or not', () => {
    const table = makeShadingTable(makeAlbedoTable(32, 256));
    for (const r of [0.05, 0.3, 0.6, 1])
      for (const v of [0.1, 0.4, 1])
        for (const metal of [0, 1]) {
          const [a, b] = lookUpShading(table, v, r, new Float64Array(TABLE_NUMBERS));
          expect(Math.abs(shadeEnvironment(1, metal, a, b, 1, 1) - 1)).toBeLessThan(0.01);
        }
  });
  it('has the directional albedo that brute-force integration over the hemisphere finds', () => {
    const n = 220;
    for (const [v, r] of [
      [0.8, 0.5],
      [0.4, 0.8],
    ] as const) {
      let sum = 0;
      const view = [Math.sqrt(1 - v * v), 0, v];
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          const cos = (i + 0.5) / n;
          const sin = Math.sqrt(1 - cos * cos);
          const phi = (2 * Math.PI * (j + 0.5)) / n;
          const l = [sin * Math.cos(phi), sin * Math.sin(phi), cos];
          const h = l.map((x, k) => x + view[k]);
          const len = Math.hypot(...h);
          // Albedo 1, metal, without Fresnel: F0 = 1.
          sum += (shadeKey(1, 1, r, cos, v, h[2] / len, (h[0] * view[0] + h[2] * view[2]) / len) / Math.PI) * ((2 * Math.PI) / (n * n));
        }
      const [a, b] = directionalAlbedo(v, r, 2048);
      expect(sum).toBeCloseTo(a + b, 2);
    }
  });
  it('draws half vectors of unit length in the upper half', () => {
    for (let i = 0; i < 64; i++) {
      const h = sampleGgx(i, 64, 0.3);
      expect(Math.hypot(...h)).toBeCloseTo(1, 9);
      expect(h[2]).toBeGreaterThan(0);
    }
  });
});

describe('the light', () => {
  it('of an even sky is even: irradiance and radiance 1 everywhere', () => {
    const light = computeLight({ sky: furnace, key: NO_KEY }, 16, 8, 32);
    const out: Vec3 = [0, 0, 0];
    for (const d of [
      [0, 1, 0],
      [0.6, -0.8, 0],
      [0, 0, 1],
    ]) {
      const [red, , , red1, , , red2] = irradianceBands(light.harmonics, d, new Float64Array(BANDS));
      expect(red + red1 + red2).toBeCloseTo(1, 2);
      out.fill(0);
      addRadiance(light, d, 0.55, 1, out);
      expect(out[1]).toBeCloseTo(1, 5);
    }
  });
  it('has shape enough under an overcast sky that relief of 15 degrees reads', () => {
    const { sky, key } = SKIES.overcast;
    const light = computeLight({ sky, key }, 32, 16, 64);
    const around = Math.atan2(key.direction[0], key.direction[2]);
    // Light on white ground that is tilted toward the key light, or away from it.
    const on = (degrees: number) => {
      const t = (degrees * Math.PI) / 180;
      const n = [Math.sin(t) * Math.sin(around), Math.cos(t), Math.sin(t) * Math.cos(around)];
      const bands = irradianceBands(light.harmonics, n, new Float64Array(BANDS));
      const direct = n.reduce((sum, v, c) => sum + v * key.direction[c], 0) * (key.radiance[1] / Math.PI);
      return bands[1] + bands[4] + bands[7] + direct;
    };
    expect(on(15) / on(-15)).toBeGreaterThan(1.4);
  });
  it('keeps its numbers through packing and refuses other bytes', () => {
    const light = computeLight(SKIES.overcast, 8, 4, 16);
    const back = unpackLight(packLight(light));
    // The map travels in half floats.
    back.map.forEach((v, i) => expect(Math.abs(v - light.map[i])).toBeLessThanOrEqual(light.map[i] / 2048));
    expect(back.table).toEqual(light.table);
    expect(back.harmonics).toEqual(light.harmonics);
    light.key.direction.forEach((v, c) => expect(back.key.direction[c]).toBeCloseTo(v, 6));
    expect(back.key.spread).toBeCloseTo(light.key.spread, 6);
    expect(() => unpackLight(new Uint8Array(40))).toThrowError(RangeError);
  });
  it('finds the directions of its map', () => {
    expect(directionOf(0.5, 0.5)[0]).toBeCloseTo(1, 9);
    expect(directionOf(0.3, 0)[1]).toBeCloseTo(1, 9);
    for (const { key } of Object.values(SKIES)) expect(Math.hypot(...key.direction)).toBeCloseTo(1, 9);
  });
  it('is shown unchanged up to the knee and never past 1', () => {
    expect(toneMap(0.5)).toBe(0.5);
    for (let x = 0; x < 40; x += 0.1) {
      expect(toneMap(x)).toBeLessThanOrEqual(1);
      expect(toneMap(x + 0.1)).toBeGreaterThanOrEqual(toneMap(x));
    }
  });
});

describe('the pebble', () => {
  it('is opaque in the middle, clear at the corners and tells surfaces apart', () => {
    const light = computeLight(SKIES.overcast, 16, 8, 16);
    const options = { width: 40, height: 28, widthM: 1.1 };
    const draw = (name: 'cushion-moss' | 'laterite-clay') => {
      const s = generateSurface(name, { seed: 1, size: 64 });
      return { p: renderPebble(s.maps, s.facts, light, options), tone: toneOf(s.maps) };
    };
    const moss = draw('cushion-moss');
    const clay = draw('laterite-clay');
    const middle = (14 * 40 + 20) * 4;
    expect(moss.p.data[middle + 3]).toBe(255);
    expect(moss.p.data[3]).toBe(0);
    expect(moss.tone).toMatch(/^#[0-9a-f]{6}$/);
    expect(parseInt(clay.tone.slice(1, 3), 16)).toBeGreaterThan(parseInt(clay.tone.slice(3, 5), 16));
    expect(parseInt(moss.tone.slice(3, 5), 16)).toBeGreaterThan(parseInt(moss.tone.slice(1, 3), 16));
  });
});
