import { idColours, makeImage, makeSpecimen, partNames, partShares, SPECIMEN_MODELS } from '../index';

describe('ID maps', () => {
  const image = (colours: number[][]) => makeImage({ width: colours.length, height: 1, channels: 3, data: Uint8Array.from(colours.flat()) });
  it('are told by their colours and shares, near-equal ones merged into the commoner', () => {
    const colours = [...Array(5).fill([255, 0, 0]), ...Array(3).fill([0, 0, 255]), [252, 3, 0], [128, 0, 128]];
    expect(idColours(image(colours), 0.05)).toEqual([
      { id: '#ff0000', share: 0.6, merged: 1 },
      { id: '#0000ff', share: 0.3, merged: 0 },
      { id: '#800080', share: 0.1, merged: 0 },
    ]);
    expect(idColours(image(colours), 0).length).toBe(4);
    // With the whole of colour space as tolerance all is one.
    expect(idColours(image(colours), 2)).toEqual([{ id: '#ff0000', share: 1, merged: 3 }]);
  });
  it('that are noise end in as many colours as are looked at, and lose nothing', () => {
    const noise = idColours(image(Array.from({ length: 2000 }, (_, i) => [i % 256, (i * 7) % 256, (i * 13) % 256])), 0);
    expect(noise.length).toBeLessThanOrEqual(256);
    expect(noise.reduce((sum, c) => sum + c.share, 0)).toBeCloseTo(1, 9);
  });
  it('may be parts of the mesh, by area', () => {
    const shares = partShares(makeSpecimen('copper-still', 1), partNames(SPECIMEN_MODELS['copper-still'](1)));
    expect(shares.map((s) => s.id).sort()).toEqual(['body', 'lid', 'pipe', 'stand']);
    expect(shares[0].id).toBe('body');
    expect(shares.reduce((sum, s) => sum + s.share, 0)).toBeCloseTo(1, 6);
  });
});
