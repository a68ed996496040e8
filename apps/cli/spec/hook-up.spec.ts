import type { Texture } from '@gltf-transform/core';
import { WebIO } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import type { Image, Model } from '@pebble/core';
import { makeImage, makeRandom } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { validateBytes } from 'gltf-validator';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { panel } from '../../../packages/formats/src/testing/panels';
import { UsageError } from '../src/commands';
import { onLine } from './on-line';

const SIDE = 32;

describe('a mesh hooked up on the command line', () => {
  let dir: string;
  const { printed, jaunty, problem } = onLine(() => dir);
  const random = makeRandom(3);
  const noise = (channels: number, lo: number, hi: number): Image =>
    makeImage({ width: SIDE, height: SIDE, channels, data: new Uint8Array(SIDE * SIDE * channels).map(() => lo + random() * (hi - lo)) });
  const originals = new Map<string, Image>();
  const put = async (name: string, image: Image) => {
    originals.set(name, image);
    await writeFile(path.join(dir, name), await nodeCodec.encode(image));
  };
  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'pebble-cli-hook-'));
    const model: Model = { title: 'cart', lods: [[panel('M_Cart_Body', 0), panel('M_Cart_Wheels', 1.1)], [panel('M_Cart_Body', 0)]] };
    await writeFile(path.join(dir, 'cart.glb'), await writeGlb('cart', model));
    await writeFile(path.join(dir, 'bare.glb'), await writeGlb('bare', { title: '', lods: [[panel('body', 0, { sets: [] })]] }));
    await put('cart_body_basecolor_opacity.png', noise(4, 30, 220));
    await put('cart_body_roughness.png', noise(1, 90, 200));
    await put('cart_body_occlusion.png', noise(1, 100, 255));
    await put('cart_body_emissive.png', noise(3, 0, 90));
    await put('cart_wheels_basecolor.png', noise(3, 30, 220));
    await put('cart_wheels_metallic.png', noise(1, 0, 255));
  });
  afterAll(() => rm(dir, { recursive: true }));
  const maps = async () => (await readdir(dir)).filter((f) => /^cart_.*png$/.test(f)).sort();
  const pixels = async (texture: Texture | null) => nodeCodec.decode(texture?.getImage() as Uint8Array, 'data');
  /** Samples of one channel. */
  const channel = ({ data, channels }: Image, c: number) => Array.from({ length: SIDE * SIDE }, (_, i) => data[i * channels + c]);
  const original = (name: string, c = 0) => channel(originals.get(name) as Image, c);

  it('of textures in tiles is divided by them: each piece wears the tile that it lies on', async () => {
    // Two halves, one a tile.
    const half = (tile: number) =>
      panel('hull', tile, { name: `half ${tile}`, sets: [Float32Array.from([0, 1, 1, 1, 0, 0, 1, 0], (x, i) => x + (i % 2 ? 0 : tile))] });
    await writeFile(path.join(dir, 'hull.glb'), await writeGlb('hull', { title: '', lods: [[half(0), half(1)]] }));
    const files = [1001, 1002].flatMap((tile) => [`hull_basecolor.${tile}.png`, `hull_roughness.${tile}.png`]);
    for (const file of files) await put(file, noise(file.includes('base') ? 3 : 1, 30, 220));
    await jaunty('hookup', 'hull.glb', ...files, '--out', 'out/hull.glb');
    expect(printed).toEqual(['hull 1001: Hull 1001 (baseColor, orm)', 'hull 1002: Hull 1002 (baseColor, orm)']);
    const root = (
      await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(new Uint8Array(await readFile(path.join(dir, 'out/hull.glb'))))
    ).getRoot();
    for (const mesh of root.listMeshes())
      for (const primitive of mesh.listPrimitives()) {
        const uv = primitive.getAttribute('TEXCOORD_0')!;
        expect([uv.getMin([]), uv.getMax([])]).toEqual([
          [0, 0],
          [1, 1],
        ]);
        const tile = /\d+$/.exec(primitive.getMaterial()!.getName())![0];
        const base = await pixels(primitive.getMaterial()!.getBaseColorTexture());
        expect(channel(base, 1)).toEqual(original(`hull_basecolor.${tile}.png`, 1));
      }
  });
  it('is a file that other programs read: each slot in its own maps, byte for byte, by its own coordinates', async () => {
    await jaunty('hookup', 'cart.glb', ...(await maps()), '--out', 'out/cart.glb');
    expect(printed).toEqual(['M_Cart_Body: Cart body (baseColor, orm, emissive)', 'M_Cart_Wheels: Cart wheels (baseColor, orm)']);
    const bytes = new Uint8Array(await readFile(path.join(dir, 'out/cart.glb')));
    const { issues } = await validateBytes(bytes);
    expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    const root = (await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(bytes)).getRoot();
    const [body, wheels] = ['M_Cart_Body', 'M_Cart_Wheels'].map((name) => root.listMaterials().find((m) => m.getName() === name)!);
    const base = await pixels(body.getBaseColorTexture());
    for (const c of [0, 1, 2, 3]) expect(channel(base, c)).toEqual(original('cart_body_basecolor_opacity.png', c));
    const orm = await pixels(body.getMetallicRoughnessTexture());
    expect(channel(orm, 0)).toEqual(original('cart_body_occlusion.png'));
    expect(channel(orm, 1)).toEqual(original('cart_body_roughness.png'));
    // Nothing says that it is metal.
    expect(new Set(channel(orm, 2))).toEqual(new Set([0]));
    expect(body.getOcclusionTexture()).toBe(body.getMetallicRoughnessTexture());
    expect([body.getAlphaMode(), body.getEmissiveFactor()]).toEqual(['MASK', [1, 1, 1]]);
    const glow = await pixels(body.getEmissiveTexture());
    for (const c of [0, 1, 2]) expect(channel(glow, c)).toEqual(original('cart_body_emissive.png', c));
    const metal = await pixels(wheels.getMetallicRoughnessTexture());
    expect(channel(metal, 2)).toEqual(original('cart_wheels_metallic.png'));
    expect(new Set(channel(metal, 1))).toEqual(new Set([204]));
    expect([wheels.getAlphaMode(), wheels.getOcclusionTexture(), wheels.getNormalTexture()]).toEqual(['OPAQUE', null, null]);
    expect(root.listTextures().length).toBe(5);
    // The reduced level wears the same.
    expect(root.listNodes().filter((n) => n.getMesh()).length).toBe(3);
    // The same input, the same bytes.
    await jaunty('hookup', 'cart.glb', ...(await maps()), '--out', 'again/cart.glb');
    expect(new Uint8Array(await readFile(path.join(dir, 'again/cart.glb')))).toEqual(bytes);
  });
  it('follows what is said of slots, tells of what is left out, and exits with it', async () => {
    await jaunty('hookup', 'cart.glb', ...(await maps()), '--out', 'said.glb', '--wear', 'M_Cart_Wheels=cart_body', '--json');
    const told = JSON.parse(printed[0]) as { slots: { slot: string; wears: string }[] };
    expect(told.slots.map((s) => s.wears)).toEqual(['Cart wheels', 'Cart body']);
    await writeFile(path.join(dir, 'bad.png'), 'no picture');
    const error = await problem('hookup', 'cart.glb', 'bad.png', ...(await maps()), '--out', 'partly.glb');
    expect(error.message).toBe('1 of 7 files were left out');
    expect(printed.join()).toMatch(/bad\.png: this is no image of a kind that is read/);
  });
  it('is refused with what to do: no coordinates, no match, no such slot', async () => {
    const all = await maps();
    expect((await problem('hookup', 'bare.glb', ...all, '--out', 'x.glb')).message).toMatch(/body panel has no texture coordinates.*Unwrap it first/);
    expect((await problem('hookup', 'cart.glb', ...all, '--out', 'x.glb', '--set', '2')).message).toMatch(/no set 2 of texture coordinates/);
    expect((await problem('hookup', 'cart.glb', ...all, '--out', 'x.glb', '--wear', 'roof=cart_body')).message).toMatch(
      /no slot called roof; it has M_Cart_Body, M_Cart_Wheels/,
    );
    expect((await problem('hookup', 'cart.glb', ...all, '--out', 'x.glb', '--wear', 'M_Cart_Body=slate')).message).toMatch(
      /no set called slate; there are/,
    );
    expect(await problem('hookup', 'cart.glb', '--out', 'x.glb')).toBeInstanceOf(UsageError);
    await writeFile(path.join(dir, 'oak_basecolor.png'), await nodeCodec.encode(noise(3, 0, 200)));
    await writeFile(path.join(dir, 'slate_basecolor.png'), await nodeCodec.encode(noise(3, 0, 200)));
    expect((await problem('hookup', 'cart.glb', 'oak_basecolor.png', 'slate_basecolor.png', '--out', 'x.glb', '--doubtful')).message).toMatch(
      /No set belongs to a slot by its name.*Oak.*--wear/,
    );
    expect((await readdir(dir)).includes('x.glb')).toBeFalse();
  });
  it('goes by where pictures were made for, where their names say nothing', async () => {
    const half = (slot: string, left: boolean, x: number) => {
      const made = panel(slot, x);
      const texcoord = (made.sets?.[0] as Float32Array).map((v, i) => (i % 2 ? v : v * 0.45 + (left ? 0.02 : 0.53)));
      return { ...made, sets: [texcoord], mesh: { ...made.mesh, texcoord } };
    };
    await writeFile(path.join(dir, 'pair.glb'), await writeGlb('pair', { title: '', lods: [[half('oak', true, 0), half('iron', false, 1.1)]] }));
    const atlas = (left: boolean) => {
      const image = makeImage({ width: 64, height: 64, channels: 3, colourSpace: 'srgb' });
      for (let i = 0; i < 64 * 64; i++) if (i % 64 < 32 === left) image.data.set([90 + ((i * 31) % 120), 60 + ((i * 17) % 90), 40], i * 3);
      return nodeCodec.encode(image);
    };
    await writeFile(path.join(dir, 'first_basecolor.png'), await atlas(false));
    await writeFile(path.join(dir, 'second_basecolor.png'), await atlas(true));
    await jaunty('hookup', 'pair.glb', 'first_basecolor.png', 'second_basecolor.png', '--out', 'pair_finished.glb', '--doubtful', '--json');
    const told = JSON.parse(printed[0]) as { slots: { slot: string; wears: string }[] };
    expect(told.slots.map((s) => [s.slot, s.wears])).toEqual([
      ['oak', 'Second'],
      ['iron', 'First'],
    ]);
  });
});
