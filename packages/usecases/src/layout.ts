// Texture coordinates made anew: a mesh cut into pieces that lie flat, or its pieces laid out again. Cutting, flattening and
// placing are a library's; this keeps everything else of the mesh, and its size on the texture true.
import type { Frame, Mesh, Model, Part } from '@pebble/core';
import { dividedPart, placed, setsOf, uvLayout, withSets } from '@pebble/core';
import { withTangents } from '@pebble/formats/mesh';
import type { Mesh as Charts } from 'watlas';
import { Atlas, Initialize } from 'watlas';
import type { Report } from './ports';
import { UseCaseError } from './errors';

/**
 * Side of the texture that islands are placed on, and the gap around each in its texels. Trying every place takes sixty times
 * as long on a side four times as long, and places no better: few islands are placed on a small one, with the same gap.
 */
const FINE = { side: 1024, gap: 4 };
const COARSE = { side: 256, gap: 1 };
/** How often the size is halved in on at which all islands just fit. */
const TRIES = 7;
/** Triangles that are cut: a minute for each fifty thousand rough ones. */
const MOST = 500_000;
/** Up to so many islands every place is tried for each, which takes time and fills better. */
const FEW = 24;

/**
 * A level of a model with one more set of texture coordinates, whose islands fill one tile without touching, at an even
 * density. `unwrap` cuts the mesh into new islands, `repack` places those of `set` anew, mirrored ones turned over.
 * @returns the model, and which set is the new one
 */
export async function layOut(
  model: Model,
  how: 'unwrap' | 'repack',
  level: number,
  set: number,
  frame: Frame,
  report: Report,
): Promise<{ model: Model; set: number }> {
  const parts = model.lods.at(level);
  if (!parts) throw new UseCaseError('no-level', `There is no level of detail ${level}; there are ${model.lods.length}`);
  const bare = parts.find((p) => !setsOf(p)[set]);
  if (how === 'repack' && bare) throw new UseCaseError('no-uv', `${bare.name} has no texture coordinates to lay out again. Unwrap it first`);
  const triangles = weightBefore(parts, parts.length) / 3;
  if (how === 'unwrap' && triangles > MOST)
    throw new UseCaseError(
      'too-large',
      `${triangles.toLocaleString('en')} triangles are too many to cut; at most ${MOST.toLocaleString('en')} are. Reduce the mesh first`,
    );
  await Initialize();
  const whole = weightBefore(parts, parts.length);
  const flat = parts.map((part, i) => {
    if (how === 'repack') return even(part, placed(part, frame, set));
    const triangles = (part.mesh.index.length / 3).toLocaleString('en');
    report(0.05 + (0.75 * weightBefore(parts, i)) / whole, `Cutting ${part.name}, ${triangles} triangles`);
    return cut(part, frame);
  });
  report(0.85, `Placing ${parts.length === 1 ? 'the islands' : `the islands of ${parts.length} parts`}`);
  const next = Math.max(...parts.map((p) => setsOf(p).length));
  const out = pack(flat).map(({ part, texcoord }) => finished(part, texcoord, next));
  return { model: { ...model, lods: model.lods.map((l, i) => (i === level ? out : l)) }, set: next };
}

/** A part with coordinates in metres that still have to find their place. */
interface Flat {
  part: Part;
  texcoord: Float32Array;
  /** Longest side of any of its islands. */
  largestM: number;
  islands: number;
}

const weightBefore = (parts: readonly Part[], end: number): number => parts.slice(0, end).reduce((sum, p) => sum + p.mesh.index.length, 0);
/** Reads what the library made of a mesh: vertices by where they come from, coordinates in texels. */
function read(charts: Charts): { index: Uint32Array; from: Uint32Array; texels: Float32Array } {
  const index = new Uint32Array(charts.indexCount);
  charts.getIndexArray(index);
  const from = new Uint32Array(charts.vertexCount);
  const texels = new Float32Array(charts.vertexCount * 2);
  const placed = new Map<number, number>();
  const left: number[] = [];
  for (let i = 0; i < from.length; i++) {
    const { uv, xref, chartIndex } = charts.getVertex(i);
    from[i] = xref;
    texels.set(uv, i * 2);
    if (chartIndex < 0) left.push(i);
    else placed.set(xref, i);
  }
  if (left.length) settle(index, texels, left, (i) => placed.get(from[i]));
  return { index, from, texels };
}

