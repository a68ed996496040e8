import type { DagNode, ImageChannel, Unit } from '../compile';
import { CHANNEL_ROLE, PACKING, optimise, readsSize, topological } from '../compile';
import type { MeshInput } from '../geometry';
import { MESH_INPUTS } from '../geometry';
import type { Role } from '../surface';
import type { Material, MaterialReads } from './material';

/** What of a mesh has to be worked out before it can be read. */
export const MESH_FACTS = ['curvature', 'occlusion'] as const;
export type MeshFact = (typeof MESH_FACTS)[number];
export const factsWanted = ({ mesh }: Pick<MaterialReads, 'mesh'>): MeshFact[] => MESH_FACTS.filter((f) => mesh.has(f));

const isMeshInput = (op: string): op is MeshInput => (MESH_INPUTS as readonly string[]).includes(op);

/** What a graph reads. Optimise it first: what nothing reaches is not read. */
export function readsOf(outputs: Readonly<Record<string, DagNode>>): MaterialReads {
  const reads = { mesh: new Set<MeshInput>(), roles: new Map<number, Set<Role>>(), masks: new Set<number>(), ids: new Set<number>(), levels: false };
  for (const node of topological(Object.values(outputs))) {
    const { op, attrs } = node;
    if (isMeshInput(op) && op !== 'texcoord') reads.mesh.add(op);
    if (readsSize(node)) reads.levels = true;
    if (typeof attrs['channel'] !== 'string' || typeof attrs['slot'] !== 'number') continue;
    const [channel, slot] = [attrs['channel'] as ImageChannel, attrs['slot']];
    if (channel === 'mask') reads.masks.add(slot);
    else if (channel === 'id') reads.ids.add(slot);
    else reads.roles.set(slot, (reads.roles.get(slot) ?? new Set()).add(CHANNEL_ROLE[channel]));
  }
  return reads;
}

const ROLE_UNIT = new Map(Object.entries(CHANNEL_ROLE).map(([channel, role]) => [role, PACKING[channel as ImageChannel].unit]));

/** The packed textures that are bound for it: of which array, for which slot. */
export function texturesOf({ roles, masks, ids }: MaterialReads): { unit: Unit; slot: number }[] {
  const surfaces = [...roles].flatMap(([slot, has]) => {
    const units = new Set([...has].flatMap((role) => ROLE_UNIT.get(role) ?? []));
    return [...units].map((unit) => ({ unit, slot }));
  });
  const pictures = (unit: Unit, slots: ReadonlySet<number>) => [...slots].map((slot) => ({ unit, slot }));
  return [...surfaces, ...pictures('mask', masks), ...pictures('id', ids)];
}

/** What some outputs of a material read: a layer that leaves a channel alone is not asked for it. */
export function materialReads(material: Material, outputs: readonly (keyof Material['far']['outputs'])[], far = false): MaterialReads {
  const of = (far ? material.far : material.near).outputs;
  const fed = outputs.flatMap((name): [string, DagNode][] => {
    const node = of[name];
    return node ? [[name, node]] : [];
  });
  return readsOf(optimise(Object.fromEntries(fed)).outputs);
}

/**
 * Whether a picture shows what it looks up smaller than it is, so that mip levels are wanted.
 * @param texels of an extent in the picture
 * @param sizes sides in texels of what is looked up, by slot; of surfaces, the largest of their maps
 */
export function wantsMips({ laid, near }: Material, texels: number, sizes: { surfaces: readonly number[]; masks: readonly number[] }): boolean {
  const small = (list: Material['laid']['surfaces'], of: readonly number[]) =>
    list.some(({ slot, repeats }) => (of[slot] ?? 0) * repeats > texels * 1.01);
  return small(laid.surfaces, sizes.surfaces) || small(laid.masks, sizes.masks) || readsOf(near.outputs).levels;
}
