// A blend made a surface: evaluated to maps that stand on their own, over its square or into the texture of a mesh.
import type { AssetSlot, BlendDocument, Image, MaterialRole, MapSet, MeshPlace, SurfaceDocument, SurfaceFacts } from '@pebble/core';
import { MATERIAL_ROLES, ROLE_FACTS, blendMaterial, givenRoles, materialFacts, nameSlug, placeName, resize, seamRatio } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import type { Library } from './blends';
import { evaluateSquare, gather, placeBlend, readerOf, stackOf } from './blends';
import { keepImage } from './making';
import type { BlendMesh } from './on-mesh';
import { evaluateOnMesh, paintedOn, textureMesh } from './on-mesh';
import type { Ports, Report } from './ports';
import { UseCaseError } from './errors';
import { finish } from './surfaces';

/** Pixels of a side past which maps are made one after the other, so that no more than one of them is in memory. */
const ALL_AT_ONCE = 4096;
/** Side of the pictures that the thumbnail is drawn from. */
const SMALL = 512;
/** Rims that differ more than this often as much as neighbours usually do are seen. */
const SEEN = 3;

export interface SurfaceRequest {
  size: number;
  /** The place of the blend's own specimen whose square is evaluated; its largest slot where it is left out, null over the extent. */
  place?: MeshPlace | null;
  /** Id of the specimen whose texture it is baked into; the blend's own square where it is left out. */
  onto?: string;
  /** Of an asset: the slot that it sits on, by which set and at how many times its true size. */
  slot?: Pick<AssetSlot, 'slot' | 'uvSet' | 'size'>;
}

/** Roles that say something: one value all over is what a surface without the map has too, when it is the neutral one. */
const says = (role: MaterialRole, { data, channels, depth }: Image): boolean => {
  const full = depth === 8 ? 255 : 65535;
  const { neutral } = ROLE_FACTS[role];
  for (let i = channels; i < data.length; i++) if (data[i] !== data[i - channels]) return true;
  return role === 'height' ? false : neutral.some((v, c) => Math.abs(data[Math.min(c, channels - 1)] - v * full) > 1);
};

/** What is to be said of a picture's rims. */
function rims(maps: MapSet): string {
  const worst = Math.max(...Object.values(maps).flatMap((image) => Object.values(seamRatio(image))));
  return worst <= SEEN
    ? `It tiles: across its rims neighbours differ ${worst.toFixed(2)} times as much as elsewhere.`
    : `Its rims are seen: neighbours differ ${worst.toFixed(1)} times as much there as elsewhere. Something in it does not repeat over the extent, such as a mask or the shape of a specimen.`;
}

/** The mesh that a blend is baked into, painted as it is for the blend. */
async function meshOf({ blobs }: Ports, blend: BlendDocument, { specimens }: Library, id: string, slot: SurfaceRequest['slot']): Promise<BlendMesh> {
  const onto = specimens?.[id];
  if (!onto) throw new UseCaseError('missing-specimen', 'The specimen to bake onto was deleted');
  const { model } = await readGltf(await blobs.get(onto.model));
  const paint = await paintedOn(blobs, blend, id);
  return textureMesh(model, onto, { extentM: blend.extentM, slot, paint });
}

/** Evaluates a blend and keeps its maps as a surface; those that say nothing are left out. @throws UseCaseError */
export async function surfaceOfBlend(
  ports: Ports,
  blend: BlendDocument,
  library: Library,
  { size, onto, slot, place }: SurfaceRequest,
  report: Report,
): Promise<SurfaceDocument> {
  const mesh = onto === undefined ? null : await meshOf(ports, blend, library, onto, slot);
  const placed = mesh
    ? { material: blendMaterial(stackOf(blend, library), { standing: mesh.standing }), on: null }
    : await placeBlend(ports, blend, library, MATERIAL_ROLES, place);
  const { material } = placed;
  const given = givenRoles(material.near);
  const groups: MaterialRole[][] = size > ALL_AT_ONCE ? given.map((role) => [role]) : [given];
  const maps: SurfaceDocument['maps'] = {};
  const small: MapSet = {};
  const left: string[] = [];
  for (const [g, roles] of groups.entries()) {
    const step: Report = (done, note) => report((0.9 * (g + done)) / groups.length, note);
    const from = await gather(material, readerOf(ports, library), roles, (done, id) => step(0.2 * done, library.surfaces[id].name));
    const evaluating: Report = (done, note) => step(0.2 + 0.5 * done, note);
    const made = mesh
      ? evaluateOnMesh(material, from, mesh, size, roles, evaluating)
      : await evaluateSquare(ports, placed, from, size, roles, evaluating);
    for (const [k, role] of roles.entries()) {
      const image = made[role] as Image;
      delete made[role];
      step(0.7 + (0.3 * k) / roles.length, ROLE_FACTS[role].label.toLowerCase());
      if (!says(role, image)) {
        left.push(ROLE_FACTS[role].label.toLowerCase());
        continue;
      }
      maps[role] = await keepImage(ports, role, image, `${nameSlug(blend.name)}_${role}.png`);
      small[role] = resize(image, Math.min(SMALL, size), Math.min(SMALL, size));
    }
  }
  report(0.95, 'thumbnail');
  const facts: SurfaceFacts = mesh ? { ...materialFacts(material), sizeM: mesh.sideM } : materialFacts(material);
  const where = placed.on ? placeName(placed.on.place) : 'the extent';
  const name = mesh ? `${blend.name} on ${mesh.called}` : placed.on ? `${blend.name}, ${where}` : `${blend.name}, baked`;
  const notes = [
    `Made of the blend ${blend.name} at ${size} × ${size}, ${mesh ? `into the texture of ${mesh.called}` : `over ${where}`}.`,
    ...(left.length ? [`Left out, since they are the same everywhere: ${left.join(', ')}.`] : []),
    ...(mesh ? [] : [rims(small)]),
  ];
  return finish(ports, { name: name.slice(0, 200), ...facts }, maps, small, null, notes);
}
