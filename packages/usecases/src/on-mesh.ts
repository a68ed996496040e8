// A blend on a mesh: what the mesh knows of its places, and the maps that the blend makes over its texture.
import type {
  BlendDocument,
  BlendRole,
  Frame,
  GBuffer,
  Image,
  LoadedPaint,
  Mesh,
  Model,
  Span,
  SpecimenDocument,
  Stack,
  Standing,
} from '@pebble/core';
import {
  Bvh,
  MAX_SKY_VERTICES,
  SPECIMEN_MODELS,
  bandDomain,
  boundsOf,
  densitySpread,
  dilate,
  evaluateBlend,
  extentGround,
  finerSpans,
  flatDomain,
  isSpecimenName,
  levelMesh,
  makeBlendMaps,
  meanCurvature,
  openSky,
  paddingOf,
  paintedMesh,
  partNames,
  placed,
  readsGround,
  setsOf,
  slottedMesh,
  specimenMesh,
  spreadOver,
  uvLayout,
  withMeshFacts,
  withSpans,
} from '@pebble/core';
import type { Ingredients } from './ingredients';
import { sourcesOf, wantsMips } from './ingredients';
import type { Ports, Report } from './ports';
import { UseCaseError } from './ports';

/** Vertices that are looked at between two reports. */
const AT_ONCE = 512;
/** Texels whose geometry is known at a time: about 60 MB of it. */
const BAND_TEXELS = 2 ** 20;

/** The mesh with its bend and its open sky, as far as they are asked for. @throws UseCaseError when it has more vertices than the sky is looked at from */
export function knowMeshFacts(mesh: Mesh, wanted: { bend: boolean; sky: boolean }, report: Report): Mesh {
  const count = mesh.position.length / 3;
  if (wanted.sky && count > MAX_SKY_VERTICES)
    throw new UseCaseError(
      'too-many-vertices',
      `The open sky is worked out for up to ${MAX_SKY_VERTICES.toLocaleString('en')} vertices; this mesh has ${count.toLocaleString('en')}. Use a reduced level, or cues that do not look at occlusion`,
    );
  const sky = wanted.sky ? new Float32Array(count) : null;
  const bvh = sky && new Bvh(mesh);
  for (let i = 0; sky && bvh && i < count; i += AT_ONCE) {
    report(i / count, 'looking at the sky');
    openSky(mesh, bvh, [i, Math.min(count, i + AT_ONCE)], sky);
  }
  return withMeshFacts(mesh, wanted.bend ? meanCurvature(mesh) : null, sky);
}

/** A mesh that a blend lies on: texture coordinates in extents, and where its vertices lie on its texture. */
export interface BlendMesh {
  mesh: Mesh;
  page: Float32Array;
  /** Triangles that it lies on; null all of them. The others still shade it. */
  only: Span[] | null;
  /** Metres that the whole texture would be, by its mean density. */
  sideM: number;
  standing: Standing;
}

export const standingOf = (mesh: Mesh, parts: readonly string[]): Standing => ({ groundM: boundsOf(mesh).lo[1], parts });

/** What was painted on a specimen for a blend, with its bytes; null where nothing was. */
export async function paintedOn(blobs: Pick<Ports['blobs'], 'get'>, { paint }: BlendDocument, specimen: string): Promise<LoadedPaint | null> {
  const painted = paint?.[specimen];
  if (!painted) return null;
  const tiles = await Promise.all(Object.entries(painted.tiles).map(async ([tile, hash]) => [Number(tile), await blobs.get(hash)] as const));
  return { ...painted, tiles: new Map(tiles) };
}

/** The mesh as it was painted. @throws UseCaseError when it is not the one that was painted */
function asPainted(mesh: Mesh, painted: LoadedPaint | null): Mesh {
  try {
    return painted ? paintedMesh(mesh, painted) : mesh;
  } catch (error) {
    if (error instanceof RangeError) throw new UseCaseError('paint-misfit', error.message);
    throw error;
  }
}

/** How a blend lies on a model. */
export interface LaidOn {
  set?: number;
  level?: number;
  paint?: LoadedPaint | null;
  /** The one slot that it sits on; null all of them. */
  slot?: string | null;
  /** Times its true size. */
  times?: number;
}

/** A level of a brought-in model under a blend of an extent; its set of coordinates keeps true size by its mean density. */
export function blendMesh(
  model: Model,
  extentM: number,
  frame: Frame = { unitM: 1, up: 'y' },
  { set = 0, level = 0, paint = null, slot = null, times = 1 }: LaidOn = {},
): BlendMesh {
  const parts = model.lods[level] ?? model.lods[0];
  const bare = parts.find((p) => !setsOf(p)[set]);
  if (bare) throw new UseCaseError('no-coordinates', `${bare.name} has no texture coordinates in set ${set}. Unwrap the mesh first`, bare.name);
  const whole = asPainted(levelMesh(model, level, frame, set), paint);
  const perMetre = densitySpread(uvLayout(parts.map((p) => placed(p, frame, set))).islands)?.mean ?? 1;
  const mesh = { ...whole, texcoord: whole.texcoord.map((v) => v / perMetre / (extentM * times)) };
  const { spans } = slottedMesh(parts, () => ({ set, by: 1 }), frame);
  if (slot !== null && !spans[slot]) throw new UseCaseError('missing-slot', `The mesh has no slot called ${slot} any more`, slot);
  const only = slot === null ? null : finerSpans(spans[slot], paint?.finer ?? 0);
  return { mesh, only, page: whole.texcoord, standing: standingOf(mesh, partNames(model, level)), sideM: 1 / perMetre };
}

