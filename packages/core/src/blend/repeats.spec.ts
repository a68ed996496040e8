import type { Image, LayerLaying } from '../index';
import { laidAlone, makeLayer, makeImage, makeStack, blendMaterial, measuredWidth, repetitionAsLaid, sourcesOfMaps, tileRepetition } from '../index';

const SIZE_M = 1;
/** A tile with a dark blot that the eye finds again and again. */
const blotted: Image = makeImage({ width: 64, height: 64, channels: 3, colourSpace: 'srgb' });
for (let i = 0; i < 64 * 64; i++) {
  const away = Math.hypot((i % 64) - 20, Math.floor(i / 64) - 40);
  blotted.data.fill(away < 12 ? 90 : 150 + ((i * 7919) % 13), i * 3, i * 3 + 3);
}
const surface = { s: { sizeM: SIZE_M, reliefM: 0.01, mid: 0.5, roles: new Set(['baseColor'] as const) } };

function seen(laying: LayerLaying | undefined, distanceM: number) {
  const layer = makeLayer('s', 'Blots', 1, laying ? { laying } : {});
  const blend = laidAlone(layer, measuredWidth(SIZE_M, distanceM));
  const material = blendMaterial(makeStack(blend, surface as never));
  const find = sourcesOfMaps({ baseColor: blotted }, true);
  return repetitionAsLaid(material, (_, channel) => find(channel)!, distanceM, true);
}

describe('repetition of a surface as it lies', () => {
  it('is measured over powers of two of it, as wide as is seen from there', () => {
    expect([2, 20, 100].map((d) => measuredWidth(1, d))).toEqual([4, 16, 128]);
    expect(measuredWidth(3, 2)).toBe(12);
    expect(Number.isInteger(Math.log2(measuredWidth(0.7, 55) / 0.7))).toBe(true);
  });
  it('is what its tile has where nothing hides it', () => {
    const [laid, tile] = [seen(undefined, 2), tileRepetition(blotted, SIZE_M)];
    expect(tile.score).toBeGreaterThan(0.3);
    expect(Math.abs(laid.score - tile.score)).toBeLessThan(0.05);
    expect(laid.everyM).toBeCloseTo(1, 1);
  });
  it('falls by each way that hides it, from where that way works', () => {
    const plain = seen(undefined, 2).score;
    const turns = seen({ turns: { atM: 1.5, seed: 1 } }, 2).score;
    const cells = seen({ cells: { atM: 0.75, turn: 180, seed: 1 } }, 2).score;
    expect(turns).toBeLessThan(plain * 0.8);
    expect(cells).toBeLessThan(plain / 2);
    expect(seen({ macro: { by: 0.6, atM: 1.5, seed: 1 } }, 2).score).toBeLessThan(plain);
    // From afar it lies larger: what comes again does so farther apart.
    const far = { times: 6, fromM: 5, toM: 10 };
    expect(seen({ far }, 2).score).toBeCloseTo(plain, 6);
    expect(seen({ far }, 20).everyM).toBeGreaterThan(seen(undefined, 20).everyM);
  });
});
