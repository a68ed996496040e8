/// <reference lib="webworker" />
// Meshes that were brought in: read, judged and drawn here, so that the interface never waits for them.
import type { Mesh, MeshPicture, Model, SlotLaying, UvLayout } from '@pebble/core';
import {
  Bvh,
  coloursAt,
  coveredCells,
  Recent,
  TILE_VERTICES,
  boundsOf,
  cellsText,
  clipMatrix,
  densitySpread,
  drawMesh,
  drawPage,
  eyeOf,
  finerTimes,
  islandAt,
  meshCurvature,
  numbered,
  openSky,
  overdrawOf,
  overlapPicture,
  placed,
  rayThrough,
  rimsOf,
  seenFrom,
  setsOf,
  slottedMesh,
  tileBytes,
  tileCount,
  tileRange,
  traceLine,
  triangleAt,
  triangleColours,
  unmerged,
  uvLayout,
  wornAt,
} from '@pebble/core';
import { readGltf, withTangents, writeGlb } from '@pebble/formats/mesh';
import { findOverlap, textureMesh } from '@pebble/usecases/on-mesh';
import { bytesOf, keepPieces } from './blob';
import type { MeshLook, MeshRequests, MeshSource } from './mesh-protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

/** A level as it stands, with what its coordinates are worth; both are asked for again and again. */
interface Level {
  meshes: Mesh[];
  whole: Mesh;
  layout: UvLayout;
  rims: Uint32Array[];
  parts: { triangles: number; slot: string }[];
  drawn: MeshPicture | null;
}

/** The last ones that were used; a model of a million triangles takes about 150 MB. */
const MAX_REMEMBERED = 3;
const models = new Recent<string, Promise<Model>>(MAX_REMEMBERED);
const levels = new Recent<string, Promise<Level>>(MAX_REMEMBERED);

/** What failed is not remembered. */
function remember<T>(memory: Recent<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const made = memory.of(key, make);
  made.catch(() => memory.forget(key));
  return made;
}

const modelOf = (hash: string): Promise<Model> => remember(models, hash, async () => (await readGltf(await bytesOf(hash))).model);

const levelOf = (source: MeshSource): Promise<Level> =>
  remember(levels, JSON.stringify([source.model, source.level, source.set, source.unitM, source.up]), async () => {
    const { lods } = await modelOf(source.model);
    const parts = lods[source.level] ?? lods[0];
    const meshes = parts.map((part) => placed(part, source, source.set));
    return {
      meshes,
      whole: numbered(meshes),
      layout: uvLayout(meshes),
      rims: rimsOf(meshes),
      parts: parts.map((p) => ({ triangles: p.mesh.index.length / 3, slot: p.slot })),
      drawn: null,
    };
  });

function coloursOf({ layout, parts }: Level, { colouring, allowed, highlight }: MeshLook): Uint32Array {
  const pairs = new Set(allowed.map(([a, b]) => `${Math.min(a, b)},${Math.max(a, b)}`));
  const density = densitySpread(layout.islands)?.mean ?? 1;
  return triangleColours({ colouring, layout, parts, density, allowed: (a, b) => pairs.has(`${Math.min(a, b)},${Math.max(a, b)}`), highlight });
}

async function bitmap({ data, width, height }: { data: Uint8ClampedArray<ArrayBuffer>; width: number; height: number }) {
  const result = await createImageBitmap(new ImageData(data, width, height));
  return { result, transfer: [result] };
}

/** The mesh whose sky is looked at, with its tree. */
let taken: { key: string; mesh: Mesh; bvh: Bvh } | null = null;

/** The mesh on which places are looked for; its tree is made when it is first needed. */
interface Stands {
  key: string;
  mesh: Pick<Mesh, 'position' | 'index' | 'texcoord'>;
  own: Uint32Array;
  /** 1 for vertices of triangles that are looked for. */
  owned: Uint8Array;
  tree: Bvh | null;
}
let stands: Stands | null = null;
/** Trees of more triangles take seconds and hundreds of megabytes: of those only the side that a place shows is looked at. */
const MAX_TREE = 600_000;

function standing(key: string): Stands {
  if (stands?.key !== key) throw new Error('Another specimen stands there now');
  if (stands.mesh.index.length / 3 <= MAX_TREE) stands.tree ??= new Bvh(stands.mesh);
  return stands;
}

