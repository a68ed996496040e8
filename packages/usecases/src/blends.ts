import type {
  AnyDocument,
  BlendDocument,
  MaterialRole,
  MapRole,
  BlendSurface,
  CuePicture,
  DocumentOf,
  Image,
  MapSet,
  Role,
  Cut,
  Material,
  MeshPlace,
  Section,
  SpecimenDocument,
  Stack,
  SurfaceDocument,
} from '@pebble/core';
import {
  MATERIAL_ROLES,
  BlendMaterials,
  FLAT_GROUND,
  SectionCutter,
  SpreadGround,
  evaluateMaterial,
  extractChannel,
  factsWanted,
  flatDomain,
  makeMaterialMaps,
  makeStack,
  materialReads,
  readsOf,
  tallOf,
} from '@pebble/core';
import type { Ingredients } from './ingredients';
import { showsSmaller, sourcesOf } from './ingredients';
import { loadMaps } from './maps';
import type { LiesOn, MeshPorts } from './on-mesh';
import { evaluateAsFlat, liesOn, placedMesh } from './on-mesh';
import type { Ports, Report } from './ports';
import { UseCaseError } from './errors';

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
    Object.fromEntries(Object.entries(documents).filter(([, d]) => d.kind === kind)) as Record<string, DocumentOf<K>>;
  return { surfaces: of('surface'), blends: of('blend'), specimens: of('specimen') };
}

/** What compiling needs to know of a surface document. */
export const blendSurface = (surface: SurfaceDocument): BlendSurface => ({
  sizeM: surface.sizeM,
  tall: tallOf(surface.maps),
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

/** Where pixels come from. */
export interface PixelReader {
  /** Maps of a surface that are asked for and exist. */
  maps(surface: string, roles: readonly Role[]): Promise<MapSet>;
  /** A painted mask. */
  painted(blob: string): Promise<Image>;
}

/** Values of a picture as they are stored, whatever it was meant for: what a cue compares. */
const asStored = (image: Image): Image => ({ ...image, colourSpace: 'data' });

/** Everything that evaluating a material reads. Channels nobody reads are not loaded; heights always decide. @throws UseCaseError */
export async function gather(
  { slots: named }: Pick<Material, 'slots'>,
  reader: PixelReader,
  roles: readonly Role[],
  report: (done: number, surface: string) => void,
): Promise<Ingredients> {
  const wanted = [...new Set<Role>(['height', ...roles])];
  const slots: MapSet[] = [];
  for (const [i, id] of named.surfaces.entries()) {
    report(i / named.surfaces.length, id);
    slots.push(await reader.maps(id, wanted));
  }
  const picture = async (of: CuePicture): Promise<Image> => {
    if (of.kind === 'painted') return extractChannel(await reader.painted(of.picture), 0);
    const role = of.kind === 'map' ? of.role : 'id';
    const image = (await reader.maps(of.surface, [role]))[role];
    if (!image) throw new UseCaseError('missing-map', `The ${role} map that a coverage reads is gone. Choose another in its sentence`, of.surface);
    return asStored(of.kind === 'map' ? extractChannel(image, Math.min(of.channel, image.channels - 1)) : image);
  };
  return { slots, masks: await Promise.all(named.masks.map(picture)), ids: await Promise.all(named.ids.map(picture)) };
}

/** Pixels from the files of surface documents. */
export const readerOf = (ports: Ports, { surfaces }: Library): PixelReader => ({
  maps: (id, roles) => loadMaps(ports, surfaces[id], roles),
  painted: async (blob) => ports.codec.decode(await ports.blobs.get(blob), 'data'),
});

/** A blend that is to be evaluated over its square: its material, and the place of its specimen that it lies on. */
export interface Placed {
  material: Material;
  /** Null over the extent: a plane. */
  on: LiesOn | null;
}

/**
 * A blend as it lies on a place of its specimen, as far as what is asked of it depends on the mesh; else over the extent.
 * @param place the largest slot where it is left out; null over the extent, whatever it reads
 * @throws UseCaseError as `liesOn`
 */
export async function placeStack(
  ports: MeshPorts,
  stack: Stack,
  blend: BlendDocument,
  specimens: Readonly<Record<string, SpecimenDocument>>,
  roles: readonly MaterialRole[],
  place?: MeshPlace | null,
): Promise<Placed> {
  const materials = new BlendMaterials();
  const material = materials.of(stack);
  if (place === null || !materialReads(material, roles).mesh.size) return { material, on: null };
  const on = await liesOn(ports, blend, specimens, place);
  return { material: materials.of(stack, { standing: on.standing }), on };
}
/** The same of a blend document. @throws UseCaseError as `stackOf` too */
export const placeBlend = (ports: MeshPorts, blend: BlendDocument, library: Library, roles: readonly MaterialRole[], place?: MeshPlace | null) =>
  placeStack(ports, stackOf(blend, library), blend, library.specimens ?? {}, roles, place);

/** Evaluates a blend document to maps. */
export async function evaluateBlendDocument(
  ports: Ports,
  blend: BlendDocument,
  library: Library,
  { size, roles, place }: { size: number; roles: readonly MaterialRole[]; place?: MeshPlace | null },
  report: Report,
): Promise<Placed & { maps: Partial<Record<MaterialRole, Image>> }> {
  const wanted = MATERIAL_ROLES.filter((role) => role === 'height' || roles.includes(role));
  const placed = await placeBlend(ports, blend, library, roles, place);
  const from = await gather(placed.material, readerOf(ports, library), wanted, (done, id) => report(0.3 * done, library.surfaces[id].name));
  const step: Report = (done, note) => report(0.3 + 0.7 * done, note);
  return { ...placed, maps: await evaluateSquare(ports, placed, from, size, roles, step) };
}

/** The square of a blend as its flat view shows it: by threads where there are any, in this one where coverages look at the specimen. */
export async function evaluateSquare(
  { bands }: Pick<Ports, 'bands'>,
  { material, on }: Placed,
  from: Ingredients,
  size: number,
  roles: readonly MapRole[],
  report: Report,
): Promise<Partial<Record<MapRole, Image>>> {
  if (on) return evaluateAsFlat(material, from, on, size, roles, report);
  if (bands) return bands.evaluate(material, from, size, roles, report);
  const far = showsSmaller(material, from, size);
  const into = makeMaterialMaps(size, size, roles);
  evaluateMaterial(material, {
    domain: flatDomain(size, size, material.extentM),
    sources: sourcesOf(from, far),
    far,
    into,
    onTile: (done) => report(done, 'evaluating'),
  });
  return into;
}

/** Samples along a cut, as the section of the page has them: by the same ground, from the same texels. */
export function cutPlaced({ material, on }: Placed, from: Ingredients, cut: Cut, count: number): Section {
  const ground = on ? new SpreadGround(placedMesh(on, factsWanted(material.reads), () => undefined)) : FLAT_GROUND;
  return new SectionCutter().cut(material, cut, sourcesOf(from, readsOf(material.near.outputs).levels), count, ground);
}
