import type { Image, MapEntry, MapSet, Role, RowImage, Samples, StagePixels, SurfaceDocument } from '@pebble/core';
import { ROLE_FACTS, extractChannel, fitWithin, fullScale, linearToSrgb, makeImage, makeSamples, quantise, resize } from '@pebble/core';
import type { BlobStore, Ports } from './ports';
import { UseCaseError } from './errors';

/** Longest side of the pixels kept for the stage. */
export const STAGE_SIZE = 1024;
/** Longest side of those that a picture ahead is worked out from. */
export const COARSE_SIZE = 256;

/** A normal map with green turned over: Y+ to Y− and back. Other maps and directions pass as they are. */
export function flipGreen(image: Image): Image {
  const full = image.depth === 8 ? 255 : image.depth === 16 ? 65535 : 1;
  const data = image.data.slice();
  for (let i = 1; i < data.length; i += image.channels) data[i] = full - data[i];
  return { ...image, data };
}

/** Linear samples of whole numbers as sRGB ones of the same depth; alpha stays. */
function encoded(image: Image): Image {
  const full = fullScale(image.depth);
  const data = image.data.slice();
  const alpha = image.channels === 4 ? 3 : -1;
  const table = Float64Array.from({ length: full + 1 }, (_, v) => Math.round(linearToSrgb(v / full) * full));
  for (let i = 0; i < data.length; i++) if (i % image.channels !== alpha) data[i] = table[data[i]];
  return { ...image, data, colourSpace: 'srgb' };
}

/** A float picture in whole numbers, and what became of its range. */
export interface Whole {
  image: Image;
  /** Metres between its least and its greatest height, when it holds metres. */
  reliefM: number | null;
  note: string;
}

/**
 * A float picture as 16-bit samples of a role. Colours are linear light and are encoded; what shines brighter than 1 is
 * cut. Heights outside 0–1 are metres, and are spread over their range; everything else is cut to 0–1.
 */
export function asWhole(image: Image, role: Role): Whole {
  const { width, height, channels, data } = image;
  let [lo, hi] = [Infinity, -Infinity];
  for (const v of data)
    if (Number.isFinite(v)) {
      lo = Math.min(lo, v);
      hi = Math.max(hi, v);
    }
  if (lo > hi) [lo, hi] = [0, 0];
  const metres = role === 'height' && (lo < 0 || hi > 1);
  const coded = ROLE_FACTS[role].colourSpace === 'srgb';
  const span = metres ? Math.max(hi - lo, 1e-6) : 1;
  const from = metres ? lo : 0;
  const out = new Uint16Array(data.length);
  for (let i = 0; i < out.length; i++) {
    // What is no number is taken for the least.
    const v = Number.isFinite(data[i]) ? (data[i] - from) / span : 0;
    out[i] = quantise(coded && !(channels === 4 && i % 4 === 3) ? linearToSrgb(Math.max(0, v)) : v, 16);
  }
  const note = metres
    ? `Heights of ${lo.toFixed(2)} to ${hi.toFixed(2)} m, kept in 16 bits over that range.`
    : `Float values of ${lo.toFixed(3)} to ${hi.toFixed(3)}, kept in 16 bits${lo < 0 || hi > 1 ? '; what lies outside 0 to 1 is cut' : ''}.`;
  const made = makeImage({ width, height, channels, depth: 16, colourSpace: coded ? 'srgb' : 'data', data: out });
  return { image: made, reliefM: metres ? span : null, note };
}

/**
 * A decoded file as the role has it: grey roles keep one channel, colours at least three and sRGB (a file whose colour
 * space is said to be linear is encoded), normals Y+.
 */
export function asRole(image: Image, role: Role, normalDirection: 'y+' | 'y-' | null): Image {
  const { components, colourSpace } = ROLE_FACTS[role];
  const typed: Image = { ...image, colourSpace: image.depth === 32 ? 'linear' : colourSpace };
  if (components === 1) return typed.channels === 1 ? typed : { ...extractChannel(typed, 0), colourSpace };
  const rgb = typed.channels >= 3 ? typed : spread(typed);
  if (colourSpace === 'srgb' && image.colourSpace === 'linear' && image.depth !== 32) return encoded(rgb);
  return role === 'normal' && normalDirection === 'y-' ? flipGreen(rgb) : rgb;
}

/** Grey (with or without alpha) as three equal channels. */
function spread(image: Image): Image {
  const out = makeImage({ ...image, channels: 3, data: undefined });
  for (let i = 0, j = 0; i < out.data.length; i += 3, j += image.channels) out.data[i] = out.data[i + 1] = out.data[i + 2] = image.data[j];
  return out;
}

