import type { Mesh } from '../index';
import { idColour, idColours, idMapOf, makeImage, makeSpecimen, partNames, partShares, SPECIMEN_MODELS } from '../index';

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
  it('have colours that nobody takes for each other', () => {
    const rgb = Array.from({ length: 8 }, (_, i) => [1, 3, 5].map((at) => parseInt(idColour(i).slice(at, at + 2), 16) / 255));
    for (const [i, a] of rgb.entries()) for (const b of rgb.slice(0, i)) expect(Math.hypot(...a.map((v, c) => v - b[c]))).toBeGreaterThan(0.45);
    expect(idColour(0)).toBe('#f20000');
  });
  it('are drawn of the parts of a mesh, in flat colours up to the rims and beyond', () => {
    // Part 0 has the left half of the texture but for a gap, part 1 a triangle in the right half.
    const mesh = {
      texcoord: Float32Array.of(0, 0, 0.375, 0, 0, 1, 0.375, 1, 0.5, 0, 1, 0, 1, 1),
      part: Float32Array.of(0, 0, 0, 0, 1, 1, 1),
      index: Uint32Array.of(0, 1, 2, 1, 3, 2, 4, 5, 6),
    } as unknown as Mesh;
    const { data } = idMapOf(mesh, ['#ff0000', '#0080ff'], 8);
    const rows = Array.from({ length: 8 }, (_, y) => Array.from({ length: 8 }, (_, x) => (data[(y * 8 + x) * 3] ? 'a' : 'b')).join(''));
    // The gap is shared between its neighbours, each place taking the nearer.
    expect(rows).toEqual([...Array<string>(4).fill('aaaabbbb'), ...Array<string>(4).fill('aaaaabbb')]);
    expect(idColours(makeImage({ width: 8, height: 8, channels: 3, data }), 0).map((c) => c.id)).toEqual(['#ff0000', '#0080ff']);
  });
});
