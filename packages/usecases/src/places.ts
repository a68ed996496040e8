// Which places of its specimen a blend is shown on: by name, so that nothing is shown quietly instead of another.
import type { BlendDocument, MaterialRole, Material, MeshInput, MeshPart, MeshPlace, SpecimenDocument } from '@pebble/core';
import { SPECIMEN_PARTS, inOrder, isSpecimenName, materialReads, placeName, slotPlaces } from '@pebble/core';

/** Parts of a specimen, by number: one of our own by its name, or one that was brought in by its id; of what is gone, the patch. */
export function specimenParts(specimen: string, specimens: Readonly<Record<string, SpecimenDocument>>): readonly MeshPart[] {
  const brought = Object.hasOwn(specimens, specimen) ? specimens[specimen] : undefined;
  if (brought) return inOrder(brought.parts).flatMap(({ name, slot, level }) => (level === 0 ? [{ name, slot }] : []));
  return SPECIMEN_PARTS[isSpecimenName(specimen) ? specimen : 'patch'];
}

/** Where pictures of a blend are made: one a slot of its specimen where what is asked for looks at the mesh, else one over the extent. */
export function picturePlaces(
  material: Material,
  roles: readonly MaterialRole[],
  { specimen }: Pick<BlendDocument, 'specimen'>,
  specimens: Readonly<Record<string, SpecimenDocument>>,
): (MeshPlace | null)[] {
  return materialReads(material, roles).mesh.size ? slotPlaces(specimenParts(specimen, specimens)) : [null];
}

const LOOKS_AT: Record<MeshInput, string> = {
  position: 'altitude',
  normal: 'slope and direction',
  tangent: 'tangents',
  texcoord: 'coordinates',
  geomcolor: 'vertex colours',
  curvature: 'edges',
  occlusion: 'open sky',
  part: 'parts',
  uv1: 'its first UV set',
  uv2: 'its second UV set',
};

/** What a tile of a place cannot hold, said before it is made; null over the extent, where a tile is all there is. */
export function tileNote(material: Material, roles: readonly MaterialRole[], place: MeshPlace | null): string | null {
  if (!place) return null;
  const looks = [...materialReads(material, roles).mesh].map((input) => LOOKS_AT[input]);
  return `One tile of slot ${placeName(place)}, by its ${looks.join(', ')}; elsewhere on the mesh it differs. For the whole mesh make a surface into its texture`;
}
