// What files leave out and the runtime needs: normals and tangents.
import type { Mesh } from '@pebble/core';
import { creasedNormals, divide, dividedMesh, gather } from '@pebble/core';
import { generateTangents } from 'three/examples/jsm/libs/mikktspace.module.js';

/** Attributes of a mesh that is being put together; whatever vertices carry beside goes along when they are divided. */
export interface Raw {
  position: Float32Array;
  normal: Float32Array | null;
  tangent: Float32Array | null;
  sets: Float32Array[];
  /** Sets of vertex colours, rgba. */
  colours: Float32Array[];
  index: Uint32Array;
}

export interface Finished {
  mesh: Mesh;
  sets: Float32Array[];
  coloured: boolean;
  moreColours: Float32Array[];
}

/** A mesh with everything in it: normals made where there are none, tangents by MikkTSpace over the first set of coordinates. */
export function finish(raw: Raw): Finished {
  let { position, normal, tangent, sets, colours, index } = raw;
  const follow = (from: Uint32Array) => {
    position = gather(position, 3, from);
    normal &&= gather(normal, 3, from);
    sets = sets.map((s) => gather(s, 2, from));
    colours = colours.map((c) => gather(c, 4, from));
  };
  if (!normal) {
    const made = creasedNormals(position, index);
    follow(made.from);
    normal = made.normal;
    index = made.index;
    tangent = null;
  }
  if (!tangent && sets.length) {
    const corners = mikk(position, normal, sets[0], index);
    const divided = divide(index, [corners], [4]);
    follow(divided.from);
    tangent = gather(corners, 4, divided.corner);
    index = divided.index;
  }
  const count = position.length / 3;
  const mesh: Mesh = {
    position,
    normal,
    tangent: tangent ?? sideways(normal),
    texcoord: sets[0] ?? new Float32Array(count * 2),
    geomcolor: colours[0] ?? new Float32Array(count * 4).fill(1),
    index,
  };
  return { mesh, sets, coloured: colours.length > 0, moreColours: colours.slice(1) };
}

/** Tangents of every corner; the sign is turned to glTF's, whose v runs down. */
function mikk(position: Float32Array, normal: Float32Array, texcoord: Float32Array, index: Uint32Array): Float32Array {
  const out = generateTangents(gather(position, 3, index), gather(normal, 3, index), gather(texcoord, 2, index)) as Float32Array;
  for (let i = 3; i < out.length; i += 4) out[i] = -out[i];
  return out;
}

/** Some way across every normal, for meshes that nothing is laid out on. */
function sideways(normal: Float32Array): Float32Array {
  const out = new Float32Array((normal.length / 3) * 4);
  for (let i = 0; i < normal.length / 3; i++) {
    const [x, y, z] = normal.subarray(i * 3, i * 3 + 3);
    const across = Math.abs(y) < 0.9 ? [z, 0, -x] : [0, -z, y];
    const length = Math.hypot(...across) || 1;
    out.set([across[0] / length, across[1] / length, across[2] / length, 1], i * 4);
  }
  return out;
}

/** The same part after its vertices were divided or its coordinates changed: tangents are made anew for the first set. */
export function withTangents(mesh: Mesh): { mesh: Mesh; from: Uint32Array } {
  const corners = mikk(mesh.position, mesh.normal, mesh.texcoord, mesh.index);
  const divided = divide(mesh.index, [corners], [4]);
  return { mesh: { ...dividedMesh(mesh, divided), tangent: gather(corners, 4, divided.corner) }, from: divided.from };
}
