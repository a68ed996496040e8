// A device that is given a bundle and nothing else: it takes what its target takes, and says what it did not.
import type { BundleFile, DeviceWord, Drawn, Image, Ktx2Kind, Model, Role, TargetDocument, TextureSeen } from '@pebble/core';
import { BundleError, OUTPUT_CHANNELS, ROLE_FACTS, deviceWords, makeImage, parseChannelLayout } from '@pebble/core';
import { read as readKtx2 } from 'ktx-parse';
import type { ImageReader } from '../codec';
import { FormatError } from '../codec';
import { probeImage } from '../images';
import { KTX2_PIXELS } from '../images/ktx2';
import { readGltf } from '../mesh';
import { openContainer } from '../mesh/container';
import type { OpenBundle } from './read';

const SRGB = new Set([15, 22, 29, 36, 43, 50, 132, 134, 138, 146]);
/** Colour models of universal blocks. Source: Khronos Data Format 1.3. */
const UNIVERSAL: Readonly<Record<number, Ktx2Kind>> = { 163: 'ETC1S', 166: 'UASTC' };

/** What the bytes of a texture say of themselves. @throws FormatError */
export function seeTexture(bytes: Uint8Array): TextureSeen {
  const { width, height, depth, format } = probeImage(bytes);
  if (format !== 'ktx2') return { width, height, levels: 1, kept: 'plain', depth, srgb: null };
  const container = readKtx2(bytes);
  const [descriptor] = container.dataFormatDescriptor;
  const kept = container.vkFormat === 0 ? (UNIVERSAL[descriptor.colorModel] ?? 'plain') : (KTX2_PIXELS[container.vkFormat]?.blocks ?? 'plain');
  const srgb = container.vkFormat === 0 ? descriptor.transferFunction === 2 : SRGB.has(container.vkFormat);
  // A format without an sRGB form is linear, and says nothing of it.
  return { width, height, levels: Math.max(1, container.levels.length), kept, depth, srgb: kept === 'BC4' || kept === 'BC5' ? null : srgb };
}

/** How a material of a model is laid and drawn, as the model says it. */
export interface DeviceMaterial {
  slot: string;
  /** The set of texture coordinates, and how often textures repeat over it. */
  set: number;
  scale: number;
  drawn: Drawn;
}

type Info = { texCoord?: number; extensions?: { KHR_texture_transform?: { scale?: number[]; texCoord?: number } } };
interface MaterialJson {
  name?: string;
  alphaMode?: string;
  alphaCutoff?: number;
  pbrMetallicRoughness?: { baseColorTexture?: Info; metallicRoughnessTexture?: Info };
}

/** Materials of a binary glTF, as it says them itself. @throws FormatError */
export function materialsOf(bytes: Uint8Array): DeviceMaterial[] {
  const { json } = openContainer(bytes);
  return ((json['materials'] ?? []) as MaterialJson[]).map(({ name, alphaMode, alphaCutoff, pbrMetallicRoughness: pbr }, i) => {
    const info = pbr?.baseColorTexture ?? pbr?.metallicRoughnessTexture ?? {};
    const moved = info.extensions?.KHR_texture_transform;
    const as = alphaMode === 'MASK' ? 'cut-out' : alphaMode === 'BLEND' ? 'glass' : 'solid';
    return {
      slot: name ?? `slot ${i + 1}`,
      set: moved?.texCoord ?? info.texCoord ?? 0,
      scale: moved?.scale?.[0] ?? 1,
      drawn: { as, cut: alphaCutoff ?? 0.5 },
    };
  });
}

/** A slot as the device has it: pictures by what they hold. */
export interface DeviceSlot {
  asset: string;
  slot: string;
  maps: Partial<Record<Role, Image>>;
}
export interface DeviceLoad {
  target: TargetDocument;
  words: DeviceWord[];
  /** Bytes of textures that it holds. */
  bytes: number;
  /** Models by their path. */
  models: { path: string; name: string; model: Model; materials: DeviceMaterial[] }[];
  slots: DeviceSlot[];
}

