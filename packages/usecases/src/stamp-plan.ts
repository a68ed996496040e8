// What is to be stamped, and why it cannot be: known before anything is pressed.
import type { AssetDocument, PressedStamp, SpecimenDocument, Stamped, SurfaceDocument } from '@pebble/core';
import { MAX_STAMPS, inOrder, isSpecimenName, mapsMark } from '@pebble/core';
import { UseCaseError } from './errors';

/** What slots of an asset wear, stamped: the surface as it becomes, and the slots that it lies on. */
export interface StampPlan {
  specimen: SpecimenDocument;
  /** What is below the stamps. */
  base: { id: string; body: SurfaceDocument };
  /** What the maps are kept in; null for a surface of its own, which the slots wear from then on. */
  into: SurfaceDocument | null;
  stamped: Stamped;
}

/** The surfaces that a stamped one is made of, by id. */
export const stampedOf = ({ on, stamps }: Pick<Stamped, 'on' | 'stamps'>): string[] => [
  ...new Set([on, ...Object.values(stamps).map((s) => s.surface)]),
];

/** Keys of stamps whose surface is there no more: they stay in the maps until something is pressed anew, which wants them gone. */
export const orphansOf = (stamped: Stamped | undefined, find: (id: string) => SurfaceDocument | undefined): string[] =>
  Object.entries(stamped?.stamps ?? {}).flatMap(([key, s]) => (find(s.surface) ? [] : [key]));

/**
 * What is to be stamped: slots of an asset that wear a finished surface, with stamps added and taken away.
 * @throws UseCaseError that says why nothing can be pressed there
 */
export function planStamps(
  asset: AssetDocument,
  { surface, add, remove }: { surface: string; add: Readonly<Record<string, PressedStamp>>; remove: readonly string[] },
  find: { surface(id: string): SurfaceDocument | undefined; specimen(id: string): SpecimenDocument | undefined },
): StampPlan {
  const worn = find.surface(surface);
  if (!worn) throw new UseCaseError('missing-surface', 'What these slots wore was deleted. Let them wear a finished surface again');
  const wearing = inOrder(asset.slots).filter((s) => s.blend === surface);
  const first = wearing.at(0);
  if (!first) throw new UseCaseError('missing-slot', `No slot of ${asset.name} wears ${worn.name} any more`);
  const specimen = find.specimen(asset.specimen);
  if (isSpecimenName(asset.specimen) || !specimen)
    throw new UseCaseError(
      'no-coordinates',
      `${asset.name} stands on a specimen that has no texture of its own. Stamps want a mesh that was brought in`,
    );
  const repeated = wearing.find((s) => s.size !== 1 || s.uvSet !== first.uvSet);
  if (repeated)
    throw new UseCaseError(
      'no-coordinates',
      `${worn.name} lies on ${repeated.slot} ${repeated.size === 1 ? 'by another set of coordinates' : `${repeated.size} times its size`}: stamps want one place a texel. Set its size to 1, by one set`,
      repeated.slot,
    );
  const before = worn.stamped;
  const on = before?.on ?? surface;
  const base = find.surface(on);
  if (!base) throw new UseCaseError('missing-surface', `The surface below the stamps of ${worn.name} was deleted, so nothing can be pressed anew`);
  const stamps = { ...before?.stamps, ...add };
  for (const key of remove) delete stamps[key];
  if (Object.keys(stamps).length > MAX_STAMPS)
    throw new UseCaseError('too-large', `${worn.name} would hold ${Object.keys(stamps).length} stamps; one holds ${MAX_STAMPS} at most`);
  const made = { stamps: Object.keys(stamps).length, of: {} as Record<string, string> };
  for (const id of stampedOf({ on, stamps })) {
    const of = find.surface(id);
    if (!of) throw new UseCaseError('missing-surface', 'A surface that is stamped was deleted. Take its stamps away first');
    made.of[id] = mapsMark(of);
  }
  return {
    specimen,
    base: { id: on, body: base },
    into: before ? worn : null,
    stamped: { on, specimen: asset.specimen, slots: wearing.map((s) => s.slot), uvSet: first.uvSet, stamps, made },
  };
}
