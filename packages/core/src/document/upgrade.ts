import type { Cue } from '../coverage';
import type { BlendDocument, Layer } from './blend';
import { DEFAULT_LOOK, DEFAULT_SEAM } from './blend';
import type { AnyDocument, DocumentKind } from './kinds';

/** The version that is written of each kind of document. */
export const DOCUMENT_VERSIONS: Record<DocumentKind, number> = { project: 1, surface: 1, blend: 2, recipe: 1, target: 1, specimen: 1, asset: 1 };

type Loose = Record<string, unknown>;
const mapped = <T>(collection: unknown, f: (item: Loose) => T): Record<string, T> =>
  Object.fromEntries(Object.entries((collection ?? {}) as Record<string, Loose>).map(([id, item]) => [id, f(item)]));

/** Version 1 kept the numbers of all kinds in every cue. */
function cueOf1({ value, channel, sizeM, octaves, seed, ...common }: Loose): Cue {
  const own = { constant: { value }, vertexColour: { channel }, noise: { noise: 'fractal', sizeM, octaves, seed } }[String(common['kind'])];
  return { ...common, ...own } as unknown as Cue;
}

/** A blend of version 1 as one of version 2: what came since has the value that leaves the picture as it was. */
const blendOf1 = (body: Loose): BlendDocument =>
  ({
    ...body,
    version: 2,
    standsAtM: 0,
    groups: {},
    coverages: {},
    layers: mapped(
      body['layers'],
      (layer) =>
        ({
          ...layer,
          constant: null,
          water: null,
          shared: null,
          group: null,
          mode: 'mix',
          untouched: {},
          look: { ...DEFAULT_LOOK },
          coverage: mapped(layer['coverage'], cueOf1),
          seam: { ...DEFAULT_SEAM, ...(layer['seam'] as object), detailM: 0, normal: 0 },
        }) as unknown as Layer,
    ),
  }) as unknown as BlendDocument;

/** The same document in the version that is written today. What is current already, or not known, comes back as it is. */
export function upgraded(body: unknown): AnyDocument {
  const { kind, version } = (body ?? {}) as { kind?: unknown; version?: unknown };
  return kind === 'blend' && version === 1 ? blendOf1(body as Loose) : (body as AnyDocument);
}