/** What a blend lies on in its flat view; texture coordinates in extents. */
export type LiesOn = Pick<BlendMesh, 'mesh' | 'standing'>;

/** The specimen of a blend, as the stage shows it: one of our own, one that was brought in, else the patch. */
export async function liesOn(
  { blobs, model }: Pick<Ports, 'model'> & { blobs: Pick<Ports['blobs'], 'get'> },
  blend: BlendDocument,
  specimens: Readonly<Record<string, SpecimenDocument>>,
): Promise<LiesOn> {
  const { specimen, extentM } = blend;
  const brought = specimens[specimen];
  const paint = await paintedOn(blobs, blend, specimen);
  if (brought && model) return blendMesh(await model(await blobs.get(brought.model)), extentM, brought, { set: brought.uvSet, paint });
  const name = isSpecimenName(specimen) ? specimen : 'patch';
  const made = SPECIMEN_MODELS[name](extentM);
  const mesh = asPainted(specimenMesh(name, made, extentM), paint);
  return { mesh, standing: standingOf(mesh, partNames(made)) };
}

/** Geometry of a band of rows, and which of its texels are to be kept. */
type Band = (rows: readonly [number, number]) => { geometry: GBuffer; covered: Uint8Array | null };

/** Evaluates a picture band by band, so that what is known of the mesh is never known of all of it at once. */
function evaluateBands(
  stack: Stack,
  from: Ingredients,
  standing: Standing,
  size: number,
  footprint: number,
  roles: readonly BlendRole[],
  band: Band,
  report: Report,
): { into: Partial<Record<BlendRole, Image>>; covered: Uint8Array } {
  const far = wantsMips(stack, from.slots, 1 / footprint);
  const sources = sourcesOf(from, far);
  const into = makeBlendMaps(size, size, roles);
  const covered = new Uint8Array(size * size);
  const rows = Math.max(1, Math.floor(BAND_TEXELS / size));
  for (let top = 0; top < size; top += rows) {
    const bottom = Math.min(size, top + rows);
    const known = band([top, bottom]);
    covered.set(known.covered ?? new Uint8Array((bottom - top) * size).fill(1), top * size);
    const flat = { ...flatDomain(size, bottom - top, stack.extentM, known.geometry), footprint: { x: [footprint, 0], y: [0, footprint] } as const };
    evaluateBlend(stack, {
      domain: bandDomain(flat, top, size),
      sources,
      far,
      into,
      rows: [top, bottom],
      standing,
      onTile: (done) => report((top + done * (bottom - top)) / size, 'evaluating'),
    });
  }
  return { into, covered };
}

/** Evaluates a stack over the texture of a mesh, carried past the rims of its islands. */
export function evaluateOnMesh(
  stack: Stack,
  from: Ingredients,
  { mesh, page, only, standing }: BlendMesh,
  size: number,
  roles: readonly BlendRole[],
  report: Report,
): Partial<Record<BlendRole, Image>> {
  const all = knowMeshFacts(mesh, readsGround(stack), (done, note) => report(0.4 * done, note));
  const known = only ? withSpans(all, only) : all;
  const { footprint } = spreadOver(known, page, size, [0, 1]);
  const { into, covered } = evaluateBands(
    stack,
    from,
    standing,
    size,
    footprint,
    roles,
    (rows) => spreadOver(known, page, size, rows),
    (done, note) => report(0.4 + 0.6 * done, note),
  );
  if (!covered.includes(1))
    throw new UseCaseError('no-coordinates', 'No texel of the texture lies on the mesh: its coordinates are outside 0 to 1. Unwrap it first');
  for (const image of Object.values(into)) dilate(image, covered, paddingOf(size));
  return into;
}

/** Evaluates the first extent as the flat view shows it, coverages by slope, altitude and vertex colour included. */
export function evaluateAsFlat(
  stack: Stack,
  from: Ingredients,
  { mesh, standing }: LiesOn,
  size: number,
  roles: readonly BlendRole[],
  report: Report,
): Partial<Record<BlendRole, Image>> {
  const known = knowMeshFacts(mesh, readsGround(stack), (done, note) => report(0.4 * done, note));
  const band: Band = (rows) => ({ geometry: extentGround(known, size, rows), covered: null });
  return evaluateBands(stack, from, standing, size, 1 / size, roles, band, (done, note) => report(0.4 + 0.6 * done, note)).into;
}
