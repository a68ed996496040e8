// A blend on a mesh: what the mesh knows of its places, and the maps that the blend makes over its texture.
import type {
  AssetSlot,
  BlendDocument,
  MapRole,
  Frame,
  Image,
  LoadedPaint,
  Material,
  Mesh,
  MeshBuffer,
  MeshFact,
  MeshPlace,
  Model,
  Overlap,
  Span,
  SpecimenDocument,
  Standing,
} from '@pebble/core';
import {
  Bvh,
  allowedPairs,
  MapMaker,
  MAX_SKY_VERTICES,
  SPECIMEN_MODELS,
  bandDomain,
  boundsOf,
  densitySpread,
  dilate,
  evenFootprint,
  extentGround,
  factsWanted,
  finerSpans,
  flatDomain,
  inOrder,
  isSpecimenName,
  largestSlot,
  levelMesh,
  makeMaterialMaps,
  mapGraph,
  materialReads,
  meshCurvature,
  openSky,
  paddingOf,
  paintedMesh,
  overlapOn,
  partNames,
  placeName,
  placed,
  sameItems,
  setsOf,
  slottedMesh,
  specimenMesh,
  spreadOver,
  uvLayout,
  withMeshFacts,
  withPlace,
  withSpans,
} from '@pebble/core';
import type { Ingredients } from './ingredients';
import { showsSmaller, sourcesOf } from './ingredients';
import type { Ports, Report } from './ports';
import { UseCaseError } from './errors';

/** Vertices that are looked at between two reports. */
const AT_ONCE = 512;
/** Texels whose geometry is known at a time: about 60 MB of it. */
const BAND_TEXELS = 2 ** 20;

/** The last mesh whose sky was looked at: the slots of one are asked about in turn. */
let seen: { position: Float32Array; index: Uint32Array; sky: Float32Array } | null = null;

function skyOf({ position, index, ...mesh }: Mesh, report: Report): Float32Array {
  if (seen && sameItems(seen.position, position) && sameItems(seen.index, index)) return seen.sky;
  const count = position.length / 3;
  const sky = new Float32Array(count);
  const whole = { ...mesh, position, index };
  const bvh = new Bvh(whole);
  for (let i = 0; i < count; i += AT_ONCE) {
    report(i / count, 'looking at the sky');
    openSky(whole, bvh, [i, Math.min(count, i + AT_ONCE)], sky);
  }
  seen = { position, index, sky };
  return sky;
}

/** The mesh with what is wanted of its places. @throws UseCaseError when it has more vertices than the sky is looked at from */
export function knowMeshFacts(mesh: Mesh, wanted: readonly MeshFact[], report: Report): Mesh {
  const count = mesh.position.length / 3;
  const looks = wanted.includes('occlusion');
  if (looks && count > MAX_SKY_VERTICES)
    throw new UseCaseError(
      'too-many-vertices',
      `The open sky is worked out for up to ${MAX_SKY_VERTICES.toLocaleString('en')} vertices; this mesh has ${count.toLocaleString('en')}. Use a reduced level, or cues that do not look at occlusion`,
    );
  const sky = looks ? skyOf(mesh, report) : null;
  return withMeshFacts(mesh, wanted.includes('curvature') ? meshCurvature(mesh) : null, sky);
}

/** Of the texels that it covers, from how many on places that lie on each other are refused. */
const MAX_OVERLAP = 0.01;

/** What is wrong with a texture whose places lie on each other, for people, and where they do. */
export interface OverlapFound {
  message: string;
  overlap: Overlap;
}

/** Places of a mesh that lie on each other on its texture, when only one of them could be shown; null when all is well. */
export function findOverlap({ mesh, only, page, standing: { parts }, called, stacked }: Omit<BlendMesh, 'sideM'>): OverlapFound | null {
  const overlap = overlapOn(only ? withSpans(mesh, only) : mesh, page, (a, b) => stacked.has(`${a},${b}`));
  const { share, parts: pair } = overlap;
  if (share <= MAX_OVERLAP || !pair) return null;
  const [a, b] = pair.map((n) => parts[n] ?? `part ${n + 1}`);
  const percent = `${Math.round(100 * share)} % of what it covers`;
  const message =
    pair[0] === pair[1]
      ? `${called}: islands of ${a} lie on each other over ${percent}, so a texture can hold only one of them. Lay it out anew in Surfaces, or choose over the extent`
      : `${called}: ${a} and ${b} lie on each other over ${percent}, so a texture can hold only one of them. Lay the mesh out anew in Surfaces, or allow it there where it is meant`;
  return { message, overlap };
}

