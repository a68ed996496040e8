// Stamps pressed into all maps of what a mesh wears: in the application, in its jobs and on the command line alike.
import type { Frame, Image, MapSet, Mesh, Model, Role, Stamp, StampSurface, SurfaceDocument, UnwrappedMesh } from '@pebble/core';
import { MATERIAL_ROLES, Stamper, inOrder, overlapOn, partNames, resize } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { UseCaseError } from './errors';
import { keepImage } from './making';
import { loadMaps } from './maps';
import type { Ports, Report } from './ports';
import { slotMesh } from './slot-mesh';
import type { StampPlan } from './stamp-plan';
import { stampedOf } from './stamp-plan';
import { finish } from './surfaces';

/** Share of texels on which several places of a mesh may lie: what rounds at the rims of islands. */
const OVERLAPPING = 0.001;

/** A mesh that is stamped: its texels have one place each, and tangents of the set by which they lie. */
export type StampGround = UnwrappedMesh & Pick<Mesh, 'normal' | 'tangent'>;

/**
 * The finest level of a model as stamps are pressed onto it.
 * @param slots those whose triangles are stamped; all where they are left out
 * @throws UseCaseError for parts without coordinates, and where places lie on each other
 */
export function stampGround(model: Model, frame: Frame, called: string, set: number, slots?: readonly string[]): StampGround {
  const mesh = slotMesh(model, frame, called, set, slots);
  const { share, parts: pair } = overlapOn(mesh, mesh.texcoord);
  if (share > OVERLAPPING) {
    const names = partNames(model);
    const [a, b] = (pair ?? [0, 0]).map((n) => names[n] ?? `part ${n + 1}`);
    throw new UseCaseError(
      'overlapping-islands',
      `${called}: ${a === b ? `islands of ${a}` : `${a} and ${b}`} lie on each other over ${(share * 100).toFixed(1)} % of what set ${set + 1} covers, so a stamp would be seen twice. Lay the mesh out anew first`,
      called,
    );
  }
  const { position, index, texcoord, normal, tangent } = mesh;
  return { position, index, normal, tangent, uv: texcoord };
}

/** Maps of one size each of their own, that of the largest: what stamps are pressed into. Others are not touched. */
export function stampMaps(maps: MapSet): MapSet {
  const own = MATERIAL_ROLES.flatMap((role): [Role, Image][] => (maps[role] ? [[role, maps[role]]] : []));
  const width = Math.max(0, ...own.map(([, m]) => m.width));
  const height = Math.max(0, ...own.map(([, m]) => m.height));
  return Object.fromEntries(
    own.map(([role, m]) => [role, m.width === width && m.height === height ? { ...m, data: m.data.slice() } : resize(m, width, height)]),
  );
}

/** How many texels stamps changed, and how many lay beside the mesh. */
export interface Pressed {
  texels: number;
  beside: number;
}
/** Presses stamps in turn. @param report throwing from it stops */
export function pressStamps(
  stamper: Stamper,
  stamps: readonly { stamp: Stamp; surface: StampSurface; seed: number }[],
  report: (done: number) => void = () => undefined,
): Pressed {
  const told: Pressed = { texels: 0, beside: 0 };
  stamps.forEach(({ stamp, surface, seed }, i) => {
    report(i / stamps.length);
    const texels = stamper.press(stamp, surface, seed);
    if (texels === null) told.beside++;
    else told.texels += texels;
  });
  return told;
}

/** Presses the stamps of a plan at full size and keeps the maps. @throws UseCaseError */
export async function stampedSurface(
  ports: Ports,
  { specimen, base, into, stamped }: StampPlan,
  find: (id: string) => SurfaceDocument | undefined,
  report: Report,
): Promise<SurfaceDocument> {
  report(0, 'reading the mesh');
  const { model } = await readGltf(await ports.blobs.get(specimen.model));
  const ground = stampGround(model, specimen, specimen.name, stamped.uvSet, stamped.slots);
  report(0.05, 'reading maps');
  const { reliefM, mid, sizeM } = base.body;
  const read = (body: SurfaceDocument) => loadMaps(ports, body, MATERIAL_ROLES);
  const maps = stampMaps(await read(base.body));
  const surfaces = new Map<string, StampSurface>();
  for (const id of stampedOf(stamped)) {
    const body = find(id);
    if (body && !surfaces.has(id)) surfaces.set(id, { maps: await read(body), sizeM: body.sizeM, reliefM: body.reliefM, mid: body.mid });
  }
  const stamps = inOrder(stamped.stamps);
  const stamper = new Stamper(ground, maps, { reliefM, mid });
  const list = stamps.map((stamp) => ({ stamp, surface: surfaces.get(stamp.surface) as StampSurface, seed: stamp.seed }));
  const { beside } = pressStamps(stamper, list, (done) => report(0.15 + 0.45 * done, `${stamps.length} stamps`));
  const kept: SurfaceDocument['maps'] = { ...base.body.maps };
  const roles = Object.keys(maps) as Role[];
  for (const [i, role] of roles.entries()) {
    report(0.6 + (0.35 * i) / roles.length, role);
    kept[role] = await keepImage(ports, role, maps[role] as Image, `${role}_stamped.png`);
    const { settings, overrides } = into?.maps[role] ?? base.body.maps[role] ?? {};
    Object.assign(kept[role], settings && { settings }, overrides && { overrides });
  }
  report(0.96, 'thumbnail');
  const name = into?.name ?? `${base.body.name}, stamped`.slice(0, 200);
  const notes = [
    `${stamps.length} stamp${stamps.length === 1 ? '' : 's'} on ${base.body.name}, pressed in Paint.`,
    ...(beside ? [`${beside} of them lie beside the mesh.`] : []),
  ];
  const made = await finish(ports, { name, sizeM, reliefM, mid }, kept, maps, null, notes);
  return { ...made, ...(into?.origin ? { origin: into.origin } : {}), stamped };
}
