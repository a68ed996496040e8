import fc from 'fast-check';
import type { MapRoute, RecipeFile, Role } from '../index';
import {
  DITHER,
  READY_RECIPES,
  ROLE_CODES,
  guessedLayout,
  ROLES,
  codesText,
  layoutCode,
  parseCodes,
  layoutText,
  nameSlug,
  parseChannelLayout,
  ditherAt,
  filesOf,
  leftOut,
  lossesAt,
  makeImage,
  packChannels,
  routed,
  rowPacker,
  srgbToLinear,
} from '../index';

const from = (role: Role, over: Partial<MapRoute> = {}): MapRoute => ({ from: 'map', role, channel: 0, invert: false, ...over });
const grey = (depth: 8 | 16, values: readonly number[], width = values.length) =>
  makeImage({ width, height: values.length / width, channels: 1, depth, data: depth === 8 ? Uint8Array.from(values) : Uint16Array.from(values) });
const file = (channels: RecipeFile['channels'], over: Partial<RecipeFile> = {}): RecipeFile => ({
  order: 1,
  label: 'f',
  depth: 8,
  channels,
  ...over,
});

describe('steps between a map and a file', () => {
  it('take levels, colour spaces and turning over as their formulas say, at every value', () => {
    const all = Array.from({ length: 256 }, (_, v) => v);
    const packed = (route: MapRoute) => [...packChannels({ r: route }, { roughness: grey(8, all) }, { width: 256, height: 1, depth: 8 }).data];
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 60, max: 100 }),
        fc.integer({ min: 5, max: 95 }),
        fc.boolean(),
        fc.constantFrom(undefined, 'linear' as const),
        (low, high, mid, invert, space) => {
          const levels = { low: low / 100, high: high / 100, mid: mid / 100 };
          packed(from('roughness', { levels, invert, ...(space ? { space } : {}) })).forEach((v, i) => {
            const stored = space ? srgbToLinear(i / 255) : i / 255;
            const t = Math.min(1, Math.max(0, (stored - levels.low) / (levels.high - levels.low)));
            // The Schlick bias through (mid, one half).
            const bent = t / (t + (levels.mid / (1 - levels.mid)) * (1 - t));
            // Either way where it lies half way between two.
            expect(Math.abs(v - 255 * (invert ? 1 - bent : bent))).toBeLessThanOrEqual(0.5 + 1e-9);
          });
        },
      ),
      { numRuns: 40 },
    );
    expect(routed({ invert: false, levels: { low: 0, high: 1, mid: 0.3 } }, 0.3)).toBeCloseTo(0.5, 9);
    // There and back.
    const back = packed(from('roughness', { space: 'linear' })).map((v) => Math.round(255 * routed({ invert: false, space: 'srgb' }, v / 255)));
    back.forEach((v, i) => i > 80 && expect(Math.abs(v - i)).toBeLessThanOrEqual(2));
  });
  it('without any are as exact as before, of 16 bits too', () => {
    fc.assert(
      fc.property(fc.uint16Array({ minLength: 8, maxLength: 8 }), (values) => {
        const even = { low: 0, high: 1, mid: 0.5 };
        const deep = (route: MapRoute) => [...packChannels({ r: route }, { height: grey(16, [...values]) }, { width: 8, height: 1, depth: 16 }).data];
        expect(deep(from('height'))).toEqual([...values]);
        expect(deep(from('height', { levels: even }))).toEqual([...values]);
      }),
    );
  });
  it('dither 16 bits to 8: the mean keeps what rounding loses, the same by rows and at once', async () => {
    expect([...DITHER].map((v) => Math.round((v + 0.5) * 64 - 0.5)).sort((a, b) => a - b)).toEqual(Array.from({ length: 64 }, (_, i) => i));
    const side = 16;
    for (const value of [0, 100, 12345, 33000, 65535]) {
      const map = grey(
        16,
        Array.from({ length: side * side }, () => value),
        side,
      );
      const target = { width: side, height: side, depth: 8 as const, dither: true };
      const whole = packChannels({ r: from('height') }, { height: map }, target).data;
      const mean = [...whole].reduce((a, b) => a + b, 0) / whole.length;
      expect(Math.abs(mean - value / 257))
        .withContext(String(value))
        .toBeLessThan(1 / 64);
      expect(Math.max(...whole) - Math.min(...whole)).toBeLessThanOrEqual(1);
      const packer = rowPacker({ r: from('height') }, { height: map }, target);
      const rows = [...(await packer.rows(0, 5)), ...(await packer.rows(5, 16))];
      expect(rows).toEqual([...whole]);
    }
    expect(ditherAt(3, 1)).toBe(ditherAt(11, 9));
    // What 8 bits hold is left as it is.
    const eight = packChannels({ r: from('roughness') }, { roughness: grey(8, [1, 2, 3, 4]) }, { width: 4, height: 1, depth: 8, dither: true });
    expect([...eight.data]).toEqual([1, 2, 3, 4]);
  });
});

