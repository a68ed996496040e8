import { makeImage } from '@pebble/core';
import { readout } from './readout';

describe('the value under the pointer', () => {
  const image = makeImage({ width: 1, height: 1, channels: 3, data: Uint8Array.of(128, 64, 255) });
  const one = (v: number) => makeImage({ width: 1, height: 1, channels: 1, depth: 16, data: Uint16Array.of(v) });
  const surface = { reliefM: 0.05, mid: 0.5 };
  it('is in the unit of the role', () => {
    expect(readout('baseColor', image, 0, 0, surface)).toEqual(['128 64 255', '0.216 0.051 1.000']);
    expect(readout('normal', image, 0, 0, surface)).toEqual(['128 64 255', '30° to 270°']);
    expect(readout('height', one(65535), 0, 0, surface)).toEqual(['1.0000', '25.0 mm']);
    expect(readout('roughness', one(32768), 0, 0, surface)).toEqual(['128', '0.500']);
  });
});
