import * as fc from 'fast-check';
import type { LayoutError } from '../index';
import {
  PackError,
  collisions,
  fillTemplate,
  makeImage,
  nameProblem,
  nameSlug,
  packChannels,
  parseChannelLayout,
  templateProblem,
  versionProblem,
  weightAt,
  withNeutral,
} from '../index';

const grey = (depth: 8 | 16, values: number[]) =>
  makeImage({ width: values.length, height: 1, channels: 1, depth, data: depth === 8 ? Uint8Array.from(values) : Uint16Array.from(values) });
const bytes = fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 4, maxLength: 4 });
const to = (depth: 8 | 16, width = 4) => ({ width, height: 1, depth });

describe('packing channels', () => {
  it('copies 8-bit maps exactly and undoes an inversion by a second one', () => {
    fc.assert(
      fc.property(bytes, bytes, (o, r) => {
        const maps = { occlusion: grey(8, o), roughness: grey(8, r) };
        const packed = packChannels(parseChannelLayout('r=occlusion,g=1-roughness,b=0.5'), maps, to(8));
        const back = packChannels(parseChannelLayout('r=1-mask.g'), { mask: packed }, to(8));
        expect([0, 1, 2, 3].map((i) => packed.data[i * 3])).toEqual(o);
        expect([...back.data]).toEqual(r);
        expect(packed.data[2]).toBe(128);
      }),
    );
  });
  it('joins greys of any length and mix of inversions as it does channel by channel', () => {
    const invert = fc.boolean();
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 3, maxLength: 60 }), invert, invert, invert, (all, ...flips) => {
        const n = Math.floor(all.length / 3);
        const roles = ['occlusion', 'roughness', 'metallic'] as const;
        const maps = Object.fromEntries(roles.map((role, c) => [role, grey(8, [...all.subarray(c * n, c * n + n)])]));
        const text = roles.map((role, c) => `${'rgb'[c]}=${flips[c] ? '1-' : ''}${role}`).join(',');
        const wanted = Array.from({ length: n * 3 }, (_, i) => {
          const v = all[(i % 3) * n + Math.floor(i / 3)];
          return flips[i % 3] ? 255 - v : v;
        });
        expect([...packChannels(parseChannelLayout(text), maps, to(8, n)).data]).toEqual(wanted);
      }),
    );
  });
  it('has the neutral value of its role where a map is missing, turned round where the route is', () => {
    const channels = parseChannelLayout('r=occlusion,g=1-roughness,b=metallic,a=height');
    const filled = withNeutral(channels, (role) => role === 'height');
    const packed = packChannels(filled, { height: grey(8, [1, 2, 3, 4]) }, to(8));
    for (let i = 0; i < 4; i++) expect([...packed.data.subarray(i * 4, i * 4 + 4)]).toEqual([255, 51, 0, i + 1]);
    const normal = packChannels(
      withNeutral(parseChannelLayout('r=normal.r,g=normal.g,b=normal.b'), () => false),
      {},
      to(8, 1),
    );
    expect([...normal.data]).toEqual([128, 128, 255]);
    // A mean grey is stored as sRGB has it.
    expect(
      packChannels(
        withNeutral(parseChannelLayout('r=baseColor'), () => false),
        {},
        to(8, 1),
      ).data[0],
    ).toBe(188);
  });
  it('rounds 16-bit maps to the nearest byte', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 65535 }), { minLength: 4, maxLength: 4 }), (h) => {
        expect([...packChannels(parseChannelLayout('r=height'), { height: grey(16, h) }, to(8)).data]).toEqual(h.map((v) => Math.round(v / 257)));
        expect([...packChannels(parseChannelLayout('r=height'), { height: grey(16, h) }, to(16)).data]).toEqual(h);
      }),
    );
  });
  it('gives alpha 1 only when it is routed, and one channel when only red is', () => {
    const maps = { roughness: grey(8, [1, 2, 3, 4]) };
    expect(packChannels(parseChannelLayout('r=roughness'), maps, to(8)).channels).toBe(1);
    expect(packChannels(parseChannelLayout('g=roughness'), maps, to(8)).channels).toBe(3);
    const four = packChannels(parseChannelLayout('r=roughness,a=roughness'), maps, to(8));
    expect([...four.data.subarray(0, 4)]).toEqual([1, 0, 0, 1]);
  });
  it('resizes what has another size', () => {
    expect([...packChannels(parseChannelLayout('r=roughness'), { roughness: grey(8, [10, 20, 30, 40]) }, to(8, 2)).data]).toEqual([15, 35]);
  });
  it('names the role or the channel that is missing', () => {
    expect(() => packChannels(parseChannelLayout('r=metallic'), {}, to(8))).toThrowError(PackError, /metallic/);
    expect(() => packChannels(parseChannelLayout('r=roughness.g'), { roughness: grey(8, [1, 1, 1, 1]) }, to(8))).toThrowError(PackError, /no g/);
    expect(() => packChannels({}, {}, to(8))).toThrowError(PackError);
  });
  it('marks a file as colour only when colour comes in untouched', () => {
    const maps = { baseColor: makeImage({ width: 4, height: 1, channels: 3, colourSpace: 'srgb' }), roughness: grey(8, [0, 0, 0, 0]) };
    expect(packChannels(parseChannelLayout('r=baseColor.r,g=baseColor.g,b=baseColor.b,a=roughness'), maps, to(8)).colourSpace).toBe('srgb');
    expect(packChannels(parseChannelLayout('r=baseColor.g,g=baseColor.g,b=baseColor.b'), maps, to(8)).colourSpace).toBe('data');
  });
});

