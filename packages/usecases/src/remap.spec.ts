import type { Image, MapEntry, Role, Step, StepKind, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, generateSurface, linearToSrgb, makeImage, makeRandom } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { writeTiff } from '../../formats/src/testing/writers';
import {
  asRole,
  asWhole,
  changeMaps,
  flipGreen,
  generateSurfaceDocument,
  importSurface,
  inPlaceOf,
  loadMap,
  loadMaps,
  lookAtFiles,
  recipeOfMap,
} from './index';
import type { IncomingMap, Ports } from './index';
import { memoryPorts } from './testing/memory';

const quiet = () => undefined;
const SIZE = 64;
const stone = generateSurface('terrace-stone', { seed: 6, size: SIZE });
const put = async (ports: Ports, image: Image) => ports.blobs.put(await nodeCodec.encode(image), 'image/png');
const step = (kind: StepKind, values: Record<string, number> = {}, order = 1): Step => ({ order, kind, on: true, values });

async function imported(ports: Ports, roles: readonly (typeof BLEND_ROLES)[number][] = BLEND_ROLES): Promise<SurfaceDocument> {
  const maps: IncomingMap[] = [];
  for (const role of roles) maps.push({ role, blob: await put(ports, stone.maps[role]), fileName: `stone_${role}.png`, normalDirection: 'y+' });
  return importSurface(ports, { name: 'Stone', ...stone.facts, maps }, quiet);
}
const entry = (surface: SurfaceDocument, role: Role) => surface.maps[role] as MapEntry;

