// Terrains in a bundle, as a device reads them: weights by their table, heights by theirs.
import type { ColourSpace, Image } from '@pebble/core';
import type { OpenBundle } from './read';

/** A terrain that was read, or why it cannot be used. */
export interface DeviceTerrain {
  /** Path of the table of its weights. */
  path: string;
  layers: string[];
  width: number;
  height: number;
  /** Null where all is well. */
  problem: string | null;
}

interface Table {
  kind?: unknown;
  width?: unknown;
  height?: unknown;
  layers?: unknown;
}
interface Entry {
  name: string;
  file: string;
  channel: string;
}
const CHANNELS = ['r', 'g', 'b', 'a'];

/** Reads the weights of every terrain: they are there, of one size, and sum to 255 on every sample. */
export async function terrainsOf(
  bundle: OpenBundle,
  codec: { decode(bytes: Uint8Array, space: ColourSpace): Promise<Image> },
): Promise<DeviceTerrain[]> {
  const out: DeviceTerrain[] = [];
  for (const file of bundle.manifest.files.filter((f) => f.kind === 'table' && f.path.startsWith('terrains/'))) {
    const bytes = await bundle.file(file).catch(() => null);
    const table = bytes && tableIn(bytes);
    if (!table) continue;
    const { width, height, layers } = table;
    out.push({ path: file.path, layers: layers.map((l) => l.name), width, height, problem: await weigh(bundle, codec, file.path, table) });
  }
  return out;
}

function tableIn(bytes: Uint8Array): { width: number; height: number; layers: Entry[] } | null {
  let body: Table;
  try {
    body = (JSON.parse(new TextDecoder().decode(bytes)) ?? {}) as Table;
  } catch {
    return null;
  }
  if (body.kind !== 'terrain-weights' || typeof body.width !== 'number' || typeof body.height !== 'number' || !Array.isArray(body.layers))
    return null;
  return { width: body.width, height: body.height, layers: body.layers as Entry[] };
}

async function weigh(
  { manifest, file }: OpenBundle,
  codec: { decode(bytes: Uint8Array, space: ColourSpace): Promise<Image> },
  path: string,
  { width, height, layers }: { width: number; height: number; layers: Entry[] },
): Promise<string | null> {
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  const images = new Map<string, Image>();
  const sums = new Uint16Array(width * height);
  for (const layer of layers) {
    const of = manifest.files.find((f) => f.path === folder + layer.file);
    if (!of) return `${path}: ${layer.file}, which holds ${layer.name}, is not in the bundle`;
    let image = images.get(layer.file);
    if (!image) {
      try {
        images.set(layer.file, (image = await codec.decode(await file(of), 'data')));
      } catch (error) {
        return (error as Error).message;
      }
    }
    if (image.width !== width || image.height !== height)
      return `${of.path} has ${image.width} × ${image.height} samples, and its table says ${width} × ${height}`;
    const at = CHANNELS.indexOf(layer.channel);
    if (at < 0 || at >= image.channels || image.depth !== 8)
      return `${of.path} has no channel ${layer.channel} of 8 bits, which ${layer.name} lies in`;
    for (let i = 0; i < sums.length; i++) sums[i] += image.data[i * image.channels + at];
  }
  const uneven = sums.findIndex((v) => v !== 255);
  return uneven < 0
    ? null
    : `${path}: weights sum to ${sums[uneven]} instead of 255 at column ${(uneven % width) + 1}, row ${Math.floor(uneven / width) + 1}`;
}