/** What a decoded texture holds, by role: values as maps of these roles have them, normals with their z rebuilt and Y+. */
export function mapsOfTexture(image: Image, layout: string, green: 'y+' | 'y-' | null): Partial<Record<Role, Image>> {
  const channels = parseChannelLayout(layout);
  const routes = OUTPUT_CHANNELS.flatMap((c, i) => {
    const route = channels[c];
    return route?.from === 'map' && i < image.channels ? [{ at: i, route }] : [];
  });
  const full = image.depth === 8 ? 255 : image.depth === 16 ? 65535 : 1;
  const out: Partial<Record<Role, Image>> = {};
  for (const role of new Set(routes.map((r) => r.route.role))) {
    const { components, colourSpace } = ROLE_FACTS[role];
    const map = makeImage({ width: image.width, height: image.height, channels: components, depth: image.depth, colourSpace });
    const own = routes.filter((r) => r.route.role === role && r.route.channel < components);
    for (let i = 0, j = 0; i < map.data.length; i += components, j += image.channels) {
      for (const { at, route } of own) map.data[i + route.channel] = route.invert ? full - image.data[j + at] : image.data[j + at];
      if (role !== 'normal') continue;
      if (green === 'y-') map.data[i + 1] = full - map.data[i + 1];
      if (own.some((r) => r.route.channel === 2)) continue;
      const [x, y] = [(map.data[i] / full) * 2 - 1, (map.data[i + 1] / full) * 2 - 1];
      map.data[i + 2] = Math.round((Math.sqrt(Math.max(0, 1 - x * x - y * y)) * 0.5 + 0.5) * full);
    }
    out[role] = map;
  }
  return out;
}

/**
 * Loads a bundle as a device does: every file by its hash, every texture by what its bytes say, within what the target holds.
 * @param device id of one of the bundle's targets; @param asset by name, where one alone is wanted @throws BundleError where the bundle has nothing for it
 */
export async function loadOnDevice(
  bundle: OpenBundle,
  device: string,
  codec: Pick<ImageReader, 'decode'>,
  report: (done: number, note: string) => void,
  asset?: string,
): Promise<DeviceLoad> {
  const { manifest } = bundle;
  const target = Object.hasOwn(manifest.targets, device) ? manifest.targets[device] : undefined;
  if (!target) throw new BundleError('missing', `The bundle was not delivered for ${device}; it is for ${Object.keys(manifest.targets).join(', ')}`);
  const load: DeviceLoad = { target, words: [], bytes: 0, models: [], slots: [] };
  const own = manifest.files.filter(
    (f) => f.target === device && (asset === undefined || f.worn?.asset === asset || (f.kind === 'model' && f.of[0] === asset)),
  );
  const refuse = (path: string, error: unknown): void => {
    if (!(error instanceof BundleError) && !(error instanceof FormatError)) throw error;
    const message = error instanceof BundleError ? error.message : `${path}: ${error.message}`;
    load.words.push({ does: 'refused', path, message });
  };
  for (const [i, file] of own.entries()) {
    report(i / own.length, file.path);
    try {
      if (file.kind === 'model') await loadModel(bundle, file, load);
      else if (file.texture) await loadTexture(bundle, file, load, codec);
    } catch (error) {
      refuse(file.path, error);
    }
  }
  for (const { asset, bytes, budget } of manifest.costs.filter((c) => c.target === device))
    if (bytes > budget)
      load.words.push({
        does: 'refused',
        path: asset,
        message: `${asset} takes ${bytes} bytes of textures, and ${target.name} has ${budget} for one material`,
      });
  report(1, 'done');
  return load;
}

async function loadModel(bundle: OpenBundle, file: BundleFile, load: DeviceLoad): Promise<void> {
  const bytes = await bundle.file(file);
  const { model } = await readGltf(bytes);
  load.models.push({ path: file.path, name: file.of[0] ?? file.path, model, materials: materialsOf(bytes) });
}

async function loadTexture(bundle: OpenBundle, file: BundleFile, load: DeviceLoad, codec: Pick<ImageReader, 'decode'>): Promise<void> {
  const { texture, worn } = file;
  if (!texture) return;
  const bytes = await bundle.file(file);
  const words = deviceWords(file.path, texture, seeTexture(bytes), load.target);
  load.words.push(...words);
  if (words.some((w) => w.does === 'refused')) return;
  load.bytes += worn ? texture.runtimeBytes : 0;
  if (!worn) return;
  const image = await codec.decode(bytes, texture.colourSpace === 'srgb' ? 'srgb' : 'data');
  let slot = load.slots.find((s) => s.asset === worn.asset && s.slot === worn.slot);
  if (!slot) load.slots.push((slot = { asset: worn.asset, slot: worn.slot, maps: {} }));
  Object.assign(slot.maps, mapsOfTexture(image, texture.channels, texture.green));
}
