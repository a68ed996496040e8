// Meshes of glTF that are packed by Draco: unpacked into plain accessors before anything else looks at them. Sources:
// KHR_draco_mesh_compression; Draco bitstream specification 2.2, 4 (header) and 5 (connectivity). Node only: the library
// loads its WebAssembly from beside itself.
import { createRequire } from 'node:module';
import { FormatError } from '../codec';
import { unsupported } from '../reader';
import { DRACO, Members, packedPieces, whole } from './check';
import type { Json } from './container';

const MESH = 1;
const METADATA = 0x8000;
/** Versions write their counts differently; encoders have written this one since 2018. */
const VERSION = [2, 2] as const;

const corrupt = (what: string): FormatError => new FormatError('corrupt', `${what}. Export it again`);

/** What is used of the library. */
interface Draco {
  HEAP8: Int8Array;
  TRIANGULAR_MESH: number;
  Decoder: new () => {
    GetEncodedGeometryType(buffer: object): number;
    DecodeBufferToMesh(buffer: object, mesh: object): { ok(): boolean; error_msg(): string };
    GetAttributeByUniqueId(mesh: object, id: number): { ptr: number; num_components(): number };
    GetAttributeDataArrayForAllPoints(mesh: object, attribute: object, type: number, bytes: number, at: number): boolean;
    GetTrianglesUInt32Array(mesh: object, bytes: number, at: number): boolean;
  };
  DecoderBuffer: new () => { Init(bytes: Int8Array, length: number): void };
  Mesh: new () => { num_faces(): number; num_points(): number };
  _malloc(bytes: number): number;
  _free(at: number): void;
}
interface Library {
  createDecoderModule(options: object): Promise<Draco>;
}
/** Loaded when it is first needed; it is a module of the older kind. */
const load = (): Library => createRequire(import.meta.url)('draco3dgltf') as Library;
let library: Library | null = null;

const TYPES: Record<number, readonly [name: string, bytes: number]> = {
  5120: ['DT_INT8', 1],
  5121: ['DT_UINT8', 1],
  5122: ['DT_INT16', 2],
  5123: ['DT_UINT16', 2],
  5125: ['DT_UINT32', 4],
  5126: ['DT_FLOAT32', 4],
};
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 };
const UNSIGNED_INT = 5125;
const TRIANGLES = 4;

/**
 * The document with plain accessors in the place of packed ones, and a buffer more that holds them.
 * @throws FormatError when a piece is not what its accessors say, before anything of that size is taken
 */
export async function unpackDraco(json: Json, buffers: readonly Uint8Array[]): Promise<{ json: Json; buffers: Uint8Array[] }> {
  const members = new Members(json);
  const views = [...members.list('bufferViews')];
  const accessors = [...members.list('accessors')];
  const made: Uint8Array[] = [];
  let length = 0;
  const put = (accessor: number, componentType: number, bytes: Uint8Array) => {
    accessors[accessor] = { ...accessors[accessor], componentType, bufferView: views.length, byteOffset: 0, sparse: undefined };
    views.push({ buffer: buffers.length, byteOffset: length, byteLength: bytes.length });
    const padded = new Uint8Array((bytes.length + 3) & ~3);
    padded.set(bytes);
    made.push(padded);
    length += padded.length;
  };
  const done = new Set<string>();
  for (const { place, primitive, ext } of packedPieces(json)) {
    const where = `${place}.extensions.${DRACO}`;
    if (((primitive['mode'] as number | undefined) ?? TRIANGLES) !== TRIANGLES)
      throw unsupported(`${place}: packed strips are not read. Export it with triangles`);
    const at = whole(ext, 'bufferView', where);
    if (at >= views.length) throw corrupt(`${where}: bufferView points at number ${at}, and there are ${views.length}`);
    const attributes = primitive['attributes'] as Record<string, number>;
    const ids = ext['attributes'];
    if (!ids || typeof ids !== 'object') throw corrupt(`${where}: has no attributes`);
    const wanted = Object.keys(ids).filter((name) => attributes[name] !== undefined);
    if (primitive['indices'] === undefined || attributes['POSITION'] === undefined || !wanted.includes('POSITION'))
      throw corrupt(`${where}: positions or indices are missing`);
    const indices = primitive['indices'] as number;
    const key = JSON.stringify([at, indices, ...wanted.map((name) => attributes[name])]);
    if (done.has(key)) continue;
    done.add(key);
    const view = views[at];
    const from = (view['byteOffset'] as number | undefined) ?? 0;
    const bytes = buffers[view['buffer'] as number].subarray(from, from + (view['byteLength'] as number));
    const points = accessors[attributes['POSITION']]['count'] as number;
    const corners = accessors[indices]['count'] as number;
    checkCounts(bytes, where, points, corners);
    const piece = await decode(bytes, where, points, corners);
    put(indices, UNSIGNED_INT, piece.triangles());
    for (const name of wanted) {
      const accessor = accessors[attributes[name]];
      const id = whole(ids as Json, name, `${where}.attributes`);
      const componentType = accessor['componentType'] as number;
      put(attributes[name], componentType, piece.values(id, name, COMPONENTS[String(accessor['type'])] ?? 0, componentType));
    }
  }
  const all = new Uint8Array(length);
  let at = 0;
  for (const bytes of made) {
    all.set(bytes, at);
    at += bytes.length;
  }
  const list = [...members.list('buffers'), { byteLength: length }];
  return { json: { ...json, bufferViews: views, accessors, buffers: list }, buffers: [...buffers, all] };
}

