// glTF 2.0 in: any document, as a model in parts and levels, with the pictures that its materials use.
import type { Accessor, Document as GltfDocument, JSONDocument, Node, Primitive } from '@gltf-transform/core';
import { GLB_BUFFER, Logger, WebIO } from '@gltf-transform/core';
import { EXTMeshoptCompression, KHRMeshQuantization } from '@gltf-transform/extensions';
import type { Model, Part } from '@pebble/core';
import { MeshoptDecoder } from 'three/examples/jsm/libs/meshopt_decoder.module.js';
import { FormatError } from '../codec';
import { unsupported } from '../reader';
import { DRACO, Members, checkDocument, checkVersion, checkedBuffers, packedPieces } from './check';
import type { Container, Json } from './container';
import { openContainer } from './container';
import type { unpackDraco } from './draco';
import type { Raw } from './finish';
import { finish } from './finish';
import type { MeshFile, Siblings } from './kinds';
import { MESH_LIMITS, MeshNotes, NORMALS_MADE, levelIn, tooMuch } from './kinds';
import { noteLeftOut } from './left-out';
import { picturesOf, slotNames } from './pictures';

const FLOAT_BYTES = 4;

/**
 * Reads glTF, binary or JSON. Parts keep their names, slots, placements, sets of coordinates and vertex colours; what is
 * missing is made, what cannot be kept is said.
 * @param siblings files that came with it: buffers and pictures that it names
 * @param unpack for meshes that are packed by Draco
 * @throws FormatError naming the place in the document, and the byte where it is known
 */
export async function readGltf(bytes: Uint8Array, siblings: Siblings = () => Promise.resolve(null), unpack?: typeof unpackDraco): Promise<MeshFile> {
  const container = openContainer(bytes);
  checkVersion(container.json);
  const buffers = await checkedBuffers(container, siblings);
  checkDocument(container.json, buffers);
  const notes = new MeshNotes();
  noteLeftOut(container.json, notes);
  const slots = slotNames(new Members(container.json).list('materials'));
  const pictures = await picturesOf(container.json, buffers, slots, siblings, notes);
  const packed = packedPieces(container.json).length > 0;
  if (packed && !unpack) throw unsupported(`it needs ${DRACO}, which is not read here. Export it without`);
  const plain = unpack && packed ? await unpack(container.json, buffers) : { json: container.json, buffers };
  const document = await load({ ...container, json: plain.json }, plain.buffers);
  const model = new Reading(document, slots, { ...container, json: plain.json }, notes).model();
  return { model, pictures, notes: notes.list() };
}

const without = (entries: readonly Json[], ...drop: string[]): Json[] =>
  entries.map((entry) => Object.fromEntries(Object.entries(entry).filter(([k]) => !drop.includes(k))));

/** Only what shapes a mesh goes to the library; the rest was read or is left out. */
async function load({ json }: Container, buffers: readonly Uint8Array[]): Promise<GltfDocument> {
  const bare: Json = { ...json };
  for (const key of ['images', 'textures', 'samplers', 'animations', 'skins', 'cameras', 'extensions']) delete bare[key];
  const kept = (e: unknown) => e === 'KHR_mesh_quantization' || e === 'EXT_meshopt_compression';
  for (const key of ['extensionsUsed', 'extensionsRequired']) if (Array.isArray(bare[key])) bare[key] = (bare[key] as unknown[]).filter(kept);
  if (json['nodes']) bare['nodes'] = without(new Members(json).list('nodes'), 'skin', 'camera', 'weights', 'extensions');
  if (json['materials']) bare['materials'] = new Members(json).list('materials').map(() => ({}));
  if (json['meshes'])
    bare['meshes'] = without(new Members(json).list('meshes'), 'weights', 'extensions').map((mesh) => ({
      ...mesh,
      primitives: without(new Members(mesh).list('primitives'), 'targets', 'extensions'),
    }));
  // Every buffer under a name of its own, wherever it came from.
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  if (buffers.length)
    bare['buffers'] = new Members(json).list('buffers').map((buffer, i) => {
      const name = i ? `${i}.bin` : GLB_BUFFER;
      resources[name] = buffers[i].slice();
      const [rest] = without([buffer], 'uri');
      return i ? { ...rest, uri: name } : rest;
    });
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions([KHRMeshQuantization, EXTMeshoptCompression]);
  if (JSON.stringify(bare).includes('EXT_meshopt_compression')) {
    await MeshoptDecoder.ready;
    io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
  }
  try {
    return await io.readJSON({ json: bare as unknown as JSONDocument['json'], resources });
  } catch (error) {
    throw new FormatError('corrupt', `it is no sound glTF: ${(error as Error).message}. Export it again`);
  }
}