describe('changing maps of a surface', () => {
  it('reads green the other way, and back to the same document', async () => {
    const ports = memoryPorts();
    const before = await imported(ports);
    const { source, steps } = recipeOfMap(entry(before, 'normal'));
    const turned = await changeMaps(ports, before, [{ role: 'normal', source: { ...source, normalDirection: 'y-' } as never, steps }], quiet);
    expect(entry(turned, 'normal').normalDirection).toBe('y-');
    expect((await loadMap(ports, entry(turned, 'normal'), 'normal')).data).toEqual(flipGreen(stone.maps.normal).data);
    expect(turned.thumbnail).not.toBe(before.thumbnail);
    const back = await changeMaps(ports, turned, [{ role: 'normal', source }], quiet);
    expect(entry(back, 'normal')).toEqual(entry(before, 'normal'));
  });
  it('makes a roughness of a photograph, keeps the file and says how', async () => {
    const ports = memoryPorts();
    const before = await imported(ports, ['baseColor']);
    const steps = { a: step('desaturate'), b: step('invert', {}, 2) };
    const after = await changeMaps(ports, before, [{ role: 'roughness', source: { role: 'baseColor' }, steps }], quiet);
    const made = entry(after, 'roughness');
    expect(made.made).toEqual({ source: { role: 'baseColor' }, steps, notes: [] });
    expect([made.channels, made.depth, made.colourSpace]).toEqual([1, 8, 'data']);
    const rough = await loadMap(ports, made, 'roughness');
    const [r, g, b] = [0, 1, 2].map((c) => stone.maps.baseColor.data[c]);
    expect(255 - rough.data[0]).toBeGreaterThanOrEqual(Math.min(r, g, b));
    expect(255 - rough.data[0]).toBeLessThanOrEqual(Math.max(r, g, b));
    expect(entry(after, 'baseColor')).toEqual(entry(before, 'baseColor'));
  });
  it('makes what follows a map anew when that map changes, in order', async () => {
    const ports = memoryPorts();
    let surface = await imported(ports, ['height']);
    surface = await changeMaps(
      ports,
      surface,
      [
        { role: 'normal', source: { role: 'height' }, steps: { a: step('normal') } },
        { role: 'cavity', source: { role: 'height' }, steps: { a: step('cavity') } },
      ],
      quiet,
    );
    expect(entry(surface, 'normal').depth).toBe(16);
    const flat = await put(ports, makeImage({ width: SIZE, height: SIZE, channels: 1, data: new Uint8Array(SIZE * SIZE).fill(128) }));
    const source = { blob: flat, fileName: 'flat.png', normalDirection: null, colourSpace: 'data' as const };
    const after = await changeMaps(ports, surface, [{ role: 'height', source }], quiet);
    const normal = await loadMap(ports, entry(after, 'normal'), 'normal');
    expect([...normal.data.subarray(0, 3)]).toEqual([32768, 32768, 65535]);
    expect(new Set((await loadMap(ports, entry(after, 'cavity'), 'cavity')).data)).toEqual(new Set([65535]));
  });
  it('takes the relief that a height was found to have', async () => {
    const ports = memoryPorts();
    const before = await imported(ports, ['normal']);
    const after = await changeMaps(ports, before, [{ role: 'height', source: { role: 'normal' }, steps: { a: step('height') } }], quiet);
    expect(after.reliefM).not.toBe(before.reliefM);
    expect(after.reliefM / stone.facts.reliefM).toBeGreaterThan(0.3);
    expect(after.reliefM / stone.facts.reliefM).toBeLessThan(1.5);
    expect(entry(after, 'height').made?.notes[0]).toMatch(/^The directions are met within/);
  });
  it('keeps settings when the image behind a map is another', async () => {
    const ports = memoryPorts();
    const before = await imported(ports, ['roughness']);
    Object.assign(entry(before, 'roughness'), { settings: { format: 'R8' }, overrides: { phone: { dropMips: 1 } } });
    const source = {
      ...(recipeOfMap(entry(before, 'roughness')).source as object),
      blob: await put(ports, stone.maps.occlusion),
      fileName: 'new.png',
    };
    const after = entry(await changeMaps(ports, before, [{ role: 'roughness', source: source as never }], quiet), 'roughness');
    expect([after.fileName, after.settings, after.overrides]).toEqual(['new.png', { format: 'R8' }, { phone: { dropMips: 1 } }]);
  });
  it('drawn anew keep settings, steps and the maps that follow', async () => {
    const ports = memoryPorts();
    const order = { name: 'terrace-stone' as const, seed: 6, size: SIZE };
    let old = await generateSurfaceDocument(ports, order, quiet);
    old.maps.normal = { ...entry(old, 'normal'), settings: { format: 'BC7' } };
    old.name = 'Shed wall';
    const cavity = { role: 'cavity' as const, source: { role: 'height' as const }, steps: { a: step('cavity') } };
    const rough = { role: 'roughness' as const, steps: { a: step('invert') } };
    old = await changeMaps(ports, old, [cavity, rough], quiet);
    const drawn = await generateSurfaceDocument(ports, { ...order, seed: 7 }, quiet);
    const next = await inPlaceOf(ports, old, drawn, quiet);
    expect([next.name, entry(next, 'normal').settings, next.generator?.seed]).toEqual(['Shed wall', { format: 'BC7' }, 7]);
    expect(entry(next, 'height').blob).toBe(entry(drawn, 'height').blob);
    expect(entry(next, 'cavity').blob).not.toBe(entry(old, 'cavity').blob);
    const [own, made] = [await loadMap(ports, entry(drawn, 'roughness'), 'roughness'), await loadMap(ports, entry(next, 'roughness'), 'roughness')];
    expect(Array.from(made.data)).toEqual(Array.from(own.data, (v) => 255 - v));
  });
  it('reads gloss as one minus roughness where there is no roughness, says so, and takes it back', async () => {
    const ports = memoryPorts();
    const gloss = stone.maps.roughness;
    const map = { role: 'gloss', blob: await put(ports, gloss), fileName: 'stone_gloss.png', normalDirection: 'y+' } as const;
    const surface = await importSurface(ports, { name: 'Stone', ...stone.facts, maps: [map] }, quiet);
    const made = entry(surface, 'roughness');
    expect(made.made?.source).toEqual({ role: 'gloss' });
    expect((await loadMap(ports, made, 'roughness')).data).toEqual(gloss.data.map((v) => 255 - v));
    // Without it, it stays away, whatever else changes; a gloss that comes later feeds again.
    const without = await changeMaps(ports, surface, [{ role: 'roughness', remove: true }], quiet);
    expect(Object.keys(without.maps)).toEqual(['gloss']);
    const { source } = recipeOfMap(entry(without, 'gloss'));
    expect(Object.keys((await changeMaps(ports, without, [{ role: 'gloss', source }], quiet)).maps)).toEqual(['gloss']);
    const later = await changeMaps(ports, await imported(ports, ['height']), [{ role: 'gloss', source }], quiet);
    expect(Object.keys(later.maps).sort()).toEqual(['gloss', 'height', 'roughness']);
    const both = await changeMaps(ports, await imported(ports, ['roughness']), [{ role: 'gloss', source }], quiet);
    expect(entry(both, 'roughness').made).toBeUndefined();
  });
  it('refuses a map made of itself, of one that is not there, and of nothing, and leaves the surface as it was', async () => {
    const ports = memoryPorts();
    const surface = await imported(ports, ['height']);
    const copy = structuredClone(surface);
    const change = (...changes: Parameters<typeof changeMaps>[2]) => changeMaps(ports, surface, changes, quiet);
    await expectAsync(change({ role: 'height', source: { role: 'normal' } }, { role: 'normal', source: { role: 'height' } })).toBeRejectedWithError(
      /height is made of normal is made of height/,
    );
    await expectAsync(change({ role: 'cavity', source: { role: 'mask' } })).toBeRejectedWithError(
      /The mask map that this one is made of is not there/,
    );
    await expectAsync(change({ role: 'gloss' })).toBeRejectedWithError(/has no gloss map to change/);
    expect(surface).toEqual(copy);
  });
  it('takes channels of one packed file apart', async () => {
    const ports = memoryPorts();
    const [o, r] = [stone.maps.occlusion.data, stone.maps.roughness.data];
    const packed = makeImage({
      width: SIZE,
      height: SIZE,
      channels: 3,
      data: Uint8Array.from({ length: SIZE * SIZE * 3 }, (_, i) => [o, r, o][i % 3][Math.floor(i / 3)]),
    });
    const file = { blob: await put(ports, packed), fileName: 'stone_orm.png', normalDirection: 'y+' as const };
    const doc = await importSurface(
      ports,
      {
        name: 'Stone',
        ...stone.facts,
        maps: (['occlusion', 'roughness'] as const).map((role, index) => ({ ...file, role, steps: { c: step('channel', { index }) } })),
      },
      quiet,
    );
    const maps = await loadMaps(ports, doc, ['occlusion', 'roughness']);
    expect(maps.occlusion?.data).toEqual(o);
    expect(maps.roughness?.data).toEqual(r);
  });
  it('encodes colours that are stored linear, in the depth they have', () => {
    const linear = makeImage({ width: 1, height: 1, channels: 4, depth: 16, colourSpace: 'linear', data: Uint16Array.of(0, 16384, 65535, 777) });
    const out = asRole(linear, 'baseColor', null);
    expect(out.colourSpace).toBe('srgb');
    expect([...out.data]).toEqual([0, Math.round(linearToSrgb(16384 / 65535) * 65535), 65535, 777]);
  });
});

