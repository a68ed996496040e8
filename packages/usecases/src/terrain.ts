// Terrains as files: heights as a picture with its metres beside it, weights four a picture with a table.
import type { FieldFacts, Heightfield, Image, SpecimenDocument, TerrainWeights } from '@pebble/core';
import { HILLSIDE, LAYERS_A_FILE, MAX_TERRAIN_LAYERS, fieldFindings, fieldMesh, hillside, makeImage, unevenAt } from '@pebble/core';
import type { ImageReader } from '@pebble/formats';
import { decodeRawHeights, isRawName } from '@pebble/formats';
import { UseCaseError } from './errors';
import { fieldFrom } from './heights';
import type { NamedBlob } from './mesh-intake';
import type { Ports, Report } from './ports';
import { keepModel } from './specimens';

export { fieldFrom } from './heights';

/** What stands beside the picture of heights: what its numbers mean. */
export interface TerrainFile extends FieldFacts {
  kind: 'terrain';
  version: 1;
  name: string;
  /** The picture of heights, by its name beside this file. */
  heights: string;
}

/** A picture of heights of any kind that is read; raw ones by their name. @throws FormatError */
export const readHeights = async (fileName: string, bytes: Uint8Array, codec: Pick<ImageReader, 'decode'>): Promise<Image> =>
  isRawName(fileName) ? decodeRawHeights(bytes) : codec.decode(bytes, 'data');

/** @throws UseCaseError that says what is wrong, and where */
function refused(message: string, where: string): never {
  throw new UseCaseError('bad-facts', `${where}: ${message}`, where);
}
/** What a file of JSON says, whatever that is. @throws UseCaseError for one that is none */
function parsed<T>(text: string, where: string): Partial<T> {
  try {
    return (JSON.parse(text) ?? {}) as Partial<T>;
  } catch (error) {
    return refused(`it is not JSON: ${(error as Error).message}`, where);
  }
}
const isNumber = (v: unknown): v is number => typeof v === 'number' && Number.isFinite(v);

/** Reads what stands beside heights. @throws UseCaseError that says which part is wrong */
export function parseTerrain(text: string, where: string): TerrainFile {
  const body = parsed<TerrainFile>(text, where);
  const refuse = (message: string) => refused(message, where);
  if (body.kind !== 'terrain') return refuse('it describes no terrain: its kind is to be "terrain"');
  if (body.version !== 1) return refuse(`it has version ${String(body.version)}; version 1 is read here`);
  const { name, heights, acrossM, rangeM, footM } = body;
  if (typeof name !== 'string' || typeof heights !== 'string' || /[\\/]/.test(heights))
    return refuse('it needs a name, and the file of its heights beside it');
  if (!isNumber(acrossM) || !(acrossM > 0) || !isNumber(rangeM) || !(rangeM > 0) || !isNumber(footM))
    return refuse('acrossM and rangeM are metres over 0, footM is metres above the sea');
  return { kind: 'terrain', version: 1, name, heights, acrossM, rangeM, footM };
}

/** Heights as 16 bits over a range that holds them all: nothing is clipped, a step is a 65,535th of the range. */
export function heightPicture(
  { width, height, altitude }: Heightfield,
  facts?: Pick<FieldFacts, 'rangeM' | 'footM'>,
): { image: Image; rangeM: number; footM: number } {
  let [lo, hi] = [Infinity, -Infinity];
  for (const a of altitude) {
    if (a < lo) lo = a;
    if (a > hi) hi = a;
  }
  const footM = facts?.footM ?? Math.floor(lo);
  const rangeM = facts?.rangeM ?? Math.max(1, Math.ceil(hi - footM));
  const data = new Uint16Array(width * height);
  for (let i = 0; i < data.length; i++) data[i] = Math.round(Math.min(1, Math.max(0, (altitude[i] - footM) / rangeM)) * 65535);
  return { image: makeImage({ width, height, channels: 1, depth: 16, data }), rangeM, footM };
}

/** The table beside weights: which layer lies in which channel of which file. */
export interface WeightTable {
  kind: 'terrain-weights';
  version: 1;
  width: number;
  height: number;
  layers: { name: string; file: string; channel: 'r' | 'g' | 'b' | 'a' }[];
}
const CHANNELS = ['r', 'g', 'b', 'a'] as const;

/** Weights as pictures of four layers each, the last with three or four channels, and their table. */
export function weightPictures(
  weights: TerrainWeights,
  names: readonly string[],
  stem = '',
): { table: WeightTable; pictures: { file: string; image: Image }[] } {
  const { width, height, layers } = weights;
  const files = Math.ceil(layers.length / LAYERS_A_FILE);
  const pictures = Array.from({ length: files }, (_, f) => {
    const own = layers.slice(f * LAYERS_A_FILE, (f + 1) * LAYERS_A_FILE);
    const channels = own.length > 3 ? 4 : 3;
    const image = makeImage({ width, height, channels, depth: 8 });
    own.forEach((layer, c) => {
      for (let i = 0; i < layer.length; i++) image.data[i * channels + c] = layer[i];
    });
    return { file: `${stem}weights_${f + 1}.png`, image };
  });
  const table: WeightTable = {
    kind: 'terrain-weights',
    version: 1,
    width,
    height,
    layers: layers.map((_, l) => ({
      name: names[l] ?? `layer ${l + 1}`,
      file: pictures[Math.floor(l / LAYERS_A_FILE)].file,
      channel: CHANNELS[l % LAYERS_A_FILE],
    })),
  };
  return { table, pictures };
}

