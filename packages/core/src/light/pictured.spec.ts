import { NO_KEY, computeLight, directionOf, makeImage, picturedSky } from '../index';
import type { Vec3 } from './sky';

describe('a sky that is a picture', () => {
  const out: Vec3 = [0, 0, 0];
  it('has in each direction what the picture has there, in linear light, and meets itself around the horizon', () => {
    const [width, height] = [8, 4];
    const image = makeImage({ width, height, channels: 3, colourSpace: 'srgb', data: Uint8Array.from({ length: 96 }, (_, i) => (i * 37) % 256) });
    const sky = picturedSky(image);
    const linear = (v: number) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        sky(directionOf((x + 0.5) / width, (y + 0.5) / height), out);
        for (let c = 0; c < 3; c++) expect(out[c]).toBeCloseTo(linear(image.data[(y * width + x) * 3 + c]), 5);
      }
    // Half way between the last and the first column.
    sky(directionOf(1, 1.5 / height), out);
    expect(out[0]).toBeCloseTo((linear(image.data[(width + 7) * 3]) + linear(image.data[width * 3])) / 2, 5);
  });
  it('of one grey lights as a furnace of that grey does', () => {
    const image = makeImage({ width: 4, height: 2, channels: 1, depth: 16, colourSpace: 'data', data: new Uint16Array(8).fill(32768) });
    const light = computeLight({ sky: picturedSky(image), key: NO_KEY }, 8, 4, 16);
    for (const v of light.map) expect(v).toBeCloseTo(32768 / 65535, 4);
    expect(light.harmonics[0] * 0.282095).toBeCloseTo(32768 / 65535, 3);
  });
});