/** How light the form stays where values are 0. */
const DARK = 0.12;

const HANDLERS: Handlers<MeshRequests> = {
  layout: async ({ source }) => {
    const { layout, whole } = await levelOf(source);
    const { islands, overlaps, covered, collapsed } = layout;
    const facts = {
      islands,
      overlaps,
      covered,
      collapsed,
      triangles: whole.index.length / 3,
      density: densitySpread(islands),
      bounds: boundsOf(whole),
    };
    return { result: facts, transfer: [] };
  },
  page: async ({ source, look, view, size }) => {
    const level = await levelOf(source);
    return bitmap(drawPage(level.meshes, level.rims, view, size, coloursOf(level, look)));
  },
  form: async ({ source, look, orbit, size }) => {
    const level = await levelOf(source);
    const colours = look.colouring === 'colours' ? { vertices: level.whole.geomcolor } : { triangles: coloursOf(level, look) };
    level.drawn = drawMesh(level.whole, clipMatrix(orbit, size.width / size.height), eyeOf(orbit), size, colours);
    return bitmap(level.drawn);
  },
  islandOnPage: async ({ source, u, v }) => {
    const { meshes, layout } = await levelOf(source);
    return { result: islandAt(layout, triangleAt(meshes, u, v)), transfer: [] };
  },
  islandOnForm: async ({ source, x, y }) => {
    const { drawn, layout } = await levelOf(source);
    const inside = drawn && x >= 0 && y >= 0 && x < drawn.width && y < drawn.height;
    return { result: inside ? islandAt(layout, drawn.triangle[y * drawn.width + x]) : null, transfer: [] };
  },
  covered: async ({ source }) => {
    const { lods } = await modelOf(source.model);
    const parts = lods[source.level] ?? lods[0];
    const slots = [...new Set(parts.map((p) => p.slot))];
    const of = (slot: string) =>
      parts.flatMap((p) => {
        const texcoord = setsOf(p)[source.set];
        return p.slot === slot && texcoord ? [{ index: p.mesh.index, texcoord }] : [];
      });
    return { result: Object.fromEntries(slots.map((slot) => [slot, cellsText(coveredCells(of(slot)))])), transfer: [] };
  },
  specimen: async ({ source }) => {
    const { whole, layout } = await levelOf(source);
    const { lods } = await modelOf(source.model);
    const bare = (lods[source.level] ?? lods[0]).every((p) => !setsOf(p)[source.set]);
    // Tangents came with the first set; those of another follow its own coordinates.
    const mesh = source.set > 0 && !bare ? withTangents(whole).mesh : { ...whole };
    const perMetre = densitySpread(layout.islands)?.mean ?? 1;
    mesh.texcoord = mesh.texcoord.map((v) => v / perMetre);
    return { result: mesh, transfer: [] };
  },
  slotted: async ({ source, lays }) => {
    const { lods } = await modelOf(source.model);
    const perMetre = new Map<number, number>();
    for (const { set } of Object.values(lays))
      if (!perMetre.has(set)) perMetre.set(set, densitySpread((await levelOf({ ...source, set })).layout.islands)?.mean ?? 1);
    const usual: SlotLaying = { set: source.set, by: 1, in: 'metres' };
    const lay = (slot: string) => {
      const { set, by, in: unit } = lays[slot] ?? usual;
      return { set, by: unit === 'metres' ? by * (perMetre.get(set) ?? 1) : by };
    };
    return { result: slottedMesh(lods[source.level] ?? lods[0], lay, source), transfer: [] };
  },
  finer: async ({ mesh, times }) => {
    const result = finerTimes(mesh, times);
    return { result, transfer: [...new Set(Object.values(result).map((a) => (a as Float32Array | Uint32Array).buffer as ArrayBuffer))] };
  },
  finerColours: async ({ mesh, times }) => {
    const { geomcolor } = finerTimes(mesh, times);
    const vertices = geomcolor.length / 4;
    const bytes = new Uint8Array(geomcolor.length);
    for (let tile = 0; tile < tileCount(vertices); tile++) bytes.set(tileBytes(geomcolor, tile), tileRange(tile, vertices)[0] * 4);
    const hashes = await keepPieces(bytes, TILE_VERTICES * 4);
    return { result: { vertices, tiles: Object.fromEntries(hashes.map((hash, tile) => [String(tile), hash])) }, transfer: [] };
  },
  coloursAt: async ({ mesh, painted, times }) => {
    const tiles = await Promise.all(Object.entries(painted.tiles).map(async ([tile, hash]) => [Number(tile), await bytesOf(hash)] as const));
    const result = coloursAt(mesh, { ...painted, tiles: new Map(tiles) }, times);
    return { result, transfer: result ? [result.buffer as ArrayBuffer] : [] };
  },
  valued: async ({ mesh, values, orbit, size }) => {
    const vertices = new Float32Array(values.length * 4);
    for (let i = 0; i < values.length; i++) {
      vertices.fill(DARK + (1 - DARK) * values[i], i * 4, i * 4 + 3);
      vertices[i * 4 + 3] = 1;
    }
    const result = drawMesh(mesh as Mesh, clipMatrix(orbit, size.width / size.height), eyeOf(orbit), size, { vertices });
    return { result, transfer: [result.data.buffer as ArrayBuffer] };
  },
  overlap: async ({ specimen, slot }) => {
    const found = findOverlap(textureMesh(await modelOf(specimen.model), specimen, { extentM: 1, slot }));
    if (!found) return { result: null, transfer: [] };
    const side = Math.sqrt(found.overlap.texels.length);
    const { result: picture, transfer } = await bitmap({ data: overlapPicture(found.overlap), width: side, height: side });
    return { result: { message: found.message, picture }, transfer };
  },
  overdraw: async ({ mesh, orbit }) => ({ result: overdrawOf(mesh, orbit), transfer: [] }),
  glb: async ({ name, mesh, parts }) => {
    const meshes = unmerged(mesh, parts.length);
    const level = parts.flatMap((part, i) => (meshes[i].index.length ? [{ ...part, mesh: meshes[i] }] : []));
    const result = new Uint8Array(await writeGlb(name, { title: name, lods: [level] }));
    return { result, transfer: [result.buffer] };
  },
  ground: async ({ key, mesh, sky }) => {
    if (sky) taken = { key, mesh: mesh as Mesh, bvh: new Bvh(mesh) };
    return { result: meshCurvature(mesh as Mesh), transfer: [] };
  },
  stand: async (taken) => {
    const owned = new Uint8Array(taken.mesh.position.length / 3);
    for (const v of taken.own) owned[v] = 1;
    stands = { ...taken, owned, tree: null };
    return { result: null, transfer: [] };
  },
  trace: async ({ key, line, places, eye }) => {
    const { mesh, own, tree } = standing(key);
    const worn = { ...mesh, index: own };
    const { ends, triangles } = line
      ? traceLine(worn, [line[0], line[1]], [line[2], line[3]])
      : { ends: new Float32Array(0), triangles: new Uint32Array(0) };
    const middle = (i: number) => [0, 1, 2].map((c) => (ends[i * 6 + c] + ends[i * 6 + 3 + c]) / 2) as [number, number, number];
    const seen = Uint8Array.from(triangles, (t, i) => Number(seenFrom(worn, t, middle(i), eye, tree)));
    const found = places.map(([u, v]) => wornAt(worn, u, v));
    const result = { ends, seen, places: found.map((f) => f && { at: f.place, seen: seenFrom(worn, f.triangle, f.place, eye, tree) }) };
    return { result, transfer: [] };
  },
  under: async ({ key, orbit, aspect, x, y }) => {
    const { mesh, owned, tree } = standing(key);
    const [ox, oy, oz] = eyeOf(orbit);
    const met = tree?.first([ox, oy, oz], rayThrough(orbit, aspect, x, y));
    const corners = met ? mesh.index.subarray(met.triangle * 3, met.triangle * 3 + 3) : null;
    if (!met || !corners || !owned[corners[0]]) return { result: null, transfer: [] };
    const at = (c: number) => met.shares.reduce((sum, s, k) => sum + s * mesh.texcoord[corners[k] * 2 + c], 0);
    return { result: [at(0), at(1)], transfer: [] };
  },
  sky: async ({ key, range }) => {
    if (taken?.key !== key) throw new Error('Another mesh is being looked at. Open the blend again');
    const all = new Float32Array(range[1]);
    openSky(taken.mesh, taken.bvh, range, all);
    return { result: all.slice(range[0]), transfer: [] };
  },
};

serve(HANDLERS);
