// The normal map of what a mesh wears, turned from the axes of the object into its tangents, and back.
import type { AssetDocument, Image, NormalSpace, SpecimenDocument, SurfaceDocument } from '@pebble/core';
import { convertDepth, inOrder, isSpecimenName, turnedNormals } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { UseCaseError } from './errors';
import { keepImage } from './making';
import { flipGreen } from './maps';
import type { Ports, Report } from './ports';
import { slotMesh } from './slot-mesh';

/** What is turned: the surface, and where it lies on the mesh. */
export interface TurnPlan {
  surface: SurfaceDocument;
  specimen: SpecimenDocument;
  slots: string[];
  uvSet: number;
}

/** @throws UseCaseError that says why there is nothing to be turned by */
export function planTurn(
  asset: AssetDocument,
  { surface: id, to }: { surface: string; to: NormalSpace },
  find: { surface(id: string): SurfaceDocument | undefined; specimen(id: string): SpecimenDocument | undefined },
): TurnPlan {
  const surface = find.surface(id);
  const specimen = isSpecimenName(asset.specimen) ? undefined : find.specimen(asset.specimen);
  const wearing = inOrder(asset.slots).filter((s) => s.blend === id);
  if (!surface) throw new UseCaseError('missing-surface', 'This surface was deleted');
  if (!wearing.length || !specimen)
    throw new UseCaseError(
      'missing-slot',
      `No slot of a mesh that was brought in wears ${surface.name}: normals are turned by the places that they lie on`,
    );
  const { normal } = surface.maps;
  if (!normal) throw new UseCaseError('missing-map', `${surface.name} has no normal map to be turned`, 'normal');
  if (surface.stamped)
    throw new UseCaseError(
      'missing-map',
      `The maps of ${surface.name} come of another surface and the stamps on it. Turn the normals of that one`,
      'normal',
    );
  if (to === 'object' && normal.space === 'object')
    throw new UseCaseError('bad-facts', `The normals of ${surface.name} are along the axes of the object already`, 'normal');
  return { surface, specimen, slots: wearing.map((s) => s.slot), uvSet: wearing[0].uvSet };
}

/** The surface with its normal map turned; its other maps stay. @throws UseCaseError for a mesh that it does not lie on */
export async function turnedSurface(
  ports: Ports,
  { surface, specimen, slots, uvSet }: TurnPlan,
  to: NormalSpace,
  report: Report,
): Promise<SurfaceDocument> {
  const entry = surface.maps.normal;
  if (!entry) throw new UseCaseError('missing-map', `${surface.name} has no normal map to be turned`, 'normal');
  report(0, 'reading the mesh');
  const { model } = await readGltf(await ports.blobs.get(specimen.model));
  const mesh = slotMesh(model, specimen, specimen.name, uvSet, slots);
  report(0.3, entry.fileName);
  const stored = await ports.codec.decode(await ports.blobs.get(entry.blob), 'data');
  // Green of an object's axes is its y; of tangents it may have been turned over.
  const image: Image = to === 'object' && entry.normalDirection === 'y-' ? flipGreen(stored) : stored;
  let turned: Image;
  try {
    const made = turnedNormals(image, mesh, mesh.texcoord, to);
    turned = made.depth === 32 ? convertDepth(made, 16) : made;
  } catch (error) {
    if (error instanceof RangeError) throw new UseCaseError('unreadable-map', `${entry.fileName}: ${error.message}`, entry.fileName);
    throw error;
  }
  report(0.7, 'normal');
  const kept = await keepImage(ports, 'normal', turned, entry.fileName.replace(/(\.[^.]*)?$/, to === 'tangent' ? '_tangent.png' : '_object.png'));
  const { settings, overrides } = entry;
  const normal = {
    ...kept,
    ...(settings ? { settings } : {}),
    ...(overrides ? { overrides } : {}),
    ...(to === 'object' ? { space: 'object' as const } : {}),
  };
  const note =
    to === 'tangent' ? `Normals turned from the axes of ${specimen.name} into its tangents.` : `Normals turned along the axes of ${specimen.name}.`;
  return { ...surface, maps: { ...surface.maps, normal }, notes: [...surface.notes, note].slice(-100) };
}
