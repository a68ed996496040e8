import type { BakeRequest } from '@pebble/contracts';
import { BAKE_SCHEMA } from '@pebble/contracts';
import type { AnyDocument, AssetSlot } from '@pebble/core';
import { UseCaseError, libraryOf, stackOf } from '@pebble/usecases';
import { surfaceOfBlend } from '@pebble/usecases/surface-of-blend';
import { randomUUID } from 'node:crypto';
import { ServiceError, notFound } from '../../store/errors';
import type { JobDefinition } from '../kind';

/** The specimen that a blend is baked onto, and the slot of an asset; null when the asset, or this slot of it, is not there. */
function ontoOf(
  { asset: id, slot: key, specimen }: BakeRequest,
  all: Readonly<Record<string, AnyDocument>>,
): { onto?: string; slot?: AssetSlot } | null {
  if (id === undefined) return { onto: specimen };
  const asset = all[id];
  const slot = asset?.kind === 'asset' ? asset.slots[key ?? ''] : undefined;
  return asset?.kind === 'asset' && slot ? { onto: asset.specimen, slot } : null;
}
/** Everything that is named: the blend, and what it is baked onto. */
const named = (document: string, { asset, specimen }: BakeRequest): string[] => [
  document,
  ...(asset ? [asset] : []),
  ...(specimen ? [specimen] : []),
];

export const bake: JobDefinition<'bake'> = {
  ask: {
    summary: 'Make a surface of a blend: over its square, or into the texture of a specimen',
    body: BAKE_SCHEMA,
    async order(request, document, { documents }) {
      const all = await documents.reach(named(document, request));
      const blend = all[document];
      if (blend?.kind !== 'blend') throw notFound('This blend');
      const where = ontoOf(request, all);
      if (!where) throw new ServiceError('no-slot', 'This asset, or this slot of it, does not exist, or no longer');
      if (where.onto !== undefined && all[where.onto]?.kind !== 'specimen')
        throw new ServiceError('no-specimen', 'Only a specimen that was brought in has a texture of its own. Choose one, or bake the square');
      // What cannot be shown is said now, not by a job that fails.
      stackOf(blend, libraryOf(all));
      return { label: `Make a surface of ${blend.name}`, payload: { ...request, document } };
    },
  },
  async run({ ports, report, documents }, { document, ...request }) {
    const all = await documents.reach(named(document, request));
    const blend = all[document];
    if (blend?.kind !== 'blend') throw new UseCaseError('missing-blend', 'This blend was deleted before it could be baked');
    const where = ontoOf(request, all);
    if (!where) throw new UseCaseError('missing-slot', 'This slot of the asset was deleted before it could be baked');
    const id = randomUUID();
    const { size, place } = request;
    const body = await surfaceOfBlend(ports, blend, libraryOf(all), { size, place, ...where }, report);
    return { create: [{ id, body }], result: { surface: id } };
  },
};