class Reading {
  private readonly accessors: Accessor[];
  private readonly names = new Set<string>();
  private vertices = 0;
  private triangles = 0;

  constructor(
    private readonly document: GltfDocument,
    private readonly slots: readonly string[],
    private readonly container: Container,
    private readonly notes: MeshNotes,
  ) {
    this.accessors = document.getRoot().listAccessors();
  }

  model(): Model {
    const root = this.document.getRoot();
    const scene = root.getDefaultScene() ?? root.listScenes().at(0);
    const tops = scene?.listChildren() ?? root.listNodes().filter((n) => !n.getParentNode());
    const lods: Part[][] = [];
    for (const top of tops) this.walk(top, null, lods);
    const levels = lods.filter((l) => l?.length);
    if (!levels.length) throw new FormatError('corrupt', 'there are no triangles in it. Export a mesh');
    return { title: scene?.getName() ?? '', lods: levels };
  }

  private walk(node: Node, above: number | null, lods: Part[][]): void {
    const extra = node.getExtras()['lod'];
    const level = typeof extra === 'number' && extra >= 0 ? Math.min(7, Math.floor(extra)) : (levelIn(node.getName()).level ?? above);
    const mesh = node.getMesh();
    if (mesh) {
      const placement = node.getWorldMatrix();
      if (!placement.every(Number.isFinite)) throw new FormatError('corrupt', `node ${node.getName()}: its placement is not made of numbers`);
      const still = placement.every((v, i) => v === (i % 5 ? 0 : 1));
      const name = this.nameOf(node.getName() || mesh.getName() || 'part', level);
      for (const primitive of mesh.listPrimitives()) {
        const part = this.part(primitive, name);
        if (part) (lods[level ?? 0] ??= []).push(still ? part : { ...part, placement });
        if (lods.reduce((n, l) => n + (l?.length ?? 0), 0) > MESH_LIMITS.parts) throw tooMuch('parts', MESH_LIMITS.parts + 1, MESH_LIMITS.parts);
      }
    }
    for (const child of node.listChildren()) this.walk(child, level, lods);
  }

  /** Unlike that of any other part of the same level. */
  private nameOf(wanted: string, level: number | null): string {
    const plain = levelIn(wanted).name.slice(0, 100) || 'part';
    let name = plain;
    for (let k = 2; this.names.has(`${level ?? 0} ${name}`); k++) name = `${plain} ${k}`;
    this.names.add(`${level ?? 0} ${name}`);
    return name;
  }

  private part(primitive: Primitive, name: string): Part | null {
    const position = primitive.getAttribute('POSITION');
    if (!position) {
      this.notes.add('mesh-left-out', 'A piece without positions is left out.', name);
      return null;
    }
    if (primitive.getMode() < 4) {
      this.notes.add('mesh-left-out', 'Points and lines are left out.', name);
      return null;
    }
    this.vertices += position.getCount();
    if (this.vertices > MESH_LIMITS.vertices) throw tooMuch('vertices', this.vertices, MESH_LIMITS.vertices);
    const raw: Raw = {
      position: this.numbers(position, 3, name, 'position'),
      normal: this.normals(primitive, name),
      tangent: this.maybe(primitive, 'TANGENT', 4, name),
      sets: this.sets(primitive, 'TEXCOORD_', 2, name),
      colours: this.sets(primitive, 'COLOR_', 4, name),
      index: this.index(primitive, position.getCount(), name),
    };
    if (!raw.sets.length) this.notes.add('mesh-no-uv', 'No texture coordinates.', name);
    if (!raw.index.length) {
      this.notes.add('mesh-left-out', 'A piece without triangles is left out.', name);
      return null;
    }
    const at = this.document
      .getRoot()
      .listMaterials()
      .indexOf(primitive.getMaterial() as never);
    return { name, slot: this.slots[at] ?? 'surface', ...finish(raw) };
  }

  /** Values of every vertex; a number that is none is an error, as no guess would do. */
  private numbers(accessor: Accessor, width: number, part: string, what: string): Float32Array {
    const out = this.values(accessor, width);
    const wrong = out.findIndex((v) => !Number.isFinite(v));
    if (wrong < 0) return out;
    const vertex = Math.floor(wrong / width);
    throw new FormatError(
      'corrupt',
      `part ${part}: the ${what} of vertex ${vertex} is not a number. Repair or export the mesh again`,
      this.byteOf(accessor, vertex),
    );
  }

