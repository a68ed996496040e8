import type { AnyDocument, AssetDocument, BlendDocument, Image, ProjectDocument, RecipeDocument } from '@pebble/core';
import {
  TARGETS,
  boundsOf,
  compareImages,
  inOrder,
  levelMesh,
  makeImage,
  packChannels,
  makeCue,
  parseChannelLayout,
  proofProblems,
} from '@pebble/core';
import { WebIO } from '@gltf-transform/core';
import type { MappingList } from '@gltf-transform/extensions';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import { loadOnDevice, mapsOfTexture, openBundle, zippedBundle } from '@pebble/formats/bundle';
import { readGltf } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { writeTexture } from '@pebble/formats/write';
import { validateBytes } from 'gltf-validator';
import { zipSync } from 'fflate';
import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { wholeRole } from '../packed-file';
import { memoryPorts } from '../testing/memory';
import { smallProject } from '../testing/project';
import { bundleAt, folderSink } from './folder';
import type { BundleSink } from './index';
import { deliver, planDelivery, prove } from './index';

const BOTH = { targets: ['desktop', 'handheld'] };
const quiet = () => undefined;
const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

describe('a delivery', () => {
  const ports = { ...memoryPorts(), write: writeTexture };
  let all: Record<string, AnyDocument>;
  let root: string;
  let first: string;
  const fresh = async (): Promise<string> => mkdtemp(path.join(root, 'out-'));
  const into = async (folder: string, documents = all, request: Parameters<typeof deliver>[2] = BOTH) =>
    deliver(ports, documents, request, await folderSink(folder), quiet);
  const files = async (folder: string): Promise<Record<string, string>> => {
    const names = (await readdir(folder, { recursive: true, withFileTypes: true })).filter((e) => e.isFile());
    return Object.fromEntries(
      await Promise.all(
        names.map(async (e) => {
          const file = path.join(e.parentPath, e.name);
          return [path.relative(folder, file), sha(await readFile(file))] as const;
        }),
      ),
    );
  };
  const edited = <T extends AnyDocument>(id: string, change: (d: T) => void): Record<string, AnyDocument> => {
    const body = structuredClone(all[id]) as T;
    change(body);
    return { ...all, [id]: body };
  };

  beforeAll(async () => {
    root = await mkdtemp(path.join(os.tmpdir(), 'deliver-'));
    all = await smallProject(ports);
    first = await fresh();
    await into(first);
  });
  afterAll(() => rm(root, { recursive: true, force: true }));

  it('has the same bytes whenever and wherever it is made, and its plan told all of its files', async () => {
    const second = await fresh();
    await into(second);
    const made = await files(first);
    expect(await files(second)).toEqual(made);
    expect(
      Object.keys(made)
        .filter((n) => n !== 'manifest.json')
        .sort(),
    ).toEqual(
      planDelivery(all, BOTH)
        .outputs.map((o) => o.path)
        .sort(),
    );
    expect(Object.keys(made)).toContain('desktop/textures/gate_beam_normal.ktx2');
    expect(Object.keys(made)).toContain('handheld/packed/lime_plaster_orm.ktx2');
    expect(Object.keys(made)).toContain('blends/grown_over_weights_1.png');
    expect(Object.keys(made)).toContain('masters/cistern_gauge.mtlx');
  });

  it('writes only what changed, and takes away what it no longer holds', async () => {
    const folder = await fresh();
    await into(folder);
    const before = await files(folder);
    await writeFile(path.join(folder, 'mine.txt'), 'left alone');
    expect(await into(folder)).toEqual(jasmine.objectContaining({ made: 0, kept: Object.keys(before).length - 1 }));
    // A blend shows in what it is worn by, in its heights and weights, and in nothing else.
    const other = edited<BlendDocument>('grown', (d) => (d.layers['above'].seam.liftM = 0.004));
    await into(folder, other);
    const after = await files(folder);
    const changed = Object.keys(before).filter((n) => before[n] !== after[n] && n !== 'manifest.json');
    expect(changed.length).toBeGreaterThan(3);
    expect(changed.every((n) => /beam|gate\.glb|grown_over/.test(n)))
      .withContext(changed.join())
      .toBeTrue();
    const fewer = edited<RecipeDocument>('usual', (d) => delete d.files['deep']);
    await into(folder, fewer);
    const left = Object.keys(await files(folder));
    expect(left).not.toContain('desktop/packed/lime_plaster_height.tiff');
    expect(left).toContain('mine.txt');
  });

  it('is renamed as a whole without a file being made again', async () => {
    const folder = await fresh();
    await into(folder);
    const before = await files(folder);
    const named = edited<RecipeDocument>('usual', (d) => (d.template = '{target}_{set}_{code}'));
    const { made } = await into(folder, named);
    expect(made).toBe(0);
    const after = await files(folder);
    expect(after['desktop/packed/desktop_lime_plaster_BC.png']).toBe(before['desktop/packed/lime_plaster_base.png']);
    expect(after['handheld/packed/handheld_lime_plaster_ORM.ktx2']).toBe(before['handheld/packed/lime_plaster_orm.ktx2']);
    expect(after['desktop/packed/lime_plaster_base.png']).toBeUndefined();
    expect(await (await openBundle(await bundleAt(folder))).check()).toEqual([]);
  });

  it('leaves the bundle before it whole where it stops, and goes on from there', async () => {
    const folder = await fresh();
    await into(folder);
    const before = await files(folder);
    const other = edited<AssetDocument>('asset', (d) => (d.slots['s2'].size = 2));
    const sink = await folderSink(folder);
    let left = 2;
    const failing: BundleSink = {
      ...sink,
      put: (...args) => (left-- > 0 ? sink.put(...args) : Promise.reject(Object.assign(new Error('no space left'), { code: 'ENOSPC' }))),
    };
    await expectAsync(deliver(ports, other, BOTH, failing, quiet)).toBeRejected();
    const during = await files(folder);
    expect(Object.fromEntries(Object.entries(during).filter(([n]) => !n.startsWith('.delivering')))).toEqual(before);
    const bundle = await openBundle(await bundleAt(folder));
    expect(await bundle.check()).toEqual([]);
    const wanted = (await into(await fresh(), other)).manifest;
    const done = await into(folder, other);
    // Two of its files were there already.
    const whole = done.made + 2;
    expect(whole).toBe(wanted.files.filter((f) => before[f.path] !== f.sha256).length);
    expect(done.manifest).toEqual(wanted);
    expect((await readdir(folder)).sort()).not.toContain('.delivering');
  });

  it('says that a delivery that never finished is none', async () => {
    const folder = await fresh();
    const sink = await folderSink(folder);
    await expectAsync(deliver(ports, all, BOTH, { ...sink, finish: () => Promise.reject(new Error('stopped')) }, quiet)).toBeRejected();
    await expectAsync(bundleAt(folder)).toBeRejectedWithError(/did not finish. Deliver again/);
  });

  it('is refused before a file is written where the preflight blocks it, and says all that does', async () => {
    const folder = await fresh();
    const bad = edited<RecipeDocument>('usual', (d) => {
      d.files['orm'].as = 'jpg';
      d.files['deep'].as = 'tga';
    });
    await expectAsync(into(folder, bad)).toBeRejectedWithError(
      /lime_plaster_orm\.jpg.*JPEG would change.*lime_plaster_height\.tga.*TGA holds 8 bits/s,
    );
    expect(Object.keys(await files(folder))).toEqual([]);
    const light = { ...all, desktop: { ...all['desktop'], memoryBytes: 1000 } as AnyDocument };
    await expectAsync(into(folder, light)).toBeRejectedWithError(/Gate takes .* of textures on Desktop/);
    await expectAsync(into(folder, all, { targets: ['toaster'] })).toBeRejectedWithError(/no target toaster; there are desktop, handheld/);
    // What is left out blocks nothing, whatever is wrong with it.
    const wrong = planDelivery(bad, BOTH).outputs.filter((o) => o.problem);
    expect(wrong.length).toBe(4);
    expect((await into(await fresh(), bad, { ...BOTH, skip: wrong.map((o) => o.path) })).made).toBeGreaterThan(10);
    const twin = { ...all, twin: { ...all['asset'], name: 'gate' } as AnyDocument };
    await expectAsync(into(folder, twin)).toBeRejectedWithError(/two files would be called desktop\/gate\.glb/);
    const both = planDelivery(twin, BOTH).outputs.filter((o) => o.problem?.includes('two files'));
    const one = both.filter((o) => o.from[0] === 'twin').map((o) => o.path);
    expect(planDelivery(twin, { ...BOTH, skip: one }).outputs.filter((o) => o.problem)).toEqual([]);
  });

  it('asks for a reason where something is doubtful, and goes once there is one', async () => {
    const odd = edited<RecipeDocument>('usual', (d) => (d.files['orm'].channels = parseChannelLayout('r=occlusion,g=roughness,b=metallic,a=1')));
    const folder = await fresh();
    await expectAsync(into(folder, odd)).toBeRejectedWithError(/alpha is 1 everywhere/);
    const { preflight } = await import('@pebble/core');
    const { preflightFacts } = await import('./index');
    const [doubt] = preflight(preflightFacts(planDelivery(odd, BOTH), odd)).filter((f) => f.severity === 'warning');
    const accepted = { ...odd, project: { ...(odd['project'] as ProjectDocument), accepted: { [doubt.key]: 'the engine wants it' } } };
    expect((await into(folder, accepted)).made).toBeGreaterThan(0);
  });

  it('keeps textures as each target does: its size, its blocks, what somebody said of a map', async () => {
    const { manifest } = await openBundle(await bundleAt(first));
    const of = (name: string) => manifest.files.find((f) => f.path === name)?.texture;
    expect(of('desktop/textures/gate_post_basecolor.ktx2')).toEqual(
      jasmine.objectContaining({ kept: 'BC7', width: 64, height: 64, levels: 7, colourSpace: 'srgb' }),
    );
    expect(of('handheld/textures/gate_post_basecolor.ktx2')).toEqual(jasmine.objectContaining({ width: 32, levels: 6 }));
    expect(of('desktop/textures/gate_post_normal.ktx2')).toEqual(
      jasmine.objectContaining({ kept: 'BC5', channels: 'r=normal.r,g=normal.g', green: 'y+' }),
    );
    expect(of('desktop/packed/lime_plaster_height.tiff')).toEqual(jasmine.objectContaining({ file: 'tiff', depth: 16, kept: 'plain' }));
    const said = structuredClone(all);
    const plaster = said['plaster'] as Extract<AnyDocument, { kind: 'surface' }>;
    for (const role of ['occlusion', 'roughness', 'metallic'] as const)
      Object.assign(plaster.maps[role] ?? {}, { settings: { maxSize: 16, mips: false } });
    Object.assign(plaster.maps.baseColor ?? {}, { overrides: { desktop: { format: 'RGBA8' } } });
    const plan = planDelivery(said, BOTH).outputs;
    const planned = (name: string) => plan.find((o) => o.path === name)?.texture;
    expect(planned('desktop/textures/gate_post_orm.ktx2')).toEqual(jasmine.objectContaining({ width: 16, levels: 1 }));
    expect(planned('desktop/textures/gate_post_basecolor.ktx2')).toEqual(jasmine.objectContaining({ kept: 'plain', width: 64 }));
    expect(planned('handheld/textures/gate_post_basecolor.ktx2')?.kept).toBe('BC7');
  });

  it('gives level bytes that are what the target holds, to the byte', async () => {
    const { manifest } = await openBundle(await bundleAt(first));
    const { read } = await import('ktx-parse');
    for (const { path: name, texture } of manifest.files)
      if (texture?.file === 'ktx2' && texture.kept !== 'plain') {
        const { levels } = read(await readFile(path.join(first, name)));
        expect(levels.reduce((sum, l) => sum + l.levelData.byteLength, 0))
          .withContext(name)
          .toBe(texture.runtimeBytes);
      }
  });

  it('holds models that the official validator passes, each slot in its own pictures', async () => {
    const bytes = new Uint8Array(await readFile(path.join(first, 'desktop/gate.glb')));
    const report = await validateBytes(bytes);
    expect(report.issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    const load = await loadOnDevice(await openBundle(await bundleAt(first)), 'desktop', nodeCodec, quiet);
    expect(load.words).toEqual([]);
    expect(load.slots.map((s) => [s.slot, Object.keys(s.maps).sort().join()])).toEqual([
      ['beam', 'baseColor,metallic,normal,occlusion,roughness'],
      ['post', 'baseColor,metallic,normal,occlusion,roughness'],
    ]);
    // The post wears the plaster's own texels.
    const { maps } = all['plaster'] as Extract<AnyDocument, { kind: 'surface' }>;
    const meant = await nodeCodec.decode(await ports.blobs.get(maps.baseColor?.blob ?? ''), 'srgb');
    const came = load.slots.find((s) => s.slot === 'post')?.maps.baseColor as Image;
    expect(compareImages(meant, came, 'colour').deltaE?.mean).toBeLessThan(2);
    expect(load.bytes).toBe(
      (await openBundle(await bundleAt(first))).manifest.files
        .filter((f) => f.worn && f.target === 'desktop')
        .reduce((sum, f) => sum + (f.texture?.runtimeBytes ?? 0), 0),
    );
  });

  it('holds models with their textures in universal blocks where the target keeps them so', async () => {
    const folder = await fresh();
    const phone = structuredClone(TARGETS.phone);
    await into(folder, { ...all, phone }, { targets: ['phone'] });
    const bytes = new Uint8Array(await readFile(path.join(folder, 'phone/gate.glb')));
    expect((await validateBytes(bytes)).issues.messages.filter((m) => m.severity < 1)).toEqual([]);
    const root = (await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(bytes)).getRoot();
    expect(root.listExtensionsRequired().map((e) => e.extensionName)).toEqual(['KHR_texture_basisu']);
    const { maps } = all['plaster'] as Extract<AnyDocument, { kind: 'surface' }>;
    const post = root.listMaterials().find((m) => m.getName() === 'post')!;
    for (const [texture, role, as] of [
      [post.getBaseColorTexture(), 'baseColor', 'colour'],
      [post.getNormalTexture(), 'normal', 'normal'],
    ] as const) {
      expect(texture?.getMimeType()).toBe('image/ktx2');
      const came = await nodeCodec.decode(texture?.getImage() as Uint8Array, role === 'normal' ? 'data' : 'srgb');
      const meant = await nodeCodec.decode(await ports.blobs.get(maps[role]?.blob ?? ''), role === 'normal' ? 'data' : 'srgb');
      const { deltaE, angle } = compareImages(meant, packChannels(wholeRole(role), { [role]: came }, { ...came, depth: 8 }), as);
      // z is in the file: a reader of glTF rebuilds none.
      expect(deltaE?.mean ?? angle?.mean).toBeLessThan(3);
    }
    // The same lies beside it in the same blocks, but for directions, which keep two channels there.
    const beside = new Uint8Array(await readFile(path.join(folder, 'phone/textures/gate_post_basecolor.ktx2')));
    expect(sha(post.getBaseColorTexture()?.getImage() as Uint8Array)).toBe(sha(beside));
  });

  it('holds packed files that are too large to be held as a whole, with the same texels', async () => {
    // Just over the 4096² up to which threads share the work: a strip, whose longer side is as long as the recipe says.
    const [width, height] = [16384, 1032];
    const strip = makeImage({ width, height, channels: 1, data: Uint8Array.from({ length: width * height }, (_, i) => (i * 7 + (i >> 9)) & 0xff) });
    const blob = await ports.blobs.put(await nodeCodec.encode(strip), 'image/png');
    const { plaster } = all as { plaster: Extract<AnyDocument, { kind: 'surface' }> };
    const roughness = { ...plaster.maps.roughness!, blob, width, height, depth: 8 as const };
    const long: AnyDocument = { ...plaster, name: 'Long', maps: { roughness } };
    const usual = all['usual'] as RecipeDocument;
    const recipe: RecipeDocument = {
      ...usual,
      size: width,
      sources: { long: { order: 1 } },
      files: { r: { order: 1, label: 'r', depth: 8, channels: parseChannelLayout('r=1-roughness') } },
    };
    const project = all['project'];
    const folder = await fresh();
    await into(folder, { project, desktop: { ...all['desktop'], maxSize: width } as AnyDocument, long, usual: recipe }, { targets: ['desktop'] });
    const made = await nodeCodec.decode(new Uint8Array(await readFile(path.join(folder, 'desktop/packed/long_r.png'))), 'data');
    expect([made.width, made.height]).toEqual([width, height]);
    expect(made.data.length).toBe(strip.data.length);
    expect(made.data.findIndex((v, i) => v !== 255 - strip.data[i])).toBe(-1);
  });

  it('holds models with all variants of their masters where that is asked for', async () => {
    const folder = await fresh();
    const dressed = edited<AssetDocument>('asset', (d) => {
      d.slots['s2'].blend = 'gauge';
      d.variants = true;
    });
    await into(folder, dressed, { targets: ['desktop'] });
    const bytes = new Uint8Array(await readFile(path.join(folder, 'desktop/gate.glb')));
    expect((await validateBytes(bytes)).issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    const root = (await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(bytes)).getRoot();
    const gauge = all['gauge'] as Extract<AnyDocument, { kind: 'master' }>;
    const names = inOrder(gauge.variants).map((v) => v.name);
    expect(names.length).toBeGreaterThan(1);
    const beam = root
      .listMeshes()
      .find((m) => m.getName() === 'beam panel')!
      .listPrimitives()[0];
    const mappings = beam.getExtension<MappingList>('KHR_materials_variants')!.listMappings();
    expect(mappings.map((m) => m.listVariants().map((v) => v.getName()))).toEqual(names.map((n) => [n]));
    const looks = mappings.map((m) => sha(m.getMaterial()!.getBaseColorTexture()!.getImage()!));
    expect(new Set(looks).size).toBeGreaterThan(1);
    // A variant put on the slot by itself is that look.
    const [alone] = await Promise.all(
      [Object.keys(gauge.variants)[0]].map(async (variant) => {
        const own = await fresh();
        await into(
          own,
          edited<AssetDocument>('asset', (d) => Object.assign(d.slots['s2'], { blend: 'gauge', variant })),
          { targets: ['desktop'] },
        );
        const read = await new WebIO()
          .registerExtensions(KHRONOS_EXTENSIONS)
          .readBinary(new Uint8Array(await readFile(path.join(own, 'desktop/gate.glb'))));
        return {
          name: gauge.variants[variant].name,
          look: sha(
            read
              .getRoot()
              .listMaterials()
              .find((m) => m.getName() === 'beam')!
              .getBaseColorTexture()!
              .getImage()!,
          ),
        };
      }),
    );
    expect(looks[names.indexOf(alone.name)]).toBe(alone.look);
    // What wears no master has no variants.
    const post = root
      .listMeshes()
      .find((m) => m.getName() === 'post panel')!
      .listPrimitives()[0];
    expect(post.getExtension('KHR_materials_variants')).toBeNull();
  });

  it('holds every file that its masters look for, as their own texels are', async () => {
    const { manifest } = await openBundle(await bundleAt(first));
    const there = new Set(manifest.files.map((f) => f.path));
    const documents = manifest.files.filter((f) => f.path.endsWith('.mtlx'));
    const wanted: string[] = [];
    for (const { path: name } of documents)
      for (const [, file] of (await readFile(path.join(first, name), 'utf8')).matchAll(/type="filename" value="([^"]+)"/g))
        wanted.push(`masters/${file}`);
    expect(wanted.length).toBeGreaterThan(2);
    expect(wanted.filter((file) => !there.has(file))).toEqual([]);
    const { maps } = all['plaster'] as Extract<AnyDocument, { kind: 'surface' }>;
    const came = await nodeCodec.decode(new Uint8Array(await readFile(path.join(first, 'masters/plaster/baseColor.png'))), 'srgb');
    const meant = await nodeCodec.decode(await ports.blobs.get(maps.baseColor?.blob ?? ''), 'srgb');
    expect([...came.data]).toEqual([...meant.data]);
  });

  it('holds what was painted as it is, and not what is not painted on it', async () => {
    const mask: Image = { width: 8, height: 8, channels: 1, depth: 8, colourSpace: 'data', data: Uint8Array.from({ length: 64 }, (_, i) => i * 4) };
    const bytes = await nodeCodec.encode(mask);
    const picture = await ports.blobs.put(bytes, 'image/png');
    const painted = edited<BlendDocument>('grown', (d) => (d.layers['above'].coverage = { p: makeCue('painted', { picture }) }));
    const folder = await fresh();
    await into(folder, painted, { targets: ['desktop'] });
    expect(sha(await readFile(path.join(folder, 'blends/grown_over_mask_1.png')))).toBe(picture);
    expect(planDelivery(all, BOTH).outputs.filter((o) => o.kind === 'mask')).toEqual([]);
  });

  it('holds models in metres with +Y up, in whatever unit and way of up they came', async () => {
    const other = edited<Extract<AnyDocument, { kind: 'specimen' }>>('gate', (d) => Object.assign(d, { unitM: 0.01, up: 'z' }));
    const folder = await fresh();
    await into(folder, other, { targets: ['desktop'] });
    const { model } = await readGltf(new Uint8Array(await readFile(path.join(folder, 'desktop/gate.glb'))));
    const { lo, hi } = boundsOf(levelMesh(model));
    // Two panels of a unit each, upright along y in the file: 2 cm wide, and a centimetre deep with z up.
    [0, 0, -0.01].forEach((v, c) => expect(lo[c]).toBeCloseTo(v, 6));
    [0.02, 0, 0].forEach((v, c) => expect(hi[c]).toBeCloseTo(v, 6));
  });

  it('weighs layers so that they sum to one everywhere', async () => {
    const weights = await nodeCodec.decode(new Uint8Array(await readFile(path.join(first, 'blends/grown_over_weights_1.png'))), 'data');
    for (let i = 0; i < weights.data.length; i += weights.channels)
      expect(Math.abs(weights.data[i] + weights.data[i + 1] - 255)).toBeLessThanOrEqual(1);
    expect(new Set(weights.data).size).toBeGreaterThan(20);
  });

  it('is proved: lossless files to the bit, lossy ones as the bundle says, and a planted change is found', async () => {
    const bundle = await openBundle(await bundleAt(first));
    const proof = await prove(ports, all, bundle, quiet);
    expect(proofProblems(proof, bundle.manifest.files)).toEqual([]);
    expect(proof.rows.filter((r) => r.lossless).length).toBeGreaterThanOrEqual(6);
    expect(proof.rows.filter((r) => !r.lossless).length).toBeGreaterThanOrEqual(12);
    for (const l of proof.lit) expect(l.deltaE.mean).withContext(`${l.slot} ${l.target}`).toBeLessThan(3);
    // One authored number is another now: whatever shows it is told of.
    const other = edited<RecipeDocument>(
      'usual',
      (d) => (d.files['base'].channels.r = { from: 'map', role: 'baseColor', channel: 1, invert: false }),
    );
    const found = proofProblems(await prove(ports, other, bundle, quiet), bundle.manifest.files);
    expect(found.map((p) => p.path).sort()).toEqual(['desktop/packed/lime_plaster_base.png', 'handheld/packed/lime_plaster_base.png']);
  });

  it('is known for cut off, changed, incomplete or added to, with the file and its hash', async () => {
    const folder = await fresh();
    await into(folder);
    const at = (name: string) => path.join(folder, name);
    const post = 'desktop/textures/gate_post_orm.ktx2';
    const bytes = await readFile(at(post));
    const problems = async () => (await (await openBundle(await bundleAt(folder))).check()).map((e) => `${e.code} ${e.path ?? ''}`);
    const turned = Buffer.from(bytes);
    turned[turned.length - 1] ^= 1;
    await writeFile(at(post), turned);
    expect(await problems()).toEqual([`tampered ${post}`]);
    const bundle = await openBundle(await bundleAt(folder));
    await expectAsync(bundle.file(bundle.manifest.files.find((f) => f.path === post) as never)).toBeRejectedWithError(new RegExp(sha(turned)));
    const load = await loadOnDevice(bundle, 'desktop', nodeCodec, quiet);
    expect(load.words.map((w) => `${w.does} ${w.path}`)).toEqual([`refused ${post}`]);
    await writeFile(at(post), bytes.subarray(0, 100));
    expect(await problems()).toEqual([`tampered ${post}`]);
    await rm(at(post));
    expect(await problems()).toEqual([`missing ${post}`]);
    await writeFile(at(post), bytes);
    await mkdir(at('extra'));
    await writeFile(at('extra/x.png'), bytes);
    expect(await problems()).toEqual(['extra extra/x.png']);
    // What was changed is made again, and what lies beside is left.
    await writeFile(at(post), turned);
    expect((await into(folder)).made).toBe(1);
    expect(await readFile(at(post))).toEqual(bytes);
  });

  it('is the same as a ZIP, and a cut-off ZIP is none', async () => {
    const names = Object.keys(await files(first));
    const zip = zipSync(
      Object.fromEntries(await Promise.all(names.map(async (n) => [n, new Uint8Array(await readFile(path.join(first, n)))] as const))),
      { level: 0 },
    );
    expect(await (await openBundle(zippedBundle(zip))).check()).toEqual([]);
    expect(() => zippedBundle(zip.subarray(0, zip.length / 2))).toThrowError(/cut off/);
    await expectAsync(openBundle(zippedBundle(zipSync({ 'a.txt': new Uint8Array(3) })))).toBeRejectedWithError(/no manifest\.json/);
  });

  it('holds channels that are read as their layout says, green turned and z rebuilt', () => {
    const image: Image = { width: 1, height: 1, channels: 3, depth: 8, colourSpace: 'data', data: Uint8Array.of(200, 90, 17) };
    const up = mapsOfTexture(image, 'r=normal.r,g=normal.g,b=height', 'y-');
    const [x, y] = [(200 / 255) * 2 - 1, ((255 - 90) / 255) * 2 - 1];
    const z = Math.round((Math.sqrt(1 - x * x - y * y) * 0.5 + 0.5) * 255);
    expect([...(up.normal?.data ?? [])]).toEqual([200, 165, z]);
    expect([...(up.height?.data ?? [])]).toEqual([17]);
    expect([...(mapsOfTexture(image, 'r=1-roughness', null).roughness?.data ?? [])]).toEqual([55]);
  });
});
