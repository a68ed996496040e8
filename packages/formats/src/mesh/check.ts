// Whether a glTF document holds together, before anything is made of it: every index points at something, every accessor
// lies in its buffer, nodes form a tree. What is found wrong is named by its place in the document.
import { FormatError } from '../codec';
import { unsupported } from '../reader';
import type { Container, Json } from './container';
import { MESH_LIMITS, mebibytes, plainName, tooMuch } from './kinds';
import type { Siblings } from './kinds';

/** Meshes in this are unpacked before they are read. */
export const DRACO = 'KHR_draco_mesh_compression';
/** What is understood beyond the core of the format. */
const UNDERSTOOD = new Set([
  'KHR_mesh_quantization',
  'EXT_meshopt_compression',
  DRACO,
  'KHR_texture_basisu',
  'EXT_texture_webp',
  'KHR_texture_transform',
]);
/** Looks that are not taken over: a mesh can be read without them. */
const LOOKS = /^(KHR_materials_|KHR_lights_|KHR_xmp|EXT_lights_)/;
const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
const DEEPEST = 1000;

const bad = (place: string, what: string): FormatError => new FormatError('corrupt', `${place}: ${what}. Export the file again`);

/** Reads members of the document and says which one is not what it should be. */
export class Members {
  constructor(private readonly json: Json) {}

  number(key: string, fallback: number): number {
    return whole(this.json, key, 'the document', fallback);
  }

  list(key: string): Json[] {
    const value = this.json[key];
    if (value === undefined) return [];
    if (!Array.isArray(value)) throw bad(key, 'is no list');
    value.forEach((entry, i) => {
      if (!entry || typeof entry !== 'object' || Array.isArray(entry)) throw bad(`${key}[${i}]`, 'is no object');
    });
    return value as Json[];
  }
}

export function whole(of: Json, key: string, place: string, fallback?: number): number {
  const value = of[key] ?? fallback;
  if (!Number.isSafeInteger(value) || (value as number) < 0) throw bad(place, `${key} is ${value === undefined ? 'missing' : 'no whole number'}`);
  return value as number;
}

function pointer(of: Json, key: string, place: string, count: number): number | null {
  if (of[key] === undefined) return null;
  const value = whole(of, key, place);
  if (value >= count) throw bad(place, `${key} points at number ${value}, and there are ${count}`);
  return value;
}

/** Indices in a list of an object, each below `count`. */
function pointers(of: Json, key: string, place: string, count: number): number[] {
  const value = of[key] ?? [];
  if (!Array.isArray(value)) throw bad(place, `${key} is no list`);
  return value.map((_, i) => pointer(value as unknown as Json, String(i), `${place}.${key}`, count) ?? 0);
}

/** The document's bytes by buffer; what other files hold is asked for. @throws FormatError */
export async function checkedBuffers({ json, bin }: Container, siblings: Siblings): Promise<Uint8Array[]> {
  const out: Uint8Array[] = [];
  for (const [i, buffer] of new Members(json).list('buffers').entries()) {
    const place = `buffers[${i}]`;
    const length = whole(buffer, 'byteLength', place);
    const bytes = await bytesAt(buffer['uri'], place, i === 0 ? bin : null, siblings, isFallback(buffer));
    if (bytes && bytes.length < length)
      throw new FormatError('truncated', `${place}: ${length} bytes are wanted and ${bytes.length} are there. Copy or export it again`, bytes.length);
    out.push(bytes ?? new Uint8Array(0));
  }
  return out;
}

/** A buffer that is only there for readers without the compression that the file uses. */
const isFallback = (buffer: Json): boolean =>
  !!((buffer['extensions'] as Json | undefined)?.['EXT_meshopt_compression'] as Json | undefined)?.['fallback'];

