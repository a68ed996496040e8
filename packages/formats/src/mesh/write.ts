// Binary glTF 2.0 out: a node for each level of detail, one for each part under it.
import { Document, WebIO } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import type { Frame, Model } from '@pebble/core';
import { setsOf } from '@pebble/core';
import type { GlbMaterial } from './materials';
import { GlbMaterials } from './materials';

type Type = 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4';

/**
 * A model as one file: parts keep their names, placements and all their sets, slots become materials, numbers stay float32.
 * @param given materials by slot; slots without one are plain
 * @param frame of numbers that are not metres with +Y up, as glTF is read: each level's node puts that right
 */
export async function writeGlb(
  name: string,
  model: Model,
  given: ReadonlyMap<string, GlbMaterial> = new Map(),
  frame: Frame = { unitM: 1, up: 'y' },
): Promise<Uint8Array> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Jaunty Pebble';
  const buffer = document.createBuffer();
  const scene = document.createScene(model.title);
  document.getRoot().setDefaultScene(scene);
  const materials = new GlbMaterials(document, given);
  model.lods.forEach((parts, lod) => {
    const root = document.createNode(lod ? `${name}_lod${lod}` : name).setExtras({ lod });
    scene.addChild(root);
    if (frame.unitM !== 1) root.setScale([frame.unitM, frame.unitM, frame.unitM]);
    if (frame.up === 'z') root.setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
    for (const part of parts) {
      const primitive = materials.dress(document.createPrimitive(), part.slot);
      const accessor = (data: Float32Array | Uint32Array, type: Type) =>
        document.createAccessor().setType(type).setArray(data.slice()).setBuffer(buffer);
      primitive.setAttribute('POSITION', accessor(part.mesh.position, 'VEC3'));
      primitive.setAttribute('NORMAL', accessor(part.mesh.normal, 'VEC3'));
      // Without coordinates the format allows no tangents.
      if (setsOf(part).length) primitive.setAttribute('TANGENT', accessor(part.mesh.tangent, 'VEC4'));
      for (const [k, set] of setsOf(part).entries()) primitive.setAttribute(`TEXCOORD_${k}`, accessor(set, 'VEC2'));
      const colours = part.coloured === false ? [] : [part.mesh.geomcolor, ...(part.moreColours ?? [])];
      for (const [k, colour] of colours.entries()) primitive.setAttribute(`COLOR_${k}`, accessor(colour, 'VEC4'));
      primitive.setIndices(accessor(part.mesh.index, 'SCALAR'));
      const node = document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive));
      root.addChild(part.placement ? node.setMatrix([...part.placement] as Parameters<typeof node.setMatrix>[0]) : node);
    }
  });
  return new WebIO().registerExtensions(KHRONOS_EXTENSIONS).writeBinary(document);
}