/** A mesh that a blend lies on: texture coordinates in extents, and where its vertices lie on its texture. */
export interface BlendMesh {
  mesh: Mesh;
  page: Float32Array;
  /** Triangles that it lies on; null all of them. The others still shade it. */
  only: Span[] | null;
  /** How it is called. */
  called: string;
  /** Pairs of parts, by number and the smaller first, that may lie on each other on its texture. */
  stacked: ReadonlySet<string>;
  /** Metres that the whole texture would be, by its mean density. */
  sideM: number;
  standing: Standing;
}

/** The mesh whose texture a blend is made into: a brought-in specimen, or the slot of an asset on it. @throws UseCaseError */
export function textureMesh(model: Model, onto: SpecimenDocument, { extentM, slot, paint }: TextureOf): BlendMesh {
  const parts = inOrder(onto.parts).filter(({ level }) => level === 0);
  const stacked = new Set(allowedPairs(parts, onto.stacking).map((pair) => pair.join()));
  const laid = slot ? { set: slot.uvSet, slot: slot.slot, times: slot.size } : { set: onto.uvSet };
  return { ...blendMesh(model, extentM, onto, { ...laid, paint, stacked }), called: slot ? `${onto.name}, ${slot.slot}` : onto.name };
}
export interface TextureOf {
  extentM: number;
  /** Of an asset: the slot that it sits on, by which set and at how many times its true size. */
  slot?: Pick<AssetSlot, 'slot' | 'uvSet' | 'size'>;
  paint?: LoadedPaint | null;
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
  /** Pairs of parts, by number, that may lie on each other. */
  stacked?: ReadonlySet<string>;
  /** The set by which its texture lies on the mesh, where that is another than the one that says how large things are. */
  page?: number;
  /** Coordinates are metres already. */
  metres?: boolean;
}

/** A level of a model under a blend of an extent; its set of coordinates keeps true size by its mean density. */
export function blendMesh(
  model: Model,
  extentM: number,
  frame: Frame = { unitM: 1, up: 'y' },
  { set = 0, level = 0, paint = null, slot = null, times = 1, stacked = new Set(), page = set, metres = false }: LaidOn = {},
): BlendMesh {
  const parts = model.lods[level] ?? model.lods[0];
  const bare = parts.find((p) => !setsOf(p)[set]);
  if (bare) throw new UseCaseError('no-coordinates', `${bare.name} has no texture coordinates in set ${set}. Unwrap the mesh first`, bare.name);
  const whole = asPainted(levelMesh(model, level, frame, set), paint);
  const densityOf = (of: number) => densitySpread(uvLayout(parts.map((p) => placed(p, frame, of))).islands)?.mean ?? 1;
  const perMetre = metres ? 1 : densityOf(set);
  const mesh = { ...whole, texcoord: whole.texcoord.map((v) => v / perMetre / (extentM * times)) };
  const { spans } = slottedMesh(parts, () => ({ set, by: 1 }), frame);
  if (slot !== null && !spans[slot]) throw new UseCaseError('missing-slot', `The mesh has no slot called ${slot} any more`, slot);
  const only = slot === null ? null : finerSpans(spans[slot], paint?.finer ?? 0);
  return {
    mesh,
    only,
    page: page === set ? whole.texcoord : asPainted(levelMesh(model, level, frame, page), paint).texcoord,
    standing: standingOf(mesh, partNames(model, level)),
    called: slot ?? model.title,
    stacked,
    sideM: 1 / (page === set ? perMetre : densityOf(page)),
  };
}

/** What a blend lies on in its flat view; texture coordinates in extents. */
export interface LiesOn {
  /** All of the specimen: what a place is shaded by is not left out. */
  mesh: Mesh;
  standing: Standing;
  /** Its parts, by number. */
  parts: readonly { name: string; slot: string }[];
  /** The place that is shown. */
  place: MeshPlace;
}
/** What it takes to read a mesh that was brought in. */
export type MeshPorts = Pick<Ports, 'model'> & { blobs: Pick<Ports['blobs'], 'get'> };

/** The place of a mesh by itself, with what is wanted of it. */
export const placedMesh = ({ mesh, parts, place }: LiesOn, wanted: readonly MeshFact[], report: Report): Mesh =>
  withPlace(knowMeshFacts(mesh, wanted, report), parts, place);

/**
 * A place of the specimen of a blend, as the stage shows it: one of our own, one that was brought in, else the patch.
 * @param place its largest slot where it is left out
 * @throws UseCaseError `missing-slot`, naming those that there are
 */
