// Files that come together: which are meshes, which belong to them, which are pictures.
import { isCompanionName, isMeshName } from '@pebble/formats/mesh-names';

interface Sent {
  blob: string | null;
  fileName: string;
}
export interface NamedBlob {
  blob: string;
  fileName: string;
}

/** Files that were kept, by name and bytes alone. */
export const namedBlobs = (files: readonly Sent[]): NamedBlob[] => files.flatMap(({ blob, fileName }) => (blob ? [{ blob, fileName }] : []));

/** Meshes among sent files with whatever may belong to them, and the files that are left to be looked at. */
export function meshesAmong<T extends Sent>(files: readonly T[]): { request: { meshes: NamedBlob[]; companions: NamedBlob[] }; others: T[] } {
  const rest = files.filter((f) => !isMeshName(f.fileName));
  return {
    request: { meshes: namedBlobs(files.filter((f) => isMeshName(f.fileName))), companions: namedBlobs(rest) },
    others: rest.filter((f) => !isCompanionName(f.fileName)),
  };
}

/** Pictures that meshes carried before the others; one that was sent beside its mesh is known by its use and comes once. */
export const withCarried = <T extends Sent>(carried: readonly T[], others: readonly T[]): T[] => [
  ...carried,
  ...others.filter((f) => !carried.some((c) => c.blob && c.blob === f.blob)),
];
