import type { Cue } from '../coverage';
import type { BlendDocument, Layer, LayerContent } from './blend';
import { DEFAULT_LOOK, DEFAULT_SEAM } from './blend';
import type { AnyDocument, DocumentKind } from './kinds';
import type { MasterDocument } from './master';

/** The version that is written of each kind of document. */
export const DOCUMENT_VERSIONS: Record<DocumentKind, number> = {
  project: 1,
  surface: 1,
  blend: 3,
  recipe: 1,
  target: 2,
  specimen: 1,
  asset: 1,
  master: 2,
};

type Loose = Record<string, unknown>;
const isLoose = (v: unknown): v is Loose => typeof v === 'object' && v !== null && !Array.isArray(v);
/** What is not as it should be stays as it is: the schema says where. */
const mapped = (collection: unknown, f: (item: Loose) => unknown): unknown =>
  isLoose(collection) ? Object.fromEntries(Object.entries(collection).map(([id, item]) => [id, isLoose(item) ? f(item) : item])) : collection;

/** Version 1 kept the numbers of all kinds in every cue. */
function cueOf1({ value, channel, sizeM, octaves, seed, ...common }: Loose): Cue {
  const own = { constant: { value }, vertexColour: { channel }, noise: { noise: 'fractal', sizeM, octaves, seed } }[String(common['kind'])];
  return { ...common, ...own } as unknown as Cue;
}

/** A blend of version 1 as one of version 2: what came since has the value that leaves the picture as it was. */
const blendOf1 = (body: Loose): Loose => ({
  ...body,
  version: 2,
  standsAtM: 0,
  groups: {},
  coverages: {},
  layers: mapped(body['layers'], (layer) => ({
    ...layer,
    constant: null,
    water: null,
    shared: null,
    group: null,
    mode: 'mix',
    untouched: {},
    look: { ...DEFAULT_LOOK },
    coverage: mapped(layer['coverage'], cueOf1),
    seam: isLoose(layer['seam']) ? { ...DEFAULT_SEAM, ...layer['seam'], detailM: 0, normal: 0 } : layer['seam'],
  })),
});

/** Version 2 had a field each for what a layer might show, and did not say of an id whether it is a blend's. */
function contentOf2({ surface, constant, water }: Loose, isBlend: (id: string) => boolean): LayerContent {
  if (isLoose(water)) return { kind: 'water', ...water } as LayerContent;
  if (isLoose(constant)) return { kind: 'constant', ...constant } as LayerContent;
  return typeof surface === 'string' && isBlend(surface) ? { kind: 'blend', blend: surface } : { kind: 'surface', surface: surface as string };
}
const blendOf2 = (body: Loose, isBlend: (id: string) => boolean): Loose => ({
  ...body,
  version: 3,
  layers: mapped(body['layers'], (layer) => {
    const { surface, constant, water, ...rest } = layer;
    return { ...rest, shows: contentOf2({ surface, constant, water }, isBlend) } as unknown as Layer;
  }),
});

/** What masters have since version 1, as it was before. */
const MASTER_SINCE_1 = { version: 2, drawn: 'solid', cut: 0.5, loopS: 4, variants: {} };

/** A target of version 1 did not know clear coats: they are kept as it keeps masks. */
const targetOf1 = (body: Loose): Loose => ({
  ...body,
  version: 2,
  formats: isLoose(body['formats']) ? { ...body['formats'], clearcoat: body['formats']['mask'] } : body['formats'],
});

/**
 * The same document in the version that is written today. What is current already, or not known, comes back as it is.
 * @param isBlend whether an id is that of a blend: documents before version 3 do not say
 */
export function upgraded(body: unknown, isBlend: (id: string) => boolean = () => false): AnyDocument {
  if (isLoose(body) && body['kind'] === 'master' && body['version'] === 1) return { ...body, ...MASTER_SINCE_1 } as unknown as MasterDocument;
  if (isLoose(body) && body['kind'] === 'target' && body['version'] === 1) return targetOf1(body) as unknown as AnyDocument;
  if (!isLoose(body) || body['kind'] !== 'blend') return body as AnyDocument;
  const second = body['version'] === 1 ? blendOf1(body) : body;
  return (second['version'] === 2 ? blendOf2(second, isBlend) : second) as unknown as BlendDocument;
}
