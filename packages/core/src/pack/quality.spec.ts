import { compareImages, makeImage, packLevels, roleMipChain } from '../index';
import type { RecipeFile } from '../index';

const image = (channels: number, data: number[], width = data.length / channels, depth: 8 | 16 = 8) =>
  makeImage({ width, height: data.length / channels / width, channels, depth, data: depth === 8 ? Uint8Array.from(data) : Uint16Array.from(data) });

describe('how far a picture is from another', () => {
  it('is the formula of each number: decibels, degrees, differences', () => {
    const a = image(1, [0, 100, 200, 255]);
    const b = image(1, [10, 100, 200, 255]);
    const [grey] = compareImages(a, b, 'data').channels;
    expect(grey.psnr).toBeCloseTo(10 * Math.log10(4 / (10 / 255) ** 2), 9);
    expect(grey.mean * 255).toBeCloseTo(2.5, 9);
    expect(grey.p99 * 255).toBeCloseTo(10, 9);
    expect(grey.max * 255).toBeCloseTo(10, 9);
    expect(compareImages(a, a, 'data').channels[0].psnr).toBeNull();
    // 16 bits against 8 of the same value.
    expect(compareImages(image(1, [100]), image(1, [25700], 1, 16), 'data').channels[0].psnr).toBeNull();
  });
  it('of normals is the angle between them, a missing third channel rebuilt', () => {
    const up = image(3, [128, 128, 255]);
    const lean = Math.sin((20 * Math.PI) / 180);
    const leant = image(3, [Math.round((lean * 0.5 + 0.5) * 255), 128, Math.round((Math.cos((20 * Math.PI) / 180) * 0.5 + 0.5) * 255)]);
    expect(compareImages(up, leant, 'normal').angle?.mean).toBeCloseTo(20, 0);
    const two = image(2, [...leant.data.subarray(0, 2)]);
    expect(compareImages(leant, two, 'normal').angle?.max).toBeLessThan(0.5);
  });
  it('of colours is ΔE2000: nothing for equal ones, what the standard says for others', () => {
    expect(compareImages(image(3, [10, 20, 30]), image(3, [10, 20, 30]), 'colour').deltaE).toEqual({ mean: 0, p99: 0, max: 0 });
    // sRGB red and green: L*a*b* 53.24, 80.09, 67.20 and 87.73, −86.18, 83.18.
    expect(compareImages(image(3, [255, 0, 0]), image(3, [0, 255, 0]), 'colour').deltaE?.mean).toBeCloseTo(86.6, 0);
  });
  it('is refused for pictures of different sizes', () => {
    expect(() => compareImages(image(1, [1, 2]), image(1, [1]), 'data')).toThrowError(RangeError, /1 × 1: only pictures of one size/);
  });
});

describe('levels of a packed file', () => {
  it('are those of each role, channel by channel', () => {
    const side = 8;
    const grey = (f: (i: number) => number) =>
      image(
        1,
        Array.from({ length: side * side }, (_, i) => f(i) & 255),
        side,
      );
    const maps = {
      occlusion: grey((i) => i * 37),
      roughness: grey((i) => 40 + (i % 5)),
      id: image(
        3,
        Array.from({ length: side * side * 3 }, (_, i) => (i * 91) & 255),
        side,
      ),
    };
    const normal = image(
      3,
      Array.from(
        { length: side * side },
        (_, i) =>
          [
            [60, 128, 230],
            [190, 128, 230],
          ][i % 2],
      ).flat(),
      side,
    );
    const from = (role: 'occlusion' | 'roughness' | 'id') => ({ from: 'map' as const, role, channel: 0 as const, invert: false });
    const channels: RecipeFile['channels'] = { r: from('occlusion'), g: from('roughness'), b: from('id') };
    const levels = packLevels(channels, { ...maps, normal }, { width: side, height: side, depth: 8 });
    expect(levels.map((l) => l.width)).toEqual([8, 4, 2, 1]);
    const chains = [roleMipChain('occlusion', maps.occlusion), roleMipChain('roughness', maps.roughness, { normal }), roleMipChain('id', maps.id)];
    levels.forEach((level, l) =>
      chains.forEach((chain, c) => {
        const own = chain[l];
        for (let i = 0; i < level.width * level.height; i++) expect(level.data[i * 3 + c]).toBe(own.data[i * own.channels]);
      }),
    );
    // Slopes that are lost make it rougher than it is anywhere.
    expect(levels[3].data[1]).toBeGreaterThan(45);
  });
});