/**
 * Corners of triangles too small for the library, which it leaves at the origin: they lie where one of the same vertices lies in
 * another triangle, all three there, for each may have come to lie in another island; or else where a neighbour does.
 */
function settle(index: Uint32Array, texels: Float32Array, left: readonly number[], twin: (vertex: number) => number | undefined): void {
  const waiting = new Set(left);
  for (let before = -1; waiting.size && waiting.size !== before;) {
    before = waiting.size;
    for (let k = 0; k + 2 < index.length; k += 3) {
      const corners = [index[k], index[k + 1], index[k + 2]];
      if (!corners.some((i) => waiting.has(i))) continue;
      const at = corners.find((i) => !waiting.has(i)) ?? corners.map(twin).find((i) => i !== undefined);
      if (at === undefined) continue;
      for (const i of corners) {
        if (!waiting.delete(i)) continue;
        texels.copyWithin(i * 2, at * 2, at * 2 + 2);
      }
    }
  }
}

/** The longest distance of a coordinate from the origin, rounded up to a power of two so that dividing by it is exact; 1 where all is in one point. */
function sizeOf(position: Float32Array): number {
  let most = 0;
  for (const v of position) most = Math.max(most, Math.abs(v));
  return most ? 2 ** Math.ceil(Math.log2(most)) : 1;
}

/** New islands for a part, flattened in metres. */
function cut(part: Part, frame: Frame): Flat {
  const { position, normal, index } = placed(part, frame);
  const size = sizeOf(position);
  const atlas = new Atlas();
  try {
    atlas.addMesh({
      // The library takes what is smaller than a few micrometres for nothing, in whatever unit a mesh comes.
      vertexPositionData: position.map((v) => v / size),
      vertexPositionStride: 12,
      vertexCount: position.length / 3,
      vertexNormalData: normal,
      vertexNormalStride: 12,
      // The part's own winding: the library must see the triangles that the file has.
      indexData: index,
      indexCount: index.length,
    });
    atlas.computeCharts({ fixWinding: true });
    atlas.packCharts({ padding: 1, resolution: COARSE.side, rotateCharts: false });
    const { index: corners, from, texels } = read(atlas.getMesh(0));
    const divided = dividedPart(part, { index: restored(corners, index, part.mesh.index), from });
    return even(divided, { ...placed(divided, frame), texcoord: texels }, true);
  } finally {
    atlas.delete();
  }
}

/** Placing may have turned the winding over; the part keeps the order that it came with. */
const restored = (corners: Uint32Array, seen: Uint32Array, own: Uint32Array): Uint32Array => {
  if (seen[1] === own[1]) return corners;
  const out = corners.slice();
  for (let k = 0; k + 2 < out.length; k += 3) [out[k + 1], out[k + 2]] = [out[k + 2], out[k + 1]];
  return out;
};

/**
 * Islands of a mesh's coordinates at their size on the mesh, in metres, none of them mirrored, each in a row by itself.
 * @param lying turns islands by quarters so that they are wider than high, which places better
 */
