import type { AssetDocument, SpecimenDocument } from '../document';
import { inOrder } from '../order';
import { numbered, partOf } from './ground';
import type { Mesh } from './mesh';
import { triangleArea } from './mesh';
import type { Frame, Model, Part } from './model';
import { placed } from './model';

/** Slots that an asset has at most. */
export const MAX_SLOTS = 16;

/** Entries of a mesh's index: the first one and how many. */
export type Span = readonly [first: number, count: number];

/** How what sits on a slot is laid. */
export interface SlotLaying {
  set: number;
  /** What coordinates are divided by, so that they count repetitions of what sits there. */
  by: number;
  /** Metres where it has a true size; the mesh's own coordinates as they are where it was finished for just these. */
  in: 'metres' | 'coordinates';
}

/** The parts of an object as one mesh, in their order, and which of its triangles belong to which slot. */
export interface SlottedMesh {
  mesh: Mesh;
  spans: Record<string, Span[]>;
}

/** Parts as one mesh, each laid as its slot says. */
export function slottedMesh(parts: readonly Part[], lay: (slot: string) => Omit<SlotLaying, 'in'>, frame?: Frame): SlottedMesh {
  const spans: Record<string, Span[]> = {};
  let first = 0;
  const meshes = parts.map((part) => {
    const { set, by } = lay(part.slot);
    const mesh = placed(part, frame, set);
    (spans[part.slot] ??= []).push([first, mesh.index.length]);
    first += mesh.index.length;
    return by === 1 ? mesh : { ...mesh, texcoord: mesh.texcoord.map((v) => v / by) };
  });
  return { mesh: numbered(meshes), spans };
}

/** Spans of a mesh whose triangles were cut into four so many times. */
export const finerSpans = (spans: readonly Span[], times: number): Span[] => spans.map(([first, count]) => [first * 4 ** times, count * 4 ** times]);

/** The same mesh with some of its triangles alone; its vertices stay. */
export function withSpans(mesh: Mesh, spans: readonly Span[]): Mesh {
  const index = new Uint32Array(spans.reduce((n, [, count]) => n + count, 0));
  let at = 0;
  for (const [first, count] of spans) {
    index.set(mesh.index.subarray(first, first + count), at);
    at += count;
  }
  return { ...mesh, index };
}

/** What a part of a mesh is called, and what it wears. */
export interface MeshPart {
  name: string;
  slot: string;
}

/** A place of a mesh that has a name: all that wears one material, or one of its parts. */
export interface MeshPlace {
  slot: string;
  part?: string;
}
/** How a place of a mesh is called. */
export const placeName = ({ slot, part }: MeshPlace): string => (part === undefined ? slot : `${slot}, ${part}`);

/** The same mesh with the triangles of one place alone; its vertices stay. @param parts names and slots of its parts, by number */
export function withPlace(mesh: Mesh, parts: readonly MeshPart[], place: MeshPlace): Mesh {
  const wanted = parts.map(({ name, slot }) => slot === place.slot && (place.part === undefined || name === place.part));
  const index: number[] = [];
  for (let t = 0; t < mesh.index.length; t += 3)
    if (wanted[partOf(mesh, mesh.index[t])]) index.push(mesh.index[t], mesh.index[t + 1], mesh.index[t + 2]);
  return { ...mesh, index: Uint32Array.from(index) };
}

/** The slot that has most of a mesh's area, the first of such: what is shown of a mesh before somebody chooses. */
export function largestSlot(mesh: Mesh, parts: readonly Pick<MeshPart, 'slot'>[]): MeshPlace {
  const areas = new Map(parts.map(({ slot }) => [slot, 0]));
  for (let k = 0; k < mesh.index.length; k += 3) {
    const slot = parts[partOf(mesh, mesh.index[k])]?.slot;
    if (slot !== undefined) areas.set(slot, (areas.get(slot) as number) + triangleArea(mesh, k));
  }
  const [[slot]] = [...areas].sort(([, a], [, b]) => b - a);
  return { slot };
}

/** The slots of some parts as places, each once. */
export const slotPlaces = (parts: readonly Pick<MeshPart, 'slot'>[]): MeshPlace[] => [...new Set(parts.map((p) => p.slot))].map((slot) => ({ slot }));

/** Slots, and behind each that has several parts these by themselves: they may lie on each other where one picture can show only one. */
export function partPlaces(parts: readonly MeshPart[]): MeshPlace[] {
  return slotPlaces(parts).flatMap(({ slot }) => {
    const names = [...new Set(parts.flatMap((p) => (p.slot === slot ? [p.name] : [])))];
    return [{ slot }, ...(names.length > 1 ? names.map((part) => ({ slot, part })) : [])];
  });
}

/** Names of the slots of a model's most detailed level, each once. */
export const slotNames = ({ lods }: Pick<Model, 'lods'>): string[] => [...new Set(lods[0].map((p) => p.slot))];

/** Names of the slots of the most detailed level of a mesh that was brought in, each once. */
export const slotsOf = ({ parts }: Pick<SpecimenDocument, 'parts'>): string[] => [
  ...new Set(inOrder(parts).flatMap((p) => (p.level === 0 ? [p.slot] : []))),
];

/** An asset of a specimen. @param wears what sits on each slot, by id: the same on all of them, or slot by slot */
export const makeAsset = (name: string, specimen: string, slots: readonly string[], wears: string | ((slot: string) => string)): AssetDocument => ({
  kind: 'asset',
  version: 1,
  name,
  specimen,
  slots: Object.fromEntries(
    slots
      .slice(0, MAX_SLOTS)
      .map((slot, i) => [`s${i + 1}`, { order: i + 1, slot, blend: typeof wears === 'string' ? wears : wears(slot), uvSet: 0, size: 1 }]),
  ),
});