describe('float pictures', () => {
  const float = (channels: 1 | 3, ...values: number[]) =>
    makeImage({ width: values.length / channels, height: 1, channels, depth: 32, colourSpace: 'linear', data: Float32Array.from(values) });
  it('of heights outside 0 to 1 are metres over their range', () => {
    const made = asWhole(float(1, 312, 356, 400), 'height');
    expect([made.reliefM, [...made.image.data]]).toEqual([88, [0, 32768, 65535]]);
    expect(made.note).toBe('Heights of 312.00 to 400.00 m, kept in 16 bits over that range.');
    expect(asWhole(float(1, 0, 0.5, 1), 'height').reliefM).toBeNull();
  });
  it('of colours are encoded, and cut where they shine', () => {
    const made = asWhole(float(3, 0, 0.5, 9), 'baseColor');
    expect([...made.image.data]).toEqual([0, Math.round(linearToSrgb(0.5) * 65535), 65535]);
    expect(made.note).toContain('what lies outside 0 to 1 is cut');
  });
  it('with values that are no numbers become maps all the same', () => {
    expect([...asWhole(float(1, NaN, Infinity, 0.25), 'roughness').image.data]).toEqual([0, 0, 16384]);
    expect([...asWhole(float(1, NaN, NaN), 'height').image.data]).toEqual([0, 0]);
  });
  it('are imported with their file kept and their relief taken', async () => {
    const ports = memoryPorts();
    const file = writeTiff({ width: 2, height: 2, channels: 1, data: Float32Array.of(0, 1, 2, 3) }, 32);
    const blob = await ports.blobs.put(file, 'image/tiff');
    const maps = [{ blob, fileName: 'ridge.tif', role: 'height' as const, normalDirection: 'y+' as const }];
    const doc = await importSurface(ports, { name: 'Ridge', sizeM: 1, reliefM: 0.05, maps }, quiet);
    const height = entry(doc, 'height');
    expect([doc.reliefM, height.depth]).toEqual([3, 16]);
    expect((height.made?.source as { blob: string }).blob).toBe(blob);
    expect([...(await loadMap(ports, height, 'height')).data]).toEqual([0, 21845, 43690, 65535]);
  });
});

describe('looking at files', () => {
  it('groups by stem, weighs a surface together, and goes on past a broken file', async () => {
    const ports = memoryPorts();
    const named = async (image: Image, fileName: string) => ({ blob: await put(ports, image), fileName });
    const files = [
      await named(stone.maps.normal, 'wall_4k_n.png'),
      { blob: await ports.blobs.put(Uint8Array.of(1, 2, 3), 'image/png'), fileName: 'wall_height.png' },
      await named(flipGreen(generateSurface('river-gravel', { seed: 1, size: 128 }).maps.normal), 'gravel_normal.png'),
      await named(stone.maps.baseColor, 'wall_albedo.png'),
    ];
    const notes: string[] = [];
    const found = await lookAtFiles(ports, files, (_, note) => notes.push(note));
    expect(found.map((f) => f.fileName)).toEqual(files.map((f) => f.fileName));
    expect(found.map((f) => f.role)).toEqual(['normal', null, 'normal', 'baseColor']);
    expect(found.map((f) => f.stem)).toEqual(['wall', 'wall', 'gravel', 'wall']);
    expect(found[2].normalDirection).toBe('y-');
    expect(found[1].problem).toMatch(/^wall_height\.png: .+\.$/);
    expect(notes.sort()).toEqual(files.map((f) => f.fileName).sort());
  });
  it('asks when a name and a content disagree', async () => {
    const ports = memoryPorts();
    const random = makeRandom(1);
    const noise = makeImage({ width: 64, height: 64, channels: 3, data: Uint8Array.from({ length: 64 * 64 * 3 }, () => random() * 256) });
    const [found] = await lookAtFiles(ports, [{ blob: await put(ports, noise), fileName: 'x_normal.png' }], quiet);
    expect(found.findings.map((f) => f.code)).toContain('name-content-disagree');
  });
});