function even(part: Part, mesh: Mesh, lying = false): Flat {
  const { islands, islandOf } = uvLayout([mesh]);
  const texcoord = new Float32Array(mesh.texcoord.length);
  const sizes = islands.map(({ density }) => (Number.isFinite(density) && density > 0 ? 1 / density : 1));
  const widest = islands.reduce((most, { lo, hi }, i) => Math.max(most, (hi[0] - lo[0]) * sizes[i], (hi[1] - lo[1]) * sizes[i]), 0);
  // The library takes islands that lie on each other for one.
  let right = 0;
  const starts = islands.map(({ lo, hi }, i) => {
    const start = right;
    const [width, height] = [hi[0] - lo[0], hi[1] - lo[1]];
    const turn = lying && height > width;
    right += (turn ? height : width) * sizes[i] * 1.01 + 1e-3 * widest;
    return { start, turn };
  });
  for (let k = 0; k < mesh.index.length; k++) {
    const at = islandOf[Math.floor(k / 3)];
    if (at < 0) continue;
    const { lo, hi, flipped } = islands[at];
    const i = mesh.index[k];
    const u = (flipped ? hi[0] - mesh.texcoord[i * 2] : mesh.texcoord[i * 2] - lo[0]) * sizes[at];
    const v = (mesh.texcoord[i * 2 + 1] - lo[1]) * sizes[at];
    const { start, turn } = starts[at];
    texcoord[i * 2] = start + (turn ? v : u);
    texcoord[i * 2 + 1] = turn ? (hi[0] - lo[0]) * sizes[at] - u : v;
  }
  return { part, texcoord, largestM: widest, islands: islands.length };
}

/** Places all islands in one tile. */
function pack(flats: readonly Flat[]): Pick<Flat, 'part' | 'texcoord'>[] {
  const islands = flats.reduce((n, f) => n + f.islands, 0);
  const largestM = Math.max(...flats.map((f) => f.largestM));
  if (!islands || !(largestM > 0))
    throw new UseCaseError('no-islands', 'Its triangles have no area, so nothing can be laid flat. Look at the mesh, and export it again');
  const atlas = new Atlas();
  try {
    for (const { part, texcoord } of flats)
      atlas.addUvMesh({
        vertexUvData: texcoord.map((v) => v / largestM),
        vertexStride: 8,
        vertexCount: texcoord.length / 2,
        indexData: part.mesh.index,
        indexCount: part.mesh.index.length,
      });
    // Nothing is cut here: islands are found from the coordinates.
    atlas.computeCharts({});
    const side = fill(atlas, islands <= FEW);
    return flats.map(({ part }, i) => {
      const { index, from, texels } = read(atlas.getMesh(i));
      return { part: dividedPart(part, { index, from }), texcoord: texels.map((v) => v / side) };
    });
  } finally {
    atlas.delete();
  }
}

/** Places islands as large as they fit into a square; gives its side in texels. Turning by quarters would mirror them. */
function fill(atlas: Atlas, bruteForce: boolean): number {
  const { side: full, gap } = bruteForce ? COARSE : FINE;
  const place = (texelsPerUnit: number) =>
    atlas.packCharts({ padding: gap, resolution: full, rotateCharts: false, rotateChartsToAxis: false, bruteForce, texelsPerUnit });
  place(0);
  let side = Math.max(atlas.width, atlas.height) || 1;
  let fits = (atlas.texelsPerUnit * full) / side;
  // The largest island is one unit long; larger than the square it would be shrunk by itself.
  let over = Math.min(fits * 1.6, full - 2 * gap - 2);
  for (let k = 0; k < TRIES && over > fits; k++) {
    const middle = (fits + over) / 2;
    place(middle);
    if (atlas.atlasCount === 1 && Math.max(atlas.width, atlas.height) <= full) fits = middle;
    else over = middle;
  }
  place(fits);
  if (atlas.atlasCount > 1) place(0);
  side = Math.max(atlas.width, atlas.height) || 1;
  return side;
}

/** The part with its new set; tangents follow when it is the first. */
function finished(part: Part, texcoord: Float32Array, set: number): Part {
  const own = setsOf(part);
  // Every part of a level has the same number of sets: what one lacks is filled with the new one.
  const out = withSets(part, [...own, ...Array.from({ length: set + 1 - own.length }, () => texcoord)]);
  return own.length ? out : tangented(out);
}

/** The part with tangents of its first set. */
export function tangented(part: Part): Part {
  const { mesh, from } = withTangents(part.mesh);
  return { ...dividedPart(part, { index: mesh.index, from }), mesh };
}