export async function liesOn(
  { blobs, model }: MeshPorts,
  blend: BlendDocument,
  specimens: Readonly<Record<string, SpecimenDocument>>,
  place?: MeshPlace,
): Promise<LiesOn> {
  const { specimen, extentM } = blend;
  const brought = specimens[specimen];
  const paint = await paintedOn(blobs, blend, specimen);
  const on = (mesh: Mesh, of: Model): LiesOn => {
    const parts = of.lods[0].map(({ name, slot }) => ({ name, slot }));
    const wanted = place ?? largestSlot(mesh, parts);
    if (!parts.some((p) => p.slot === wanted.slot && (wanted.part === undefined || p.name === wanted.part)))
      throw new UseCaseError(
        'missing-slot',
        `${of.title} has no place called ${placeName(wanted)}. It has ${[...new Set(parts.map((p) => p.slot))].join(', ')}`,
        placeName(wanted),
      );
    return { mesh, standing: standingOf(mesh, partNames(of)), parts, place: wanted };
  };
  if (brought && model) {
    const of = await model(await blobs.get(brought.model));
    return on(blendMesh(of, extentM, brought, { set: brought.uvSet, paint }).mesh, of);
  }
  const name = isSpecimenName(specimen) ? specimen : 'patch';
  const made = SPECIMEN_MODELS[name](extentM);
  return on(asPainted(specimenMesh(name, made, extentM), paint), made);
}

/** Geometry of a band of rows, how far its coordinates move, and which of its texels are to be kept. */
type Band = (rows: readonly [number, number]) => Pick<MeshBuffer, 'geometry' | 'footprints'> & { covered: Uint8Array | null };

/** Evaluates a picture band by band, so that what is known of the mesh is never known of all of it at once. */
function evaluateBands(
  material: Material,
  from: Ingredients,
  { size, footprint, roles }: { size: number; footprint: number; roles: readonly MapRole[] },
  band: Band,
  report: Report,
): { into: Partial<Record<MapRole, Image>>; covered: Uint8Array } {
  const far = showsSmaller(material, from, 1 / footprint);
  const sources = sourcesOf(from, far);
  const into = makeMaterialMaps(size, size, roles);
  const covered = new Uint8Array(size * size);
  const maker = new MapMaker(mapGraph(material, roles, far));
  const rows = Math.max(1, Math.floor(BAND_TEXELS / size));
  for (let top = 0; top < size; top += rows) {
    const bottom = Math.min(size, top + rows);
    const known = band([top, bottom]);
    covered.set(known.covered ?? new Uint8Array((bottom - top) * size).fill(1), top * size);
    const { uv1, uv2 } = known.footprints;
    const flat = {
      ...flatDomain(size, bottom - top, material.extentM, known.geometry),
      footprint: evenFootprint(footprint),
      footprints: { uv1: evenFootprint(uv1), uv2: evenFootprint(uv2) },
    };
    maker.run({
      domain: bandDomain(flat, top, size),
      sources,
      values: material.values,
      into,
      rows: [top, bottom],
      onTile: (done) => report((top + done * (bottom - top)) / size, 'evaluating'),
    });
  }
  return { into, covered };
}

/** Evaluates a material over the texture of a mesh, carried past the rims of its islands. @throws UseCaseError for islands that lie on each other */
export function evaluateOnMesh(
  material: Material,
  from: Ingredients,
  on: BlendMesh,
  size: number,
  roles: readonly MapRole[],
  report: Report,
): Partial<Record<MapRole, Image>> {
  const found = findOverlap(on);
  if (found) throw new UseCaseError('overlapping-islands', found.message, on.called);
  const { mesh, page, only } = on;
  const all = knowMeshFacts(mesh, factsWanted(materialReads(material, roles)), (done, note) => report(0.4 * done, note));
  const known = only ? withSpans(all, only) : all;
  const { footprint } = spreadOver(known, page, size, [0, 1]);
  const { into, covered } = evaluateBands(
    material,
    from,
    { size, footprint, roles },
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
  material: Material,
  from: Ingredients,
  on: LiesOn,
  size: number,
  roles: readonly MapRole[],
  report: Report,
): Partial<Record<MapRole, Image>> {
  const known = placedMesh(on, factsWanted(materialReads(material, roles)), (done, note) => report(0.4 * done, note));
  const band: Band = (rows) => ({ ...extentGround(known, size, rows), covered: null });
  return evaluateBands(material, from, { size, footprint: 1 / size, roles }, band, (done, note) => report(0.4 + 0.6 * done, note)).into;
}