async function bytesAt(uri: unknown, place: string, bin: Uint8Array | null, siblings: Siblings, fallback: boolean): Promise<Uint8Array | null> {
  if (uri === undefined) {
    if (bin) return bin;
    if (fallback) return null;
    throw new FormatError('truncated', `${place}: its bytes are not in the file. Export it again`);
  }
  if (typeof uri !== 'string') throw bad(place, 'uri is no text');
  if (uri.startsWith('data:')) return dataOf(uri, place);
  const found = await siblings(plainName(uri));
  if (!found) throw new FormatError('truncated', `${plainName(uri)} is missing, which holds its vertices. Bring it in together with this file`);
  return found;
}

export function dataOf(uri: string, place: string): Uint8Array {
  const comma = uri.indexOf(',');
  if (comma < 0 || !/;base64$/i.test(uri.slice(0, comma))) throw bad(place, 'its data address is not base64');
  try {
    return Uint8Array.from(atob(uri.slice(comma + 1).replace(/\s/g, '')), (c) => c.charCodeAt(0));
  } catch {
    throw bad(place, 'its base64 cannot be read');
  }
}

/** @throws FormatError when this is glTF of another version, or none */
export function checkVersion(json: Json): void {
  const asset = json['asset'] as Json | undefined;
  const version = asset && typeof asset === 'object' ? asset['version'] : undefined;
  if (typeof version !== 'string') throw bad('asset', 'says no version, so this is no glTF');
  if (!version.startsWith('2')) throw unsupported(`this is glTF ${version.slice(0, 8)}; version 2 is read. Export it again as glTF 2.0`);
}

/** @throws FormatError for the first thing that does not hold together */
export function checkDocument(json: Json, buffers: readonly Uint8Array[]): void {
  const required = json['extensionsRequired'] ?? [];
  if (!Array.isArray(required)) throw bad('extensionsRequired', 'is no list');
  const strange = (required as unknown[]).find((e) => !UNDERSTOOD.has(String(e)) && !LOOKS.test(String(e)));
  if (strange !== undefined) throw unsupported(`it needs ${String(strange).slice(0, 60)}, which is not read. Export it without`);
  const members = new Members(json);
  const views = members.list('bufferViews');
  views.forEach((view, i) => checkView(view, `bufferViews[${i}]`, buffers));
  const accessors = members.list('accessors');
  // A few bytes can stand for any number of values: by accessors without bytes, or many over the same ones.
  let bytes = 0;
  accessors.forEach((accessor, i) => {
    bytes += checkAccessor(accessor, `accessors[${i}]`, views, buffers);
    if (bytes > MESH_LIMITS.bytes) throw tooMuch('MiB of values', mebibytes(bytes), mebibytes(MESH_LIMITS.bytes));
  });
  checkMeshes(members, accessors);
  checkNodes(members);
}

function checkView(view: Json, place: string, buffers: readonly Uint8Array[]): void {
  const buffer = pointer(view, 'buffer', place, buffers.length);
  if (buffer === null) throw bad(place, 'buffer is missing');
  const end = whole(view, 'byteOffset', place, 0) + whole(view, 'byteLength', place);
  const packed = (view['extensions'] as Json | undefined)?.['EXT_meshopt_compression'] as Json | undefined;
  if (packed) {
    const unpacked = whole(packed, 'count', place) * whole(packed, 'byteStride', place);
    if (unpacked > MESH_LIMITS.bytes) throw tooMuch('MiB of values', mebibytes(unpacked), mebibytes(MESH_LIMITS.bytes));
    return checkView(packed, `${place}.extensions.EXT_meshopt_compression`, buffers);
  }
  if (end > buffers[buffer].length) throw bad(place, `reaches to byte ${end} of a buffer of ${buffers[buffer].length}`);
}