/**
 * Weights from their table and pictures.
 * @throws UseCaseError naming the file for one that is missing or of another size, and the sample where weights do not sum to 255
 */
export async function readWeights(
  text: string,
  where: string,
  picture: (file: string) => Promise<Image | null>,
): Promise<{ weights: TerrainWeights; names: string[] }> {
  const table = parsed<WeightTable>(text, where);
  const refuse = (message: string, place = where) => refused(message, place);
  const { width, height, layers } = table;
  if (table.kind !== 'terrain-weights' || table.version !== 1) return refuse('it is no table of weights of version 1');
  if (!isNumber(width) || !isNumber(height) || !Array.isArray(layers) || !layers.length)
    return refuse('it needs width, height and at least one layer');
  if (layers.length > MAX_TERRAIN_LAYERS) return refuse(`it has ${layers.length} layers; a terrain stores ${MAX_TERRAIN_LAYERS} at most`);
  const images = new Map<string, Image>();
  const out: TerrainWeights = { width, height, layers: [] };
  for (const { name, file, channel } of layers) {
    if (typeof file !== 'string' || /[\\/]/.test(file)) return refuse(`layer ${name} lies in "${file}", which is no file beside it`);
    const image = images.get(file) ?? (await picture(file));
    if (!image) return refuse('it is missing, and holds weights', file);
    images.set(file, image);
    if (image.width !== width || image.height !== height)
      return refuse(`it has ${image.width} × ${image.height} samples where the table says ${width} × ${height}`, file);
    const at = CHANNELS.indexOf(channel);
    if (at < 0 || at >= image.channels || image.depth !== 8)
      return refuse(`it has ${image.channels} channels of ${image.depth} bits; layer ${name} wants ${channel} of 8 bits`, file);
    const layer = new Uint8Array(width * height);
    for (let i = 0; i < layer.length; i++) layer[i] = image.data[i * image.channels + at];
    out.layers.push(layer);
  }
  const uneven = unevenAt(out);
  if (uneven >= 0)
    return refuse(
      `weights sum to ${out.layers.reduce((sum, l) => sum + l[uneven], 0)} instead of 255 at column ${(uneven % width) + 1}, row ${Math.floor(uneven / width) + 1}. Export them anew`,
    );
  return { weights: out, names: layers.map((l) => l.name) };
}

/** Samples of the hillside that ships with the product, along a side. */
const HILLSIDE_SAMPLES = 1025;
/** Columns of the mesh that a terrain is shown by: edges and sky are looked at on up to 60,000 vertices. */
const SHOWN_COLUMNS = 240;

/**
 * A terrain as a specimen: a mesh in metres with its foot at the origin, whose coordinates lie once over all of it. What has to be
 * known of its heights is in its notes.
 * @throws FormatError for a picture that cannot be read; UseCaseError for one that is no terrain
 */
export async function terrainSpecimen(
  ports: Ports,
  { name, heights, ...asked }: FieldFacts & { name: string; heights: NamedBlob | null },
  report: Report,
): Promise<SpecimenDocument> {
  report(0.05, name);
  // The hillside's metres are its own.
  const facts: FieldFacts = heights ? asked : HILLSIDE;
  const bytes = heights && (await ports.blobs.get(heights.blob));
  // Raw heights are kept as pictures.
  const image = bytes && (await ports.codec.decode(bytes, 'data'));
  const findings = image ? fieldFindings(image, facts) : [];
  const error = findings.find((f) => f.severity === 'error');
  if (error) throw new UseCaseError('bad-facts', `${heights?.fileName ?? name}: ${error.message}`, heights?.fileName);
  const field = image ? fieldFrom(image, facts, heights?.fileName ?? name) : hillside(HILLSIDE_SAMPLES);
  report(0.4, `${name}: its mesh`);
  const { width, height } = field;
  const mesh = fieldMesh(field, Math.max(1, Math.ceil(Math.max(width, height) / SHOWN_COLUMNS)), facts.footM);
  const [acrossM, downM] = [field.spacingM * (width - 1), field.spacingM * (height - 1)];
  // Once over the longer side, square texels.
  const side = Math.max(acrossM, downM);
  const texcoord = mesh.texcoord.map((v, i) => v / side + (i % 2 ? downM : acrossM) / (2 * side));
  const model = { title: name, lods: [[{ name: 'ground', slot: 'ground', mesh: { ...mesh, texcoord }, sets: [texcoord], coloured: false }]] };
  return {
    kind: 'specimen',
    version: 1,
    name,
    file: {
      blob: heights?.blob ?? (await ports.blobs.put(await ports.codec.encode(heightPicture(field, facts).image), 'image/png')),
      fileName: heights?.fileName ?? 'hillside.png',
      bytes: bytes?.length ?? 0,
    },
    unitM: 1,
    up: 'y',
    uvSet: 0,
    stacking: {},
    notes: findings.map((f) => `${f.message}.`),
    terrain: { heights: heights?.blob ?? null, width, height, acrossM: facts.acrossM, rangeM: facts.rangeM, footM: facts.footM },
    ...(await keepModel(ports, name, model, { unitM: 1, up: 'y' })),
  };
}
