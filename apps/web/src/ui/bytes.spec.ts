import { bytesText } from './bytes';

describe('bytes', () => {
  it('are said in thousands and millions', () => {
    expect([0, 999, 1000, 65_536, 999_499, 1_000_000, 2_097_152, 64_000_000].map(bytesText)).toEqual([
      '0 B',
      '999 B',
      '1 kB',
      '66 kB',
      '999 kB',
      '1.00 MB',
      '2.10 MB',
      '64.0 MB',
    ]);
  });
});
