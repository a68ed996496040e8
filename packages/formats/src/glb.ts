// Binary glTF 2.0 in and out. A document is a tree of nodes: one for each level of detail, one for each part under it.
import type { Accessor, Document as GltfDocument, Primitive } from '@gltf-transform/core';
import { Document, WebIO } from '@gltf-transform/core';
import type { Mesh, Model, Part } from '@pebble/core';

/** Attribute of a mesh, its glTF semantic and accessor type. */
const ATTRIBUTES = [
  ['position', 'POSITION', 'VEC3'],
  ['normal', 'NORMAL', 'VEC3'],
  ['tangent', 'TANGENT', 'VEC4'],
  ['texcoord', 'TEXCOORD_0', 'VEC2'],
  ['geomcolor', 'COLOR_0', 'VEC4'],
] as const;

/** A specimen as one file: parts keep their names, slots become materials, colours and coordinates stay float32. */
export async function writeGlb(name: string, model: Model): Promise<Uint8Array> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Jaunty Pebble';
  const buffer = document.createBuffer();
  const scene = document.createScene(model.title);
  document.getRoot().setDefaultScene(scene);
  const materials = new Map<string, ReturnType<GltfDocument['createMaterial']>>();
  const material = (slot: string) => {
    let made = materials.get(slot);
    if (!made) materials.set(slot, (made = document.createMaterial(slot).setRoughnessFactor(0.8).setMetallicFactor(0)));
    return made;
  };
  model.lods.forEach((parts, lod) => {
    const root = document.createNode(lod ? `${name}_lod${lod}` : name).setExtras({ lod });
    scene.addChild(root);
    for (const part of parts) {
      const primitive = document.createPrimitive().setMaterial(material(part.slot));
      const accessor = (data: Float32Array | Uint32Array, type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4') =>
        document.createAccessor().setType(type).setArray(data.slice()).setBuffer(buffer);
      for (const [key, semantic, type] of ATTRIBUTES) primitive.setAttribute(semantic, accessor(part.mesh[key], type));
      primitive.setIndices(accessor(part.mesh.index, 'SCALAR'));
      root.addChild(document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive)));
    }
  });
  return new WebIO().writeBinary(document);
}

/**
 * Reads what `writeGlb` wrote, or any file laid out like it: levels of detail, under them named parts with one primitive.
 * @throws RangeError saying what of the file cannot be used
 */
export async function readGlb(bytes: Uint8Array): Promise<Model> {
  let document: GltfDocument;
  try {
    document = await new WebIO().readBinary(bytes);
  } catch (error) {
    throw new RangeError(`This is no binary glTF 2.0 file: ${(error as Error).message}`);
  }
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes().at(0);
  const roots = scene?.listChildren() ?? [];
  if (!scene || !roots.length) throw new RangeError('This file holds no scene with nodes in it');
  const lods = roots.map((root) =>
    root
      .listChildren()
      .flatMap((node): Part[] =>
        (node.getMesh()?.listPrimitives() ?? []).map((primitive) => ({
          name: node.getName(),
          slot: primitive.getMaterial()?.getName() ?? 'surface',
          mesh: meshOf(primitive, node.getName()),
        })),
      ),
  );
  if (!lods[0].length) throw new RangeError('This file holds no parts with triangles');
  return { title: scene.getName(), lods };
}

function meshOf(primitive: Primitive, part: string): Mesh {
  const position = primitive.getAttribute('POSITION');
  if (!position || primitive.getMode() !== 4) throw new RangeError(`Part ${part} is not made of triangles with positions`);
  const count = position.getCount();
  const floats = (accessor: Accessor | null, components: number, fallback: readonly number[]): Float32Array => {
    if (accessor?.getArray() instanceof Float32Array && accessor.getElementSize() === components)
      return (accessor.getArray() as Float32Array).slice();
    const out = new Float32Array(count * components);
    const element: number[] = [];
    for (let i = 0; i < count; i++) {
      const read = accessor ? accessor.getElement(i, element) : fallback;
      for (let c = 0; c < components; c++) out[i * components + c] = read[c] ?? fallback[c];
    }
    return out;
  };
  const get = (semantic: string, components: number, fallback: readonly number[]) => floats(primitive.getAttribute(semantic), components, fallback);
  const indices = primitive.getIndices()?.getArray();
  return {
    position: get('POSITION', 3, [0, 0, 0]),
    normal: get('NORMAL', 3, [0, 1, 0]),
    tangent: get('TANGENT', 4, [1, 0, 0, 1]),
    texcoord: get('TEXCOORD_0', 2, [0, 0]),
    geomcolor: get('COLOR_0', 4, [1, 1, 1, 1]),
    index: indices ? Uint32Array.from(indices) : Uint32Array.from({ length: count }, (_, i) => i),
  };
}
