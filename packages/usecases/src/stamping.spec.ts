import type { AssetDocument, Image, MapSet, Model, PressedStamp, SpecimenDocument, SurfaceDocument } from '@pebble/core';
import { DEFAULT_STAMP, MAX_STAMPS, makeAsset, makeImage, stampsAmiss } from '@pebble/core';
import { panel } from '../../formats/src/testing/panels';
import { UseCaseError } from './errors';
import { keepImage } from './making';
import { loadMaps } from './maps';
import type { Ports } from './ports';
import { planStamps } from './stamp-plan';
import { stampGround, stampedSurface } from './stamping';
import { memoryPorts } from './testing/memory';
import { broughtIn } from './testing/specimen';

const METRES = { unitM: 1, up: 'y' } as const;
const even = (side: number, values: number[], srgb = false): Image => {
  const image = makeImage({ width: side, height: side, channels: values.length, colourSpace: srgb ? 'srgb' : 'data' });
  for (let i = 0; i < side * side; i++) image.data.set(values, i * values.length);
  return image;
};

describe('stamps on an asset', () => {
  // Two panels of a metre, each with half of the texture to itself.
  const halves: Model = {
    title: 'kiosk',
    lods: [
      [panel('body', 0), panel('roof', 1.2)].map((part, i) => {
        const texcoord = part.mesh.texcoord.map((v, k) => (k % 2 ? v : v * 0.5 + 0.5 * i));
        return { ...part, mesh: { ...part.mesh, texcoord }, sets: [texcoord] };
      }),
    ],
  };
  let ports: Ports;
  let specimen: SpecimenDocument;
  let surfaces: Record<string, SurfaceDocument>;
  const find = (id: string) => surfaces[id] as SurfaceDocument | undefined;
  const around = { surface: find, specimen: (id: string) => (id === 'kiosk' ? specimen : undefined) };
  const surface = async (name: string, maps: MapSet): Promise<SurfaceDocument> => ({
    kind: 'surface',
    version: 1,
    name,
    sizeM: 1,
    reliefM: 0.02,
    mid: 0.5,
    maps: Object.fromEntries(
      await Promise.all(
        Object.entries(maps).map(async ([role, image]) => [role, await keepImage(ports, role as 'mask', image, `${role}.png`)] as const),
      ),
    ),
    thumbnail: null,
    tone: '#888888',
    generator: null,
    notes: [],
  });
  const asset = (): AssetDocument => makeAsset('Kiosk', 'kiosk', ['body', 'roof'], 'skin');
  const stamp = (at: [number, number, number], over: Partial<PressedStamp> = {}): PressedStamp => ({
    ...DEFAULT_STAMP,
    at,
    radiusM: 0.2,
    falloff: 0,
    byHeight: 0,
    order: 1,
    surface: 'lime',
    seed: 1,
    ...over,
  });
  const press = async (of: AssetDocument, wears: string, add: Record<string, PressedStamp>, remove: string[] = []) =>
    stampedSurface(ports, planStamps(of, { surface: wears, add, remove }, around), find, () => undefined);
  const middle = (slot: 0 | 1): [number, number, number] => {
    const { position } = halves.lods[0][slot].mesh;
    return [0, 1, 2].map((c) => {
      const all = Array.from({ length: position.length / 3 }, (_, i) => position[i * 3 + c]);
      return (Math.min(...all) + Math.max(...all)) / 2;
    }) as [number, number, number];
  };

  beforeEach(async () => {
    ports = memoryPorts();
    specimen = await broughtIn(ports, 'Kiosk', halves);
    surfaces = {
      skin: await surface('Skin', { baseColor: even(128, [40, 40, 40], true), roughness: even(64, [200]) }),
      lime: await surface('Lime', { baseColor: even(32, [220, 210, 190], true), roughness: even(32, [90]), metallic: even(32, [255]) }),
    };
  });

  it('go into every map that is there, on the panel that they lie on alone, and nothing else changes', async () => {
    const made = await press(asset(), 'skin', { a: stamp(middle(0)) });
    expect(made.name).toBe('Skin, stamped');
    expect(Object.keys(made.maps).sort()).toEqual(['baseColor', 'roughness']);
    const { baseColor, roughness } = (await loadMaps(ports, made, ['baseColor', 'roughness'])) as Record<string, Image>;
    // Sheets of different sizes become those of the largest, or they could not be stamped together.
    expect([baseColor.width, roughness.width]).toEqual([128, 128]);
    let [changed, beside] = [0, 0];
    for (let y = 0; y < 128; y++)
      for (let x = 0; x < 128; x++) {
        const at = y * 128 + x;
        const there = [baseColor.data[at * 3], baseColor.data[at * 3 + 1], roughness.data[at]];
        if (there.join() === '40,40,200') continue;
        expect(there).toEqual([220, 210, 90]);
        changed++;
        if (x >= 64) beside++;
      }
    // A disk of 0.2 m on a panel of a metre that has 64 × 128 texels.
    const texels = Math.PI * 0.2 ** 2 * 64 * 128;
    expect(changed / texels).toBeGreaterThan(0.95);
    expect(changed / texels).toBeLessThan(1.05);
    expect(beside).toBe(0);
    expect(made.stamped?.made).toEqual({
      stamps: 1,
      of: jasmine.objectContaining({ skin: jasmine.any(String), lime: jasmine.any(String) }) as never,
    });
    expect(stampsAmiss(made.stamped!, surfaces)).toBeNull();
  });
  it('lie over each other in their order, are added to those before, and leave no trace when they are taken away', async () => {
    const worn = asset();
    surfaces['stamped'] = await press(worn, 'skin', { a: stamp(middle(0)) });
    for (const slot of Object.values(worn.slots)) slot.blend = 'stamped';
    surfaces['dark'] = await surface('Dark', { baseColor: even(16, [10, 10, 10], true) });
    const two = await press(worn, 'stamped', { b: stamp(middle(0), { order: 2, surface: 'dark', radiusM: 0.1 }) });
    expect(two.name).toBe('Skin, stamped');
    expect(Object.keys(two.stamped!.stamps)).toEqual(['a', 'b']);
    const at = 64 * 128 + 32;
    const colour = async (of: SurfaceDocument) => ((await loadMaps(ports, of, ['baseColor'])).baseColor as Image).data[at * 3];
    expect(await colour(two)).toBe(10);
    // Roughness is what was pressed before: the last one has none.
    expect(((await loadMaps(ports, two, ['roughness'])).roughness as Image).data[at]).toBe(90);
    surfaces['stamped'] = two;
    const one = await press(worn, 'stamped', {}, ['a']);
    expect(Object.keys(one.stamped!.stamps)).toEqual(['b']);
    expect(((await loadMaps(ports, one, ['roughness'])).roughness as Image).data[at]).toBe(200);
    surfaces['stamped'] = one;
    const none = await press(worn, 'stamped', {}, ['b']);
    const [was, is] = [await loadMaps(ports, surfaces['skin'], ['baseColor']), await loadMaps(ports, none, ['baseColor'])];
    expect(is.baseColor!.data).toEqual(was.baseColor!.data);
  });
  it('tell when what they are made of has changed, or is gone', async () => {
    const made = await press(asset(), 'skin', { a: stamp(middle(0)) });
    const stamped = made.stamped!;
    surfaces['lime'] = await surface('Lime', { baseColor: even(32, [1, 2, 3], true) });
    expect(stampsAmiss(stamped, surfaces)).toMatch(/Lime was changed/);
    expect(stampsAmiss({ ...stamped, stamps: { ...stamped.stamps, more: stamp([0, 0, 0]) } }, surfaces)).toMatch(/not in its maps yet/);
    delete surfaces['skin'];
    expect(stampsAmiss(stamped, surfaces)).toMatch(/deleted/);
  });
  it('say why nothing can be pressed, and where', () => {
    const plan = (of: AssetDocument, wears = 'skin', add: Record<string, PressedStamp> = {}) =>
      planStamps(of, { surface: wears, add, remove: [] }, around);
    const with1 = (change: (of: AssetDocument) => void) => {
      const of = asset();
      change(of);
      return of;
    };
    const [first] = Object.keys(asset().slots);
    const refused = (of: AssetDocument, wears?: string, add?: Record<string, PressedStamp>) =>
      expect(() => plan(of, wears, add)).withContext(JSON.stringify(wears));
    refused(asset(), 'gone').toThrowError(UseCaseError, /was deleted/);
    refused(asset(), 'lime').toThrowError(/No slot of Kiosk wears Lime/);
    refused(with1((a) => void (a.specimen = 'cube'))).toThrowError(/no texture of its own/);
    refused(with1((a) => void (a.slots[first].size = 2))).toThrowError(/2 times its size/);
    refused(with1((a) => void (a.slots[first].uvSet = 1))).toThrowError(/another set of coordinates/);
    refused(asset(), 'skin', { a: stamp([0, 0, 0], { surface: 'nowhere' }) }).toThrowError(/A surface that is stamped was deleted/);
    const many = Object.fromEntries(Array.from({ length: MAX_STAMPS + 1 }, (_, i) => [`k${i}`, stamp([0, 0, 0])]));
    refused(asset(), 'skin', many).toThrowError(/2000 at most/);
    // One slot alone wears it: its triangles are stamped, the other's are not.
    expect(plan(with1((a) => void (a.slots[first].blend = ''))).stamped.slots).toEqual(['roof']);
  });
  it('are refused where places lie on each other, and where there are no coordinates', () => {
    const stacked: Model = { title: 'kiosk', lods: [[panel('body', 0), panel('roof', 1.2)]] };
    expect(() => stampGround(stacked, METRES, 'Kiosk', 0)).toThrowError(UseCaseError, /body panel and roof panel lie on each other over \d+\.\d %/);
    expect(stampGround(stacked, METRES, 'Kiosk', 0, ['roof']).index.length).toBe(panel('roof', 0).mesh.index.length);
    expect(() => stampGround(halves, METRES, 'Kiosk', 1)).toThrowError(/has no set 2 of texture coordinates/);
    expect(() => stampGround(halves, METRES, 'Kiosk', 0, ['door'])).toThrowError(/has no slot called door/);
  });
});