describe('losses where channels cross into files', () => {
  const deep = { depth: 16, colourSpace: 'data' } as const;
  const colour = { depth: 8, colourSpace: 'srgb' } as const;
  const codes = (f: RecipeFile, channel: 'r' | 'g' | 'b' | 'a', map: Parameters<typeof lossesAt>[2]) => lossesAt(f, channel, map).map((l) => l.code);
  const whole = { r: from('baseColor'), g: from('baseColor', { channel: 1 }), b: from('baseColor', { channel: 2 }) };
  it('are said where they are, and not where there is none', () => {
    expect(codes(file({ b: from('height') }), 'b', deep)).toEqual(['depth']);
    expect(codes(file({ b: from('height') }, { depth: 16 }), 'b', deep)).toEqual([]);
    expect(codes(file({ b: from('height') }, { dither: true }), 'b', deep)).toEqual([]);
    expect(codes(file({ b: from('height') }), 'b', { ...deep, depth: 8 })).toEqual([]);
    for (const c of ['r', 'g', 'b'] as const) expect(codes(file(whole), c, colour)).toEqual([]);
    expect(codes(file({ ...whole, g: from('roughness') }), 'r', colour)).toEqual(['colour-in-data']);
    expect(codes(file({ g: from('baseColor', { space: 'linear' }) }), 'g', colour)).toEqual([]);
    expect(codes(file({ ...whole, a: from('roughness') }), 'a', { ...colour, colourSpace: 'data' })).toEqual(['alpha-covers']);
    expect(codes(file({ ...whole, a: from('opacity') }), 'a', { ...colour, colourSpace: 'data' })).toEqual([]);
    expect(codes(file({ r: from('metallic'), g: from('metallic') }), 'g', { depth: 8, colourSpace: 'data' })).toEqual(['twice']);
    expect(codes(file({ r: from('metallic'), g: from('metallic') }), 'r', { depth: 8, colourSpace: 'data' })).toEqual([]);
    expect(codes(file({}), 'r', null)).toEqual([]);
  });
  it('say of what is left out why that may be well', () => {
    const files = [file({ r: from('roughness') })];
    expect(leftOut(files, ['roughness', 'gloss', 'metallic', 'curvature', 'height'], new Set<Role>(['metallic']), ['roughness', 'height'])).toEqual([
      { role: 'gloss', why: 'is roughness turned over, which is packed' },
      { role: 'metallic', why: 'is the same everywhere' },
      { role: 'curvature', why: 'is not read by the target' },
      { role: 'height', why: 'goes into no file' },
    ]);
  });
  it('are in no ready-made recipe that does not say so', () => {
    for (const recipe of READY_RECIPES)
      for (const f of Object.values(filesOf(recipe)))
        for (const c of ['r', 'g', 'b', 'a'] as const) {
          const found = lossesAt(f, c, null).map((l) => l.code);
          expect(found.filter((code) => code !== 'alpha-covers' && code !== 'twice'))
            .withContext(`${recipe.name}, ${f.label}, ${c}`)
            .toEqual([]);
        }
  });
});