  private values(accessor: Accessor, width: number): Float32Array {
    const array = accessor.getArray();
    if (array instanceof Float32Array && accessor.getElementSize() === width) return array.slice();
    const out = new Float32Array(accessor.getCount() * width);
    const element: number[] = [];
    for (let i = 0; i < accessor.getCount(); i++) {
      accessor.getElement(i, element);
      // Colours without alpha are opaque.
      for (let c = 0; c < width; c++) out[i * width + c] = c < accessor.getElementSize() ? element[c] : Number(c === 3);
    }
    return out;
  }

  private byteOf(accessor: Accessor, element: number): number | undefined {
    const own = (this.container.json['accessors'] as Json[])[this.accessors.indexOf(accessor)];
    const view = (this.container.json['bufferViews'] as Json[] | undefined)?.[own?.['bufferView'] as number];
    if (!view || view['buffer'] !== 0 || !this.container.binAt || view['extensions']) return undefined;
    const stride = (view['byteStride'] as number | undefined) ?? accessor.getElementSize() * FLOAT_BYTES;
    return (
      this.container.binAt + ((view['byteOffset'] as number | undefined) ?? 0) + ((own['byteOffset'] as number | undefined) ?? 0) + stride * element
    );
  }

  private maybe(primitive: Primitive, semantic: string, width: number, part: string): Float32Array | null {
    const accessor = primitive.getAttribute(semantic);
    if (!accessor) return null;
    const out = this.values(accessor, width);
    if (out.every(Number.isFinite)) return out;
    this.notes.add('mesh-repaired', 'Tangents that are no numbers were made anew.', part);
    return null;
  }

  private normals(primitive: Primitive, part: string): Float32Array | null {
    const accessor = primitive.getAttribute('NORMAL');
    if (!accessor) {
      this.notes.add('mesh-normals-made', NORMALS_MADE, part);
      return null;
    }
    const out = this.values(accessor, 3);
    for (let i = 0; i < out.length; i += 3) {
      const length = Math.hypot(out[i], out[i + 1], out[i + 2]);
      if (length > 0.5 && length < 2) continue;
      this.notes.add('mesh-repaired', `The normal of vertex ${i / 3} has no direction; all normals were made anew.`, part);
      return null;
    }
    return out;
  }

  private sets(primitive: Primitive, prefix: string, width: number, part: string): Float32Array[] {
    const out: Float32Array[] = [];
    for (let set = 0; set < MESH_LIMITS.sets; set++) {
      const accessor = primitive.getAttribute(`${prefix}${set}`);
      if (!accessor) break;
      const values = this.values(accessor, width);
      let wrong = 0;
      for (let i = 0; i < values.length; i++)
        if (!Number.isFinite(values[i])) {
          values[i] = 0;
          wrong++;
        }
      if (wrong)
        this.notes.add(
          'mesh-repaired',
          `${wrong} numbers of its ${width === 2 ? 'texture coordinates' : 'vertex colours'} are none and were set to 0.`,
          part,
        );
      out.push(values);
    }
    return out;
  }

  private index(primitive: Primitive, count: number, part: string): Uint32Array {
    const accessor = primitive.getIndices();
    const array = accessor?.getArray();
    const plain = array ? Uint32Array.from(array) : Uint32Array.from({ length: count }, (_, i) => i);
    const wrong = plain.findIndex((i) => i >= count);
    if (wrong >= 0) {
      const byte = accessor ? this.byteOf(accessor, 0) : undefined;
      throw new FormatError(
        'corrupt',
        `part ${part}: triangle ${Math.floor(wrong / 3)} uses vertex ${plain[wrong]}, and there are ${count}. Export the mesh again`,
        byte === undefined ? undefined : byte + wrong * plain.BYTES_PER_ELEMENT * ((array?.BYTES_PER_ELEMENT ?? 4) / 4),
      );
    }
    const index = asTriangles(plain, primitive.getMode());
    this.triangles += index.length / 3;
    if (this.triangles > MESH_LIMITS.triangles) throw tooMuch('triangles', this.triangles, MESH_LIMITS.triangles);
    return index;
  }
}

/** Strips (5) and fans (6) as triangles by themselves; corners that are left over make none. */
function asTriangles(index: Uint32Array, mode: number): Uint32Array {
  if (mode === 4) return index.subarray(0, index.length - (index.length % 3));
  const out: number[] = [];
  for (let k = 0; k + 2 < index.length; k++) {
    const corners =
      mode === 6 ? [index[0], index[k + 1], index[k + 2]] : k % 2 ? [index[k + 1], index[k], index[k + 2]] : [index[k], index[k + 1], index[k + 2]];
    if (new Set(corners).size === 3) out.push(...corners);
  }
  return Uint32Array.from(out);
}