/** The counts that the stream begins with: it is taken at its word before it is believed. */
function checkCounts(bytes: Uint8Array, place: string, points: number, corners: number): void {
  if (bytes.length < 16 || String.fromCharCode(...bytes.subarray(0, 5)) !== 'DRACO') throw corrupt(`${place}: its bytes are not packed by Draco`);
  const [major, minor, type, method] = bytes.subarray(5, 9);
  if (major !== VERSION[0] || minor !== VERSION[1])
    throw unsupported(`${place}: it is packed by Draco ${major}.${minor}; ${VERSION.join('.')} is read. Export it again`);
  if (type !== MESH || method > 1) throw corrupt(`${place}: it holds no mesh`);
  if ((bytes[9] | (bytes[10] << 8)) & METADATA) throw unsupported(`${place}: it carries metadata, which is not read. Export it without`);
  let at = 11;
  const varint = () => {
    let value = 0;
    for (let shift = 0; shift < 35; shift += 7) {
      const byte = bytes[at++] ?? 0;
      value += (byte & 127) * 2 ** shift;
      if (byte < 128) return value;
    }
    throw corrupt(`${place}: a count never ends`);
  };
  // Edgebreaker (1) says how it went about it, then vertices and faces; sequential (0) faces, then points.
  if (method === 1) at++;
  const first = varint();
  const second = varint();
  const [vertices, faces] = method === 1 ? [first, second] : [second, first];
  if (faces * 3 !== corners) throw corrupt(`${place}: it holds ${faces} triangles, and its accessor says ${corners / 3}`);
  if (vertices > points) throw corrupt(`${place}: it holds ${vertices} vertices, and its accessor says ${points}`);
}

/** One piece, unpacked in an instance of the library of its own: what it took is let go with it. */
async function decode(bytes: Uint8Array, place: string, points: number, corners: number) {
  const broken = (why: string) => corrupt(`${place}: it cannot be unpacked: ${why}`);
  const guarded = <T>(work: () => T): T => {
    try {
      return work();
    } catch (error) {
      throw error instanceof FormatError ? error : broken((error as Error).message || 'it is damaged');
    }
  };
  const draco = await (library ??= load()).createDecoderModule({});
  const decoder = new draco.Decoder();
  const mesh = new draco.Mesh();
  guarded(() => {
    const buffer = new draco.DecoderBuffer();
    buffer.Init(new Int8Array(bytes.buffer, bytes.byteOffset, bytes.length), bytes.length);
    if (decoder.GetEncodedGeometryType(buffer) !== draco.TRIANGULAR_MESH) throw broken('it holds no mesh');
    const status = decoder.DecodeBufferToMesh(buffer, mesh);
    if (!status.ok()) throw broken(status.error_msg());
    if (mesh.num_faces() * 3 !== corners || mesh.num_points() !== points)
      throw broken(`it holds ${mesh.num_points()} vertices and ${mesh.num_faces()} triangles, and its accessors say ${points} and ${corners / 3}`);
  });
  const copied = (length: number, fill: (at: number) => boolean): Uint8Array =>
    guarded(() => {
      const at = draco._malloc(length);
      if (!at || !fill(at)) throw broken('its values do not come out');
      const out = new Uint8Array(draco.HEAP8.buffer, at, length).slice();
      draco._free(at);
      return out;
    });
  return {
    triangles: () => copied(corners * 4, (at) => decoder.GetTrianglesUInt32Array(mesh, corners * 4, at)),
    values(id: number, name: string, components: number, componentType: number): Uint8Array {
      const attribute = guarded(() => decoder.GetAttributeByUniqueId(mesh, id));
      const held = attribute.ptr ? guarded(() => attribute.num_components()) : 0;
      if (held !== components) throw broken(`${name} has ${held} components, and its accessor says ${components}`);
      const [type, size] = TYPES[componentType];
      const length = points * components * size;
      return copied(length, (at) =>
        decoder.GetAttributeDataArrayForAllPoints(mesh, attribute, (draco as unknown as Record<string, number>)[type], length, at),
      );
    },
  };
}
