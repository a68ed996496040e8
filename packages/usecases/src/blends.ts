import type {
  AnyDocument,
  BlendDocument,
  BlendRole,
  BlendSurface,
  CuePicture,
  Image,
  MapSet,
  Role,
  SpecimenDocument,
  Stack,
  SurfaceDocument,
} from '@pebble/core';
import { BLEND_ROLES, evaluateBlend, extractChannel, flatDomain, makeBlendMaps, makeStack, readsGround } from '@pebble/core';
import type { Ingredients } from './ingredients';
import { sourcesOf, wantsMips } from './ingredients';
import { loadMaps } from './maps';
import type { LiesOn } from './on-mesh';
import { evaluateAsFlat, liesOn } from './on-mesh';
import type { Ports, Report } from './ports';
import { UseCaseError } from './ports';

/** Documents that a blend may show. */
export interface Library {
  surfaces: Readonly<Record<string, SurfaceDocument>>;
  blends?: Readonly<Record<string, BlendDocument>>;
  /** Meshes that were brought in. */
  specimens?: Readonly<Record<string, SpecimenDocument>>;
}

/** The surfaces and blends among documents. */
export function libraryOf(documents: Readonly<Record<string, AnyDocument>>): Library {
  const of = <K extends AnyDocument['kind']>(kind: K) =>
    Object.fromEntries(Object.entries(documents).filter(([, d]) => d.kind === kind)) as Record<string, Extract<AnyDocument, { kind: K }>>;
  return { surfaces: of('surface'), blends: of('blend'), specimens: of('specimen') };
}

/** What compiling needs to know of a surface document. */
export const blendSurface = (surface: SurfaceDocument): BlendSurface => ({
  sizeM: surface.sizeM,
  reliefM: surface.reliefM,
  mid: surface.mid,
  roles: new Set(Object.keys(surface.maps) as Role[]),
});
export const blendSurfaces = (surfaces: Readonly<Record<string, SurfaceDocument>>): Record<string, BlendSurface> =>
  Object.fromEntries(Object.entries(surfaces).map(([id, s]) => [id, blendSurface(s)]));

/** The stack of a blend that is to be evaluated for good. @throws UseCaseError for what would be shown otherwise than meant, or no layer takes part */
export function stackOf(blend: BlendDocument, { surfaces, blends }: Library): Stack {
  const stack = makeStack(blend, blendSurfaces(surfaces), blends);
  const problem = stack.problems.find((p) => p.code !== 'no-height');
  if (problem) throw new UseCaseError(problem.code, `${blend.name}: ${problem.message}`, blend.layers[problem.layer]?.name);
  if (!stack.layers.length) throw new UseCaseError('empty-blend', `${blend.name} has no layer that is switched on. Add one first`);
  return stack;
}

/** Ids of the surfaces that a document's pixels come from. */
export function surfacesBehind(source: SurfaceDocument | BlendDocument, { surfaces, blends }: Library): string[] {
  if (source.kind === 'surface') return [];
  const { slots, masks, ids } = makeStack(source, blendSurfaces(surfaces), blends);
  return [...new Set([...slots, ...[...masks, ...ids].flatMap((p) => (p.kind === 'painted' ? [] : [p.surface]))])];
}

/**
 * Evaluates a stack to maps of `size` × `size`, in this thread. With `on`, coverages see the mesh as the flat view shows
 * it; without, a plane.
 */
export function evaluateStack(
  stack: Stack,
  from: Ingredients,
  size: number,
  roles: readonly BlendRole[],
  report: Report,
  on: LiesOn | null = null,
): Partial<Record<BlendRole, Image>> {
  if (on && readsGround(stack).any) return evaluateAsFlat(stack, from, on, size, roles, report);
  const far = wantsMips(stack, from.slots, size);
  const into = makeBlendMaps(size, size, roles);
  evaluateBlend(stack, {
    domain: flatDomain(size, size, stack.extentM),
    sources: sourcesOf(from, far),
    far,
    into,
    onTile: (done) => report(done, 'evaluating'),
  });
  return into;
}

/** Where pixels come from. */
export interface PixelReader {
  /** Maps of a surface that are asked for and exist. */
  maps(surface: string, roles: readonly Role[]): Promise<MapSet>;
  /** A painted mask. */
  painted(blob: string): Promise<Image>;
}

/** Values of a picture as they are stored, whatever it was meant for: what a cue compares. */
const asStored = (image: Image): Image => ({ ...image, colourSpace: 'data' });

/** Everything that evaluating a stack reads. Channels nobody reads are not loaded; heights always decide. @throws UseCaseError */
export async function gather(
  stack: Stack,
  reader: PixelReader,
  roles: readonly Role[],
  report: (done: number, surface: string) => void,
): Promise<Ingredients> {
  const wanted = [...new Set<Role>(['height', ...roles])];
  const slots: MapSet[] = [];
  for (const [i, id] of stack.slots.entries()) {
    report(i / stack.slots.length, id);
    slots.push(await reader.maps(id, wanted));
  }
  const picture = async (of: CuePicture): Promise<Image> => {
    if (of.kind === 'painted') return extractChannel(await reader.painted(of.picture), 0);
    const role = of.kind === 'map' ? of.role : 'id';
    const image = (await reader.maps(of.surface, [role]))[role];
    if (!image) throw new UseCaseError('missing-map', `The ${role} map that a coverage reads is gone. Choose another in its sentence`, of.surface);
    return asStored(of.kind === 'map' ? extractChannel(image, Math.min(of.channel, image.channels - 1)) : image);
  };
  return { slots, masks: await Promise.all(stack.masks.map(picture)), ids: await Promise.all(stack.ids.map(picture)) };
}

/** Pixels from the files of surface documents. */
export const readerOf = (ports: Ports, { surfaces }: Library): PixelReader => ({
  maps: (id, roles) => loadMaps(ports, surfaces[id], roles),
  painted: async (blob) => ports.codec.decode(await ports.blobs.get(blob), 'data'),
});

/** Evaluates a blend document to maps. */
export async function evaluateBlendDocument(
  ports: Ports,
  blend: BlendDocument,
  library: Library,
  size: number,
  roles: readonly BlendRole[],
  report: Report,
): Promise<{ stack: Stack; maps: Partial<Record<BlendRole, Image>> }> {
  const stack = stackOf(blend, library);
  const wanted = BLEND_ROLES.filter((role) => role === 'height' || roles.includes(role));
  const from = await gather(stack, readerOf(ports, library), wanted, (done, id) => report(0.3 * done, library.surfaces[id].name));
  const step: Report = (done, note) => report(0.3 + 0.7 * done, note);
  return { stack, maps: await evaluateSquare(ports, stack, from, blend, library, size, roles, step) };
}

/** The square of a blend as its flat view shows it: by threads, or in this one where coverages look at the specimen. */
export async function evaluateSquare(
  ports: Ports,
  stack: Stack,
  from: Ingredients,
  blend: BlendDocument,
  library: Library,
  size: number,
  roles: readonly BlendRole[],
  report: Report,
): Promise<Partial<Record<BlendRole, Image>>> {
  const on = readsGround(stack).any ? await liesOn(ports, blend, library.specimens ?? {}) : null;
  return ports.bands && !on ? ports.bands.evaluate(stack, from, size, roles, report) : evaluateStack(stack, from, size, roles, report, on);
}