describe('layouts as text', () => {
  it('are read back as they were', () => {
    for (const text of [
      'r=occlusion,g=1-roughness,b=metallic',
      'r=baseColor.r,g=baseColor.g,b=baseColor.b,a=opacity',
      'g=0.5,a=1-height',
      'r=normal.r,g=normal.g',
    ])
      expect(layoutText(parseChannelLayout(text))).toBe(text);
  });
  it('are guessed of what was recognised: packed channels, or a map with its alpha', () => {
    const text = (seen: Parameters<typeof guessedLayout>[0], channels: number) => {
      const found = guessedLayout(seen, channels);
      return found && layoutText(found);
    };
    expect(text({ role: null, packed: { r: 'occlusion', b: 'metallic' }, alpha: null }, 3)).toBe('r=occlusion,b=metallic');
    expect(text({ role: 'baseColor', packed: null, alpha: 'roughness' }, 4)).toBe('r=baseColor.r,g=baseColor.g,b=baseColor.b,a=roughness');
    expect(text({ role: 'roughness', packed: null, alpha: null }, 3)).toBe('r=roughness');
    expect(text({ role: null, packed: null, alpha: null }, 3)).toBeNull();
    expect(text({ role: null, packed: {}, alpha: null }, 3)).toBeNull();
  });
});

describe('names of packed files', () => {
  it('join words by the rule of the recipe, whatever they were', () => {
    for (const [text, snake, kebab, pascal, upper] of [
      ['Terrace stone', 'terrace_stone', 'terrace-stone', 'TerraceStone', 'TERRACE_STONE'],
      ['  Crème — brûlée 02!', 'creme_brulee_02', 'creme-brulee-02', 'CremeBrulee02', 'CREME_BRULEE_02'],
      ['???', 'unnamed', 'unnamed', 'Unnamed', 'UNNAMED'],
    ] as const)
      expect([nameSlug(text), nameSlug(text, 'kebab'), nameSlug(text, 'pascal'), nameSlug(text, 'upper')]).toEqual([snake, kebab, pascal, upper]);
  });
  it('takes own codes as they are typed, whatever case roles are in, and says which part is wrong', () => {
    expect(parseCodes('roughness=RGH, BASECOLOR = Alb')).toEqual({ roughness: 'RGH', baseColor: 'Alb' });
    expect(parseCodes(' , ')).toEqual({});
    expect(layoutCode(parseChannelLayout('r=occlusion,g=roughness'), parseCodes('roughness=RGH'))).toBe('ORGH');
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom(...ROLES), fc.stringMatching(/^[A-Za-z0-9]{1,8}$/)), (codes) => {
        expect(parseCodes(codesText(codes as never))).toEqual({ ...codes });
      }),
    );
    for (const [text, says] of [
      ['shininess=S', '"shininess=S" names no map'],
      ['roughness', '"roughness" names no map'],
      ['normal=N!', 'one to eight letters'],
      ['normal=', 'one to eight letters'],
      ['normal=N, roughness=123456789', '"roughness=123456789"'],
    ])
      expect(() => parseCodes(text)).toThrowError(RangeError, new RegExp(says.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')));
  });
  it('say in letters what channels hold: a map that fills several stands once, own codes stand in for ours', () => {
    expect(layoutCode(parseChannelLayout('r=occlusion,g=1-roughness,b=metallic'))).toBe('ORM');
    expect(layoutCode(parseChannelLayout('r=baseColor.r,g=baseColor.g,b=baseColor.b,a=opacity'))).toBe('BCA');
    expect(layoutCode(parseChannelLayout('r=normal.r,g=normal.g,b=height,a=0.5'))).toBe('NH');
    expect(layoutCode(parseChannelLayout('r=metallic,g=occlusion,b=metallic'))).toBe('MOM');
    expect(layoutCode(parseChannelLayout('r=occlusion,g=roughness'), { occlusion: 'AO' })).toBe('AOR');
    expect(layoutCode(parseChannelLayout('r=1'))).toBe('');
    // Codes tell every two roles apart.
    expect(new Set(Object.values(ROLE_CODES)).size).toBe(Object.keys(ROLE_CODES).length);
  });
});
