import { flatDomain } from '../compile';
import { linkTo, makeOperation, valueOf } from '../document';
import { NOTHING, graph, noSources } from '../testing/graphs';
import { stepValue } from './looks';
import { MasterMaterials, lowerMaster } from './material';
import { throughBlocks } from './through-blocks';

const look = (d: ReturnType<typeof graph>, id: string, side = 32) => {
  const lowered = lowerMaster(d, NOTHING);
  const { values } = new MasterMaterials().of(d, NOTHING);
  return throughBlocks(stepValue(lowered, id, 'out')!, { values, sources: noSources, domain: flatDomain(side, side) });
};
const ramp = graph(
  {
    uv: makeOperation('texcoord', 1),
    u: makeOperation('extract', 2, { inputs: { in: linkTo('uv') } }),
    red: makeOperation('mix', 3, { inputs: { bg: valueOf(0, 0, 0), fg: valueOf(1, 0, 0), mix: linkTo('u') } }),
    flat: makeOperation('normalmap', 4, { inputs: { in: valueOf(0, 0) } }),
  },
  { roughness: linkTo('u') },
);

describe('an output through blocks', () => {
  it('is kept as what it is: one number, two and normals, colours in sRGB', () => {
    expect(['u', 'uv', 'flat', 'red'].map((id) => look(ramp, id).format)).toEqual(['BC4', 'BC5', 'BC5', 'BC7']);
    // Eight bytes for 16 texels of one channel, sixteen for more.
    expect(look(ramp, 'u').bytes).toBe((32 * 32) / 2);
    expect(look(ramp, 'red').bytes).toBe(32 * 32);
  });
  it('is seen as it was, but for what blocks take from it', () => {
    const grey = look(ramp, 'u');
    // Four columns of a block are four numbers 8 apart: eight levels from end to end come within half a level of each.
    expect(grey.worst).toBeLessThanOrEqual(24 / 14 + 0.5);
    for (let x = 0; x < 32; x++) expect(Math.abs(grey.rgba[x * 4] - (255 * (x + 0.5)) / 32)).toBeLessThanOrEqual(grey.worst + 1);
    const red = look(ramp, 'red');
    const srgb = (l: number) => 255 * (l <= 0.0031308 ? 12.92 * l : 1.055 * l ** (1 / 2.4) - 0.055);
    for (let x = 0; x < 32; x++) expect(Math.abs(red.rgba[x * 4] - srgb((x + 0.5) / 32))).toBeLessThanOrEqual(red.worst + 1);
    // 128 of 255 is the nearest to no tilt that 8 bits have.
    expect([...look(ramp, 'flat').rgba.subarray(0, 4)]).toEqual([128, 128, 255, 255]);
  });
  it('says by how much it is off', () => {
    const d = graph({
      n: makeOperation('noise2d', 1, { inputs: { texcoord: linkTo('t') } }),
      t: makeOperation('multiply', 2, { inputs: { in1: linkTo('uv'), in2: valueOf(31) } }),
      uv: makeOperation('texcoord', 3),
    });
    const { worst, rms } = look(d, 'n', 64);
    expect(worst).toBeGreaterThan(0.5);
    expect(rms).toBeGreaterThan(0.1);
    expect(rms).toBeLessThan(worst);
  });
});
