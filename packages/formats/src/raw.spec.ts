import { decodeRawHeights, isRawName } from './index';

describe('heightfields without a header', () => {
  it('are read exactly, low byte first, from any place in memory', () => {
    const bytes = Uint8Array.of(99, 1, 0, 0, 1, 255, 255, 52, 18);
    const image = decodeRawHeights(bytes.subarray(1));
    expect([image.width, image.height, image.channels, image.depth]).toEqual([2, 2, 1, 16]);
    expect([...image.data]).toEqual([1, 256, 65535, 0x1234]);
  });
  it('that are no square are refused with what to do', () => {
    for (const length of [1, 2 * 3, 2 * 16 + 1])
      expect(() => decodeRawHeights(new Uint8Array(length))).toThrowError(/bytes are no square of 16-bit heights/);
    expect(() => decodeRawHeights(new Uint8Array())).toThrowError(/empty/);
  });
  it('are known by their names', () => {
    expect(['ridge.raw', 'ridge_height.R16', 'ridge.png', 'raw'].map(isRawName)).toEqual([true, true, false, false]);
  });
});
