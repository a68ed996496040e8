// What a picture sees of the meshes, looked for on the processor.
import type { Domain, Mesh, Seen, SeenOptions, Span } from '@pebble/core';
import { clipMatrix, eyeOf, inputSlice, lineDomain, looking } from '@pebble/core';
import { vec3 } from 'gl-matrix';
import { flatMatrix } from './flat';
import type { Pane, StageLook } from './look';
import { pixelsOf } from './look';
import { MIN_SLOPE } from './shaders';

export interface Size {
  width: number;
  height: number;
}
export type Panes = Readonly<Record<'specimen' | 'flat', Pane>>;
export type Meshes = Record<'specimen' | 'flat', Mesh>;
/** What a picture sees: `spans` is where the blend lies on the specimen, null all over. */
export type Sight = [size: Size, look: Pick<StageLook, 'orbit' | 'flat'>, panes: Panes, spans: readonly Span[] | null];

/** What is seen in a pane, and where each place of it lies in a texture of the picture, whose rows go up. */
export interface View {
  seen: Seen;
  at: Uint32Array;
  /** Where the mesh is drawn there, and its tangents: three and four numbers a place. */
  place: Float32Array;
  tangent: Float32Array;
  /** How far parallax moves each texture coordinate for a metre of height, at one repetition a metre. */
  lean: Float32Array;
}

/** What a look sees of the specimen, first, and of the flat, in pieces. */
export function* viewsOf(look: Sight[1], panes: Panes, meshes: Meshes, spans: readonly Span[] | null, size: Size): Generator<undefined, View[]> {
  type Clip = (aspect: number) => ArrayLike<number>;
  const eye = eyeOf(look.orbit);
  function* view(pane: Pane, mesh: Mesh, places: Float32Array, clip: Clip, options: SeenOptions): Generator<undefined, View> {
    const { x, y, width, height } = pixelsOf(pane, size);
    const seen = yield* looking(mesh, places, clip(width / height), { width, height }, options);
    const at = seen.pixels.map((p) => (y + height - 1 - Math.floor(p / width)) * size.width + x + (p % width));
    const [place, tangent] = [seen.along(places, 3), seen.along(mesh.tangent, 4)];
    return { seen, at, place, tangent, lean: leansOf(seen.geometry.normal, place, tangent, eye) };
  }
  const { specimen, flat } = meshes;
  return [
    yield* view(panes.specimen, specimen, specimen.position, (aspect) => clipMatrix(look.orbit, aspect), { spans: spans ?? undefined, culled: true }),
    yield* view(panes.flat, flat, levelPlaces(flat.texcoord), (aspect) => flatMatrix(look.flat, aspect), { culled: false }),
  ];
}

/** As the stage's shader has it: the line of sight in the frame of each place, its slope held where it grazes. */
function leansOf(normal: Float32Array, place: Float32Array, tangent: Float32Array, eye: ArrayLike<number>): Float32Array {
  const lean = new Float32Array((place.length / 3) * 2);
  const [n, t, b, sight] = [vec3.create(), vec3.create(), vec3.create(), vec3.create()];
  for (let i = 0; i < place.length / 3; i++) {
    vec3.set(n, normal[i * 3], normal[i * 3 + 1], normal[i * 3 + 2]);
    vec3.set(t, tangent[i * 4], tangent[i * 4 + 1], tangent[i * 4 + 2]);
    vec3.normalize(t, vec3.scaleAndAdd(t, t, n, -vec3.dot(n, t)));
    vec3.scale(b, vec3.cross(b, n, t), tangent[i * 4 + 3]);
    vec3.set(sight, eye[0] - place[i * 3], eye[1] - place[i * 3 + 1], eye[2] - place[i * 3 + 2]);
    vec3.normalize(sight, sight);
    const steep = Math.max(vec3.dot(sight, n), MIN_SLOPE);
    lean[i * 2] = vec3.dot(sight, t) / steep;
    lean[i * 2 + 1] = -vec3.dot(sight, b) / steep;
  }
  return lean;
}

/** Places of a group, with their texture coordinates. */
export function domainOf({ geometry }: Seen, { first, end, footprint }: Seen['groups'][number], texcoord: Float32Array): Domain {
  return lineDomain(texcoord.subarray(first * 2, end * 2), footprint, inputSlice(geometry, first, end));
}

/** Where the flat view draws texture coordinates. */
function levelPlaces(texcoord: Float32Array): Float32Array {
  const out = new Float32Array((texcoord.length / 2) * 3);
  for (let i = 0; i < texcoord.length / 2; i++) out.set([texcoord[i * 2], 0, texcoord[i * 2 + 1]], i * 3);
  return out;
}
