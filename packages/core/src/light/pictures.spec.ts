import { GRAZING, SKIES, computeLight, directionOf, makeImage, renderFlat, surfaceSheet } from '../index';
import type { Image, MapSet, SkyName, Vec3 } from '../index';

const light = computeLight(SKIES.overcast, 16, 8, 32);
const facts = { sizeM: 1, reliefM: 0.2, mid: 0 };
const grey = (n: number, v: number, channels: 1 | 3 = 1, srgb = false): Image =>
  makeImage({ width: n, height: n, channels, colourSpace: srgb ? 'srgb' : 'data', data: new Uint8Array(n * n * channels).fill(v) });
const mean = ({ data, width, channels }: Image, x0: number, x1: number): number => {
  let [sum, count] = [0, 0];
  for (let y = 0; y < width; y++) for (let x = Math.round(x0 * width); x < x1 * width; x++, count++) sum += data[(y * width + x) * channels + 1];
  return sum / count;
};

describe('skies', () => {
  for (const [name, { sky, key }] of Object.entries(SKIES) as [SkyName, (typeof SKIES)[SkyName]][])
    it(`${name}: light from everywhere, finite, brightest toward its key light, which stands above the horizon`, () => {
      const out: Vec3 = [0, 0, 0];
      let [most, toward, wrong] = [0, 0, 0];
      for (let y = 0; y < 32; y++)
        for (let x = 0; x < 64; x++) {
          const d = directionOf((x + 0.5) / 64, (y + 0.5) / 32);
          sky(d, out);
          if (!out.every((v) => v > 0 && v < 12)) wrong++;
          const bright = out[0] + out[1] + out[2];
          if (bright <= most) continue;
          most = bright;
          toward = d[0] * key.direction[0] + d[1] * key.direction[1] + d[2] * key.direction[2];
        }
      expect(wrong).toBe(0);
      // An overcast sky is brightest between its zenith and its glow.
      expect(toward).toBeGreaterThan(name === 'overcast' ? 0.8 : 0.9);
      expect(key.direction[1]).toBeGreaterThan(0.2);
      expect(key.spread).toBeGreaterThan(0);
    });
  it('are no two alike: the evening is warmer than noon, the shed darker than the open', () => {
    const about = (name: SkyName) => {
      const { harmonics } = computeLight(SKIES[name], 8, 4, 8);
      return [harmonics[0], harmonics[1], harmonics[2]];
    };
    const warmth = (name: SkyName) => about(name)[0] / about(name)[2];
    expect(warmth('low-sun')).toBeGreaterThan(warmth('noon') * 1.1);
    expect(about('shed')[1]).toBeLessThan(0.7 * Math.min(...(['overcast', 'noon'] as const).map((s) => about(s)[1])));
  });
});

describe('a surface from straight above', () => {
  it('lies in the shadow of a step on the side away from the light, and in the light on the other', () => {
    const n = 64;
    const height = makeImage({ width: n, height: n, channels: 1, depth: 16 });
    // A ridge over the middle third.
    for (let i = 0; i < n * n; i++) height.data[i] = i % n > n / 3 && i % n < (2 * n) / 3 ? 65535 : 0;
    const maps: MapSet = { baseColor: grey(n, 128, 3, true), height };
    const [along, against] = [GRAZING, { ...GRAZING, direction: GRAZING.direction.map((v, c) => (c === 1 ? v : -v)) }].map((key) =>
      renderFlat(maps, facts, light, { size: n, widthM: 1, key, sky: 0.3 }),
    );
    // The light comes from the left: the right of the ridge is dark, and the other way round.
    expect(mean(along, 0.7, 0.95)).toBeLessThan(0.75 * mean(along, 0.36, 0.62));
    expect(mean(against, 0.05, 0.3)).toBeLessThan(0.75 * mean(against, 0.36, 0.62));
  });
  it('is as bright as its base colour says, rows and columns repeat with the tile', () => {
    const maps: MapSet = { baseColor: grey(8, 188, 3, true) };
    const dark = renderFlat({ baseColor: grey(8, 60, 3, true) }, facts, light, { size: 16, widthM: 1 });
    const twice = renderFlat(maps, facts, light, { size: 32, widthM: 2 });
    expect(mean(twice, 0, 1)).toBeGreaterThan(mean(dark, 0, 1) + 40);
    for (let i = 0; i < 16; i++) expect(twice.data[i * 3]).toBe(twice.data[(i + 16) * 3]);
  });
});

describe('the sheet of a surface', () => {
  it('holds every channel as it is stored, beside the lit pictures and the pebble', () => {
    const n = 32;
    const maps: MapSet = { baseColor: grey(n, 150, 3, true), roughness: grey(n, 77), occlusion: grey(n, 240), metallic: grey(n, 9) };
    const sheet = surfaceSheet(maps, facts, light);
    expect([sheet.width, sheet.height, sheet.channels]).toEqual([1536, 732, 3]);
    const at = (x: number, y: number) => [...sheet.data.subarray((y * sheet.width + x) * 3, (y * sheet.width + x) * 3 + 3)];
    expect(at(110, 620)).toEqual([150, 150, 150]);
    expect(at(2 * 220 + 110, 620)).toEqual([77, 77, 77]);
    expect(at(3 * 220 + 110, 620)).toEqual([240, 240, 240]);
    expect(at(4 * 220 + 110, 620)).toEqual([9, 9, 9]);
    // No normal and no height were given: paper.
    expect(at(1 * 220 + 110, 620)).toEqual([38, 38, 38]);
    expect(at(6 * 220 + 108, 620)).not.toEqual([38, 38, 38]);
  });
});