/** The bytes of samples, 16-bit ones little-endian as the processor has them. */
export const sampleBytes = (image: Image): Uint8Array => new Uint8Array(image.data.buffer, image.data.byteOffset, image.data.byteLength);

/** Keeps the pixels that the stage will ask for, and coarse ones for what it cannot wait for. */
export async function storeStagePixels(image: Image, blobs: BlobStore): Promise<StagePixels> {
  const size = fitWithin(image.width, image.height, STAGE_SIZE);
  const small = resize(image, size.width, size.height);
  const keep = async (of: Image) => ({ blob: await blobs.put(sampleBytes(of), 'application/octet-stream'), width: of.width, height: of.height });
  const pixels: StagePixels = { ...(await keep(small)), channels: small.channels, depth: small.depth === 8 ? 8 : 16 };
  const coarse = fitWithin(size.width, size.height, COARSE_SIZE);
  return coarse.width === size.width ? pixels : { ...pixels, coarse: await keep(resize(small, coarse.width, coarse.height)) };
}

/** Reads one map of a surface at full size, as its role has it. */
export async function loadMap(ports: Pick<Ports, 'blobs' | 'codec'>, entry: MapEntry, role: Role): Promise<Image> {
  const image = await ports.codec.decode(await ports.blobs.get(entry.blob), entry.colourSpace);
  return asRole(image, role, entry.normalDirection);
}

/** The same map by rows, so that no more than a few of them are in memory. */
async function openMap(ports: Ports, entry: MapEntry, role: Role): Promise<RowImage> {
  return rowsAsRole(await ports.codec.openRows(ports.blobs.stream(entry.blob), entry.colourSpace), role, entry.normalDirection);
}

/** {@link asRole} for an image that is read by rows. */
export function rowsAsRole(image: RowImage, role: Role, normalDirection: 'y+' | 'y-' | null): RowImage {
  const part = (height: number, data: Samples): Image => asRole({ ...image, height, data }, role, normalDirection);
  const { channels, colourSpace } = part(1, makeSamples(image.depth, image.width * image.channels));
  return { ...image, channels, colourSpace, rows: async (first, end) => part(end - first, await image.rows(first, end)).data };
}

/** Reads the maps of a surface that are asked for and exist. @throws UseCaseError naming the map that cannot be read */
export const loadMaps = (ports: Ports, surface: SurfaceDocument, roles: readonly Role[]): Promise<MapSet> => each(ports, surface, roles, loadMap);

/** The maps of a surface as the stage has them, small and quick to read. */
export async function stageMaps(ports: Ports, surface: SurfaceDocument, roles: readonly Role[]): Promise<MapSet> {
  return each(ports, surface, roles, async (_, { stage }, role) => {
    const bytes = await ports.blobs.get(stage.blob);
    const data = stage.depth === 8 ? bytes : new Uint16Array(bytes.slice().buffer);
    return makeImage({ ...stage, colourSpace: ROLE_FACTS[role].colourSpace, data });
  });
}

/** Opens the maps of a surface that are asked for and exist; all are closed again when one of them cannot be opened. */
export async function openMaps(ports: Ports, surface: SurfaceDocument, roles: readonly Role[]): Promise<Partial<Record<Role, RowImage>>> {
  const opened: RowImage[] = [];
  try {
    return await each(ports, surface, roles, async (...of) => {
      const image = await openMap(...of);
      opened.push(image);
      return { ...image, rows: (first: number, end: number) => named(surface, of[2], of[1], () => image.rows(first, end)) };
    });
  } catch (error) {
    await Promise.all(opened.map((image) => image.close()));
    throw error;
  }
}

async function each<T>(
  ports: Ports,
  surface: SurfaceDocument,
  roles: readonly Role[],
  read: (ports: Ports, entry: MapEntry, role: Role) => Promise<T>,
): Promise<Partial<Record<Role, T>>> {
  const maps: Partial<Record<Role, T>> = {};
  for (const role of roles) {
    const entry = surface.maps[role];
    if (entry) maps[role] = await named(surface, role, entry, () => read(ports, entry, role));
  }
  return maps;
}

/** Says of which map a failure is. */
async function named<T>(surface: SurfaceDocument, role: Role, entry: MapEntry, run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    const where = `${surface.name}, ${ROLE_FACTS[role].label.toLowerCase()} (${entry.fileName})`;
    throw new UseCaseError('unreadable-map', `${where}: ${(error as Error).message}`, entry.fileName);
  }
}
