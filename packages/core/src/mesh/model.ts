import { mat3, mat4, vec3 } from 'gl-matrix';
import type { Mesh } from './mesh';
import { numbered } from './ground';
import type { Divided } from './normals';
import { dividedMesh, gather } from './normals';

/** A named piece of a specimen; what sits on its slot is looked at on it. */
export interface Part {
  name: string;
  slot: string;
  mesh: Mesh;
  /** All sets of texture coordinates, the first being the mesh's. Absent where that is the only one; empty when there are none. */
  sets?: readonly Float32Array[];
  /** Whether the vertex colours came with the mesh; they are white where they did not. */
  coloured?: boolean;
  /** Sets of vertex colours after the first, rgba. */
  moreColours?: readonly Float32Array[];
  /** Where the part stands and turns: column-major 4 × 4. Absent where its vertices are in place already. */
  placement?: readonly number[];
}

/** Texture coordinates are metres in specimens of our own, shares of a texture in those that were brought in. */
export interface Model {
  title: string;
  /** The most detailed first; reduced ones after it where there are any. */
  lods: Part[][];
}

/** Sets of texture coordinates that a part has. */
export const setsOf = (part: Part): readonly Float32Array[] => part.sets ?? [part.mesh.texcoord];

/** The same part with other sets of texture coordinates; its tangents stay those of the first set that it had. */
export const withSets = (part: Part, sets: readonly Float32Array[]): Part => ({
  ...part,
  sets,
  mesh: sets.length ? { ...part.mesh, texcoord: sets[0] } : part.mesh,
});

/** The same part with its vertices divided; everything that they carry goes along. */
export function dividedPart(part: Part, divided: Divided): Part {
  return {
    ...part,
    mesh: dividedMesh(part.mesh, divided),
    ...(part.sets ? { sets: part.sets.map((s) => gather(s, 2, divided.from)) } : {}),
    ...(part.moreColours ? { moreColours: part.moreColours.map((c) => gather(c, 4, divided.from)) } : {}),
  };
}

/** How a file's numbers are to be read. */
export interface Frame {
  /** Metres a unit. */
  unitM: number;
  /** Which way is up in the file. */
  up: 'y' | 'z';
}

/** The first two sets as coverages can look them up; one that is missing is the other. */
function firstSets(part: Part): Pick<Mesh, 'uv1' | 'uv2'> {
  const [first = new Float32Array((part.mesh.position.length / 3) * 2), second = first] = setsOf(part);
  return { uv1: first, uv2: second };
}

/**
 * A part where it stands, in metres with +Y up, with one of its sets of texture coordinates (zeros where it has no such
 * set). A placement that mirrors turns the winding over, so that triangles still look outwards.
 */
export function placed(part: Part, frame: Frame = { unitM: 1, up: 'y' }, set = 0): Mesh {
  const { mesh, placement } = part;
  const texcoord = setsOf(part)[set] ?? new Float32Array((mesh.position.length / 3) * 2);
  const sets = firstSets(part);
  if (!placement && frame.unitM === 1 && frame.up === 'y') return { ...mesh, texcoord, ...sets };
  const m = mat4.fromScaling(mat4.create(), [frame.unitM, frame.unitM, frame.unitM]);
  if (frame.up === 'z') mat4.rotateX(m, m, -Math.PI / 2);
  if (placement) mat4.multiply(m, m, placement as unknown as mat4);
  const linear = mat3.fromMat4(mat3.create(), m);
  const normals = mat3.normalFromMat4(mat3.create(), m) ?? linear;
  const mirrored = mat3.determinant(linear) < 0;
  const out: Mesh = {
    ...mesh,
    texcoord,
    ...sets,
    position: new Float32Array(mesh.position.length),
    normal: new Float32Array(mesh.normal.length),
    tangent: new Float32Array(mesh.tangent.length),
  };
  const v = vec3.create();
  for (let i = 0; i < mesh.position.length; i += 3) {
    vec3.transformMat4(v, mesh.position.subarray(i, i + 3), m);
    out.position.set(v, i);
    vec3.normalize(v, vec3.transformMat3(v, mesh.normal.subarray(i, i + 3), normals));
    out.normal.set(v, i);
    const t = (i / 3) * 4;
    vec3.normalize(v, vec3.transformMat3(v, mesh.tangent.subarray(t, t + 3), linear));
    out.tangent.set(v, t);
    out.tangent[t + 3] = mirrored ? -mesh.tangent[t + 3] : mesh.tangent[t + 3];
  }
  if (mirrored) {
    out.index = mesh.index.slice();
    for (let k = 0; k + 2 < out.index.length; k += 3) [out.index[k + 1], out.index[k + 2]] = [out.index[k + 2], out.index[k + 1]];
  }
  return out;
}

/** A level of detail as one mesh. */
export const levelMesh = (model: Model, level = 0, frame?: Frame, set = 0): Mesh =>
  numbered((model.lods[level] ?? model.lods[0]).map((part) => placed(part, frame, set)));

/** Names of the parts of a level, by number. */
export const partNames = (model: Model, level = 0): string[] => (model.lods[level] ?? model.lods[0]).map((part) => part.name);