/** @returns bytes that its values take in memory, as floats */
function checkAccessor(accessor: Json, place: string, views: readonly Json[], buffers: readonly Uint8Array[]): number {
  const component = COMPONENT_BYTES[whole(accessor, 'componentType', place)];
  const components = COMPONENTS[String(accessor['type'])];
  if (!component) throw bad(place, `componentType ${String(accessor['componentType'])} does not exist`);
  if (!components) throw bad(place, `type ${String(accessor['type']).slice(0, 20)} does not exist`);
  const count = whole(accessor, 'count', place);
  if (count > MESH_LIMITS.vertices * 3) throw tooMuch('values in one accessor', count, MESH_LIMITS.vertices * 3);
  inView(accessor, place, views, component * components, count);
  const taken = count * components * 4;
  const sparse = accessor['sparse'] as Json | undefined;
  if (!sparse) return taken;
  const few = whole(sparse, 'count', `${place}.sparse`);
  const indices = sparse['indices'] as Json | undefined;
  const values = sparse['values'] as Json | undefined;
  if (!indices || !values || few > count) throw bad(`${place}.sparse`, 'its indices and values do not fit');
  const kind = whole(indices, 'componentType', `${place}.sparse.indices`);
  if (!INDEX_KINDS.has(kind)) throw bad(`${place}.sparse.indices`, `componentType ${kind} is none of whole numbers without a sign`);
  inView(indices, `${place}.sparse.indices`, views, COMPONENT_BYTES[kind], few);
  inView(values, `${place}.sparse.values`, views, component * components, few);
  checkSparse(indices, kind, few, count, `${place}.sparse.indices`, views, buffers);
  return taken;
}

/** Whole numbers without a sign. */
const INDEX_KINDS = new Set([5121, 5123, 5125]);

/** Values that are put in place rise, and each is one that is there. */
function checkSparse(
  indices: Json,
  kind: number,
  few: number,
  count: number,
  place: string,
  views: readonly Json[],
  buffers: readonly Uint8Array[],
): void {
  const view = views[indices['bufferView'] as number];
  // What is packed is checked by whoever unpacks it.
  if (!view || view['extensions']) return;
  const bytes = buffers[view['buffer'] as number];
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const from = ((view['byteOffset'] as number | undefined) ?? 0) + ((indices['byteOffset'] as number | undefined) ?? 0);
  for (let i = 0, before = -1; i < few; i++) {
    const value = kind === 5121 ? data.getUint8(from + i) : kind === 5123 ? data.getUint16(from + i * 2, true) : data.getUint32(from + i * 4, true);
    if (value >= count) throw bad(place, `number ${i} points at value ${value}, and there are ${count}`);
    if (value <= before) throw bad(place, `number ${i} is ${value} and does not rise`);
    before = value;
  }
}

function inView(of: Json, place: string, views: readonly Json[], element: number, count: number): void {
  const at = pointer(of, 'bufferView', place, views.length);
  if (at === null || !count) return;
  const view = views[at];
  const stride = view['byteStride'] === undefined ? element : whole(view, 'byteStride', `bufferViews[${at}]`);
  if (stride < element) throw bad(`bufferViews[${at}]`, `byteStride is ${stride}, and ${place} has values of ${element} bytes`);
  const end = whole(of, 'byteOffset', place, 0) + stride * (count - 1) + element;
  const length = whole(view, 'byteLength', `bufferViews[${at}]`);
  if (end > length) throw bad(place, `reaches to byte ${end} of a view of ${length}`);
}

/** What attributes are made of. Source: glTF 2.0, 3.7.2.1. */
const ATTRIBUTE_KINDS: readonly (readonly [start: string, kinds: readonly string[]])[] = [
  ['POSITION', ['VEC3']],
  ['NORMAL', ['VEC3']],
  ['TANGENT', ['VEC4']],
  ['TEXCOORD_', ['VEC2']],
  ['COLOR_', ['VEC3', 'VEC4']],
];

