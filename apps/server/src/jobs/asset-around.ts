import type { AnyDocument, AssetDocument, SpecimenDocument, SurfaceDocument } from '@pebble/core';
import type { DocumentStore } from '@pebble/usecases';

/** An asset with everything that it and others name, as it is now; null where the asset is gone. */
export async function assetAround(
  documents: DocumentStore,
  id: string,
  others: readonly string[],
): Promise<{ asset: AssetDocument; surface(id: string): SurfaceDocument | undefined; specimen(id: string): SpecimenDocument | undefined } | null> {
  const all: Readonly<Record<string, AnyDocument>> = await documents.reach([id, ...others]);
  const of = <K extends AnyDocument['kind']>(kind: K, key: string) => {
    const body = all[key] as AnyDocument | undefined;
    return body?.kind === kind ? (body as Extract<AnyDocument, { kind: K }>) : undefined;
  };
  const asset = of('asset', id);
  return asset ? { asset, surface: (key) => of('surface', key), specimen: (key) => of('specimen', key) } : null;
}