describe('layouts as text', () => {
  it('say exactly where they go wrong', () => {
    const at = (text: string) => {
      try {
        parseChannelLayout(text);
        return null;
      } catch (e) {
        return [(e as LayoutError).at, (e as Error).message];
      }
    };
    expect(at('r=occlusion,g=roughnes')).toEqual([14, jasmine.stringContaining('"roughnes" is not a role')]);
    expect(at('r=occlusion,x=roughness')?.[0]).toBe(12);
    expect(at('r=1.5')).toEqual([2, jasmine.stringContaining('not a number from 0 to 1')]);
    expect(at('r=normal.z')).not.toBeNull();
    expect(at('r=1,r=0')).not.toBeNull();
    expect(at('')).not.toBeNull();
    expect(parseChannelLayout(' r = 1-gloss.b , a=0 ')).toEqual({
      r: { from: 'map', role: 'gloss', channel: 2, invert: true },
      a: { from: 'constant', value: 0 },
    });
  });
});

describe('file names', () => {
  it('are filled from a template and made plain', () => {
    expect(fillTemplate('{set}_{file}', { set: nameSlug('Terrasse à thé'), file: 'orm', size: '2048' })).toBe('terrasse_a_the_orm');
    expect(nameSlug('???')).toBe('unnamed');
    for (const [template, filled] of [
      ['{asset}_{slot}_{set}', 'w'],
      ['{set}_{asset}_{slot}', 'w'],
      ['{set}_{asset}.{slot}_{file}', 'w_f'],
      ['{slot}{set}{asset}', 'w'],
      ['a-{asset}b', 'ab'],
    ])
      expect(fillTemplate(template, { asset: '', slot: '', set: 'w', file: 'f' }))
        .withContext(template)
        .toBe(filled);
  });
  it('hold a version as the recipe has it, of letters that are safe everywhere', () => {
    for (const version of ['v1', '2026-11', 'r12.3', 'A']) expect(versionProblem(version)).withContext(version).toBeNull();
    for (const version of ['', '-v1', '.1', 'v 1', 'v/1', 'é', 'x'.repeat(25)])
      expect(versionProblem(version))
        .withContext(version)
        .toMatch(/is no version/);
  });
  it('that are unsafe are refused with a reason', () => {
    for (const name of ['', '../x', 'a/b', 'a\\b', 'con', 'NUL.png', '.hidden', 'x.', 'a:b', 'x'.repeat(300)])
      expect(nameProblem(name)).withContext(name).not.toBeNull();
    // What is not seen may hide what the name is; what begins with a dash is an option to commands.
    for (const hidden of ['\u202e', '\u200b', '\u200d', '\ufeff', '\u2066', '\u00ad', '\u3164', '\u2028', '\ud800'])
      expect(nameProblem(`terrace${hidden}gnp.exe`))
        .withContext(JSON.stringify(hidden))
        .toMatch(/not seen \(U\+[0-9A-F]{4,5}, shown as ▯\)|holds a character/);
    for (const name of ['-rf', '--help.png', '~root', ' led.png', '\u3000led.png']) expect(nameProblem(name)).withContext(name).not.toBeNull();
    for (const name of ['mur-de-pierre_été', '石_orm', 'стена', 'a-b', 'é'.normalize('NFD')]) expect(nameProblem(name)).withContext(name).toBeNull();
    expect(nameProblem('terrace_orm')).toBeNull();
    expect(templateProblem('{set}_{layout}')).toContain('{layout}');
    expect(templateProblem('{set')).toContain('brace');
    expect(templateProblem('{set}/{file}')).toContain('slash');
    expect(templateProblem('{set}_{file}')).toBeNull();
  });
  it('collide without regard to case', () => expect(collisions(['A.png', 'a.png', 'b.png'])).toEqual(['a.png']));
});

describe('the bytes of a file, from a small picture of it', () => {
  it('are those of its pixels where each takes the same at any size', () => {
    expect(weightAt({ size: 256, bytes: 40_000, half: 10_000 }, 1024, 1024)).toBe(640_000);
    expect(weightAt({ size: 256, bytes: 40_000, half: 10_000 }, 512, 128)).toBe(40_000);
    expect(weightAt({ size: 512, bytes: 40_000, half: 10_000 }, 256, 256)).toBe(10_000);
  });
  it('go on falling from one doubling to the next as they fell before, and not below two fifths', () => {
    // 0.8 as many bytes a pixel with each doubling.
    expect(weightAt({ size: 256, bytes: 40_000, half: 12_500 }, 1024, 1024)).toBe(Math.round(640_000 * 0.64));
    expect(weightAt({ size: 256, bytes: 1000, half: 1000 }, 512, 512)).toBe(1600);
    expect(weightAt({ size: 256, bytes: 60, half: 0 }, 512, 512)).toBe(264);
  });
});