function checkMeshes(members: Members, accessors: readonly Json[]): void {
  const materials = members.list('materials').length;
  for (const [i, mesh] of members.list('meshes').entries()) {
    const primitives = new Members(mesh).list('primitives');
    for (const [k, primitive] of primitives.entries()) {
      const place = `meshes[${i}].primitives[${k}]`;
      const indices = pointer(primitive, 'indices', place, accessors.length);
      if (indices !== null) {
        const { type, componentType } = accessors[indices];
        if (type !== 'SCALAR' || !INDEX_KINDS.has(componentType as number))
          throw bad(`accessors[${indices}]`, `holds indices of ${place}, and is none of whole numbers without a sign`);
      }
      pointer(primitive, 'material', place, materials);
      const attributes = primitive['attributes'];
      if (!attributes || typeof attributes !== 'object') throw bad(place, 'has no attributes');
      let first: number | null = null;
      for (const name of Object.keys(attributes)) {
        const at = pointer(attributes as Json, name, `${place}.attributes`, accessors.length) ?? 0;
        const count = accessors[at]['count'] as number;
        first ??= count;
        if (count !== first) throw bad(`${place}.attributes`, `${name} has ${count} values and others have ${first}`);
        const kinds = ATTRIBUTE_KINDS.find(([start]) => name.startsWith(start))?.[1];
        if (kinds && !kinds.includes(String(accessors[at]['type'])))
          throw bad(`${place}.attributes`, `${name} is ${String(accessors[at]['type'])}, not ${kinds.join(' or ')}`);
      }
    }
  }
}

function checkNodes(members: Members): void {
  const nodes = members.list('nodes');
  const meshes = members.list('meshes').length;
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((node, i) => {
    pointer(node, 'mesh', `nodes[${i}]`, meshes);
    for (const [key, length] of PLACEMENTS) {
      const value = node[key];
      if (value === undefined) continue;
      if (!Array.isArray(value) || value.length !== length || !value.every((v) => Number.isFinite(v)))
        throw bad(`nodes[${i}]`, `${key} is no list of ${length} numbers`);
    }
    for (const child of pointers(node, 'children', `nodes[${i}]`, nodes.length)) {
      if (parent[child] >= 0) throw bad(`nodes[${child}]`, `is a child of two nodes, ${parent[child]} and ${i}`);
      parent[child] = i;
    }
  });
  nodes.forEach((_, i) => {
    let depth = 0;
    for (let at = i; at >= 0; at = parent[at])
      if (++depth > DEEPEST) throw bad(`nodes[${i}]`, 'is its own ancestor, or lies more than 1,000 nodes deep');
  });
  const scenes = members.list('scenes').map((scene, i) => pointers(scene, 'nodes', `scenes[${i}]`, nodes.length));
  checkParts(members, scenes[members.number('scene', 0)] ?? scenes[0] ?? nodes.flatMap((_, i) => (parent[i] < 0 ? [i] : [])), nodes);
}

/** How nodes stand, and of how many numbers. */
const PLACEMENTS = [
  ['translation', 3],
  ['rotation', 4],
  ['scale', 3],
  ['matrix', 16],
] as const;

/** Every node that shows a mesh is a part for each of its pieces: too many are refused before any is made. */
function checkParts(members: Members, tops: readonly number[], nodes: readonly Json[]): void {
  const pieces = members.list('meshes').map((mesh) => new Members(mesh).list('primitives').length);
  const open = [...tops];
  let parts = 0;
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    const { mesh, children } = nodes[at] as { mesh?: number; children?: number[] };
    if (mesh !== undefined) parts += pieces[mesh];
    for (const child of children ?? []) open.push(child);
  }
  if (parts > MESH_LIMITS.parts) throw tooMuch('parts', parts, MESH_LIMITS.parts);
}

/** A piece of a mesh that is packed by Draco: where it stands, and what its extension says. */
interface PackedPiece {
  place: string;
  primitive: Json;
  ext: Json;
}

/** Every piece of a document that is packed. */
export function packedPieces(json: Json): PackedPiece[] {
  return new Members(json).list('meshes').flatMap((mesh, i) =>
    new Members(mesh).list('primitives').flatMap((primitive, k) => {
      const ext = (primitive['extensions'] as Json | undefined)?.[DRACO] as Json | undefined;
      return ext ? [{ place: `meshes[${i}].primitives[${k}]`, primitive, ext }] : [];
    }),
  );
}
