import sharp from 'sharp';
import { nodeCodec } from './node';

describe('large pictures', () => {
  it('are let go before the next one is read', async () => {
    const side = 8192;
    const bytes = await sharp({ create: { width: side, height: side, channels: 3, background: '#777' } })
      .toColourspace('grey16')
      .png()
      .toBuffer();
    const one = side * side * 2;
    const before = process.memoryUsage().external;
    let most = 0;
    // In a function of its own, so that nothing here holds what was read.
    const read = async () => {
      const { depth, channels, data } = await nodeCodec.decode(bytes, 'data');
      return [depth, channels, data.byteLength];
    };
    for (let k = 0; k < 3; k++) {
      expect(await read()).toEqual([16, 1, one]);
      most = Math.max(most, process.memoryUsage().external - before);
    }
    expect(most).toBeLessThan(1.5 * one);
  }, 60_000);
});
