import type { Heightfield } from '../index';
import {
  Bvh,
  coarserField,
  fieldMesh,
  fieldSky,
  hillside,
  makeBlend,
  makeCue,
  makeLayer,
  makeStack,
  blendMaterial,
  openSky,
  ruledCoverages,
} from '../index';

const fieldOf = (side: number, spacingM: number, altitude: (x: number, z: number) => number): Heightfield => {
  const middle = (side - 1) / 2;
  return {
    width: side,
    height: side,
    spacingM,
    altitude: Float32Array.from({ length: side * side }, (_, i) =>
      altitude(((i % side) - middle) * spacingM, (Math.floor(i / side) - middle) * spacingM),
    ),
  };
};

describe('the sky over a heightfield', () => {
  it('is all open over a plane, however steep, and cos² of the slope at the bottom of a pit, in metres of any size', () => {
    for (const spacingM of [0.1, 1, 7]) {
      for (const slope of [0, 0.5, 2]) {
        const plane = fieldSky(fieldOf(65, spacingM, (x) => x * slope));
        expect(Math.min(...plane)).toBeCloseTo(1, 4);
      }
      for (const slope of [0.3, 1, 2]) {
        const pit = fieldSky(fieldOf(129, spacingM, (x, z) => Math.hypot(x, z) * slope));
        const want = Math.cos(Math.atan(slope)) ** 2;
        expect(Math.abs(pit[64 * 129 + 64] - want))
          .withContext(`${spacingM} m, slope ${slope}`)
          .toBeLessThan(0.01);
        // On the rim of it there is more.
        expect(pit[64 * 129 + 4]).toBeGreaterThan(want + 0.02);
      }
    }
  });
  it('is what rays find over the hillside', () => {
    const field = coarserField(hillside(257), 65);
    const mesh = fieldMesh(field);
    const rays = new Float32Array(65 * 65);
    openSky(mesh, new Bvh(mesh), [0, rays.length], rays, 256);
    const sky = fieldSky(field);
    let [sum, worst] = [0, 0];
    for (let y = 3; y < 62; y++)
      for (let x = 3; x < 62; x++) {
        const off = Math.abs(sky[y * 65 + x] - rays[y * 65 + x]);
        sum += off;
        worst = Math.max(worst, off);
      }
    expect(sum / 59 ** 2).toBeLessThan(0.02);
    expect(worst).toBeLessThan(0.12);
  });
  it('is mixed between coarser samples on a fine field, and read by sentences of weights', () => {
    const fine = hillside(513);
    const [sky, coarse] = [fieldSky(fine), fieldSky(coarserField(fine, 257))];
    expect(sky.length).toBe(513 * 513);
    for (let k = 0; k < 257 * 257; k += 97) {
      const [x, y] = [k % 257, Math.floor(k / 257)];
      expect(sky[y * 2 * 513 + x * 2]).toBeCloseTo(coarse[k], 5);
    }
    const constant = { kind: 'constant' as const, baseColor: '#808080', roughness: 1, metallic: 0, heightM: 0 };
    const shaded = makeLayer(constant, 'Shaded', 2, { coverage: { o: makeCue('occlusion', { centre: 0.9, width: 0.2 }) } });
    const blend = makeBlend('Ground', { extentM: 4, layers: { a: makeLayer(constant, 'Ground', 1), b: shaded } });
    const field = coarserField(fine, 129);
    const { layers } = ruledCoverages(field, blendMaterial(makeStack(blend, {})), () => undefined as never, 0);
    const own = fieldSky(field);
    const near = (lo: number, hi: number) => layers[0].filter((_, i) => own[i] >= lo && own[i] < hi);
    // It lies where less of the sky is open than nine tenths, and not where all of it is.
    const [under, over] = [near(0, 0.79), near(0.999, 1.1)];
    expect(under.length).toBeGreaterThan(20);
    expect(over.length).toBeGreaterThan(20);
    expect(Math.max(...over)).toBeLessThan(0.05);
    expect(Math.min(...under)).toBeGreaterThan(0.95);
  });
});
