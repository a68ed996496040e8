import type {
  AnyDocument,
  BlendDocument,
  ChannelRoute,
  Image,
  MapSet,
  Material,
  MeshPlace,
  OutputChannel,
  RecipeDocument,
  RecipeFile,
  Role,
  SurfaceDocument,
} from '@pebble/core';
import {
  BLEND_ROLES,
  ROLE_FACTS,
  asRows,
  blendMaterial,
  channelCount,
  collisions,
  fillTemplate,
  inOrder,
  isMaterialRole,
  layoutCode,
  makeImage,
  makeStack,
  nameProblem,
  nameSlug,
  placeName,
  stackExtras,
  tallOf,
  templateProblem,
  tileOf,
  withNeutral,
} from '@pebble/core';
import type { ZipEntry } from '@pebble/formats';
import type { Library } from './blends';
import { blendSurfaces, evaluateBlendDocument, libraryOf } from './blends';
import { openMaps, rowsAsRole } from './maps';
import { picturePlaces, tileNote } from './places';
import type { FileWay, Ports, Report } from './ports';
import { UseCaseError } from './errors';
import type { InTarget, OpenMaps } from './packed-file';
import { encodePacked, readBeside, rolesIn, wayOf, wayProblem } from './packed-file';

/** One file that a recipe will write. */
export interface PlannedFile {
  /** Source and file of the recipe, and the place where there are several: `sourceId/fileId/place`. */
  key: string;
  sourceId: string;
  fileId: string;
  name: string;
  width: number;
  height: number;
  depth: 8 | 16;
  dither: boolean;
  channels: 1 | 3 | 4;
  /** Bytes before compression: the most that the PNG can be, give or take its header. */
  rawBytes: number;
  /** The kind of file, and how it keeps its texels. */
  way: FileWay;
  /** The place of the mesh that it shows; null over the extent. */
  place: MeshPlace | null;
  /** What it cannot hold, before it is made. */
  note: string | null;
  /** What is wrong with it; such a file is not written. */
  problem: string | null;
}

type Documents = Readonly<Record<string, AnyDocument>>;

export const rolesOf = (file: RecipeFile): Role[] => rolesIn(file.channels);

/** Roles that a surface or blend can give: of a blend those that its layers bring beside the usual six. */
export function availableRoles(source: AnyDocument, documents: Documents): readonly Role[] {
  if (source.kind === 'surface') return Object.keys(source.maps) as Role[];
  if (source.kind !== 'blend') return [];
  const { surfaces, blends } = libraryOf(documents);
  return [...BLEND_ROLES, ...stackExtras(makeStack(source, blendSurfaces(surfaces), blends))];
}

const emptyBlend = (source: AnyDocument): string | null =>
  source.kind === 'blend' && !Object.values(source.layers).some((l) => l.on) ? `${source.name} has no layer that is switched on` : null;

/** A file of a recipe, of one of its sources, where it is shown. */
interface Wanted {
  sourceId: string;
  source: SurfaceDocument | BlendDocument;
  fileId: string;
  file: RecipeFile;
  place: MeshPlace | null;
  note: string | null;
  /** One of several places: its name is part of the file's. */
  several: boolean;
}

/** Sources of a recipe with the places that each of its files shows. */
function wantedFiles(recipe: RecipeDocument, documents: Documents): Wanted[] {
  const library = libraryOf(documents);
  const known = blendSurfaces(library.surfaces);
  return inOrder(recipe.sources).flatMap(({ id: sourceId }) => {
    const source = documents[sourceId];
    if (source?.kind !== 'surface' && source?.kind !== 'blend') return [];
    const stack = source.kind === 'blend' ? makeStack(source, known, library.blends) : null;
    const material: Material | null = stack?.layers.length ? blendMaterial(stack) : null;
    return inOrder(recipe.files).flatMap(({ id: fileId, ...file }) => {
      const roles = rolesOf(file).filter(isMaterialRole);
      const places = material && source.kind === 'blend' ? picturePlaces(material, roles, source, library.specimens ?? {}) : [null];
      return places.map((place) => ({
        sourceId,
        source,
        fileId,
        file,
        place,
        note: material && tileNote(material, roles, place),
        several: places.length > 1,
      }));
    });
  });
}

/** Pixels of what a source is packed as: its longer side is as long as the recipe says, and it keeps its shape. */
export function packedSize(source: AnyDocument, side: number): { width: number; height: number } {
  const tall = source.kind === 'surface' ? tallOf(source.maps) : 1;
  const of = (share: number) => Math.max(1, Math.round(side * Math.min(1, share)));
  return { width: of(1 / tall), height: of(tall) };
}

/** The target of the project, or one of its own; null where there is none. */
export function targetAmong(documents: Documents, id?: string): InTarget | null {
  const project = Object.values(documents).find((d) => d.kind === 'project');
  const wanted = id ?? (project?.kind === 'project' ? project.target : '');
  const body = documents[wanted];
  return body?.kind === 'target' ? { id: wanted, body } : null;
}

/** What is packed: how it is called, its document where it has one, and the place of a mesh that it shows. */
export interface PackedThing {
  called: string;
  id?: string;
  place?: MeshPlace | null;
}

/** The asset and the slot that something is packed for; nothing where none or several wear it. */
function wearerOf({ id, place }: PackedThing, documents: Documents): { asset: string; slot: string } {
  const worn = Object.values(documents).flatMap((d) =>
    d.kind === 'asset' ? Object.values(d.slots).flatMap((s) => (s.blend === id ? [{ asset: d.name, slot: s.slot }] : [])) : [],
  );
  const only = (names: readonly string[]) => (new Set(names).size === 1 ? names[0] : '');
  return { asset: only(worn.map((w) => w.asset)), slot: place?.slot ?? only(worn.map((w) => w.slot)) };
}

/** How a file of a recipe is called. @param documents the project and assets among them, where their names are wanted */
export function packedName(
  recipe: RecipeDocument,
  file: RecipeFile,
  thing: PackedThing,
  { width, height }: { width: number; height: number },
  documents: Documents,
  target = targetAmong(documents),
): string {
  const { called } = thing;
  const roles = [...new Set(rolesOf(file))];
  const slug = (text: string) => text && nameSlug(text, recipe.case);
  const { asset, slot } = wearerOf(thing, documents);
  const code = layoutCode(file.channels, recipe.codes);
  const project = Object.values(documents).find((d) => d.kind === 'project');
  const values = {
    project: slug(project?.name ?? ''),
    set: slug(called),
    asset: slug(asset),
    slot: slug(slot),
    tile: String(tileOf(called) ?? ''),
    file: slug(file.label),
    map: roles.length === 1 ? slug(ROLE_FACTS[roles[0]].label) : code,
    code,
    size: String(recipe.size),
    width: String(width),
    height: String(height),
    target: slug(target?.body.name ?? (project?.kind === 'project' ? project.target : '')),
    version: recipe.edition ?? 'v1',
  };
  return `${fillTemplate(recipe.template, values)}.${file.as ?? 'png'}`;
}

/** Everything a recipe will write, with what is wrong, before anything is started. @param target whose blocks and limits count */
export function planRecipe(recipe: RecipeDocument, documents: Documents, target = targetAmong(documents)): PlannedFile[] {
  const badTemplate = templateProblem(recipe.template);
  const have = new Map(Object.keys(recipe.sources).flatMap((id) => (documents[id] ? [[id, availableRoles(documents[id], documents)] as const] : [])));
  const files = wantedFiles(recipe, documents).map(({ sourceId, source, fileId, file, place, note, several }): PlannedFile => {
    const called = several && place ? `${source.name} ${placeName(place)}` : source.name;

    const asked = rolesOf(file);
    const missing = asked.filter((role) => !have.get(sourceId)?.includes(role));
    const labels = missing.map((r) => ROLE_FACTS[r].label.toLowerCase()).join(', ');
    const channels = channelCount(file.channels);
    const { width, height } = packedSize(source, recipe.size);
    const name = packedName(recipe, file, { called, id: sourceId, place }, { width, height }, documents, target);
    const way = wayOf(file, source, { width, height }, target);
    return {
      key: [sourceId, fileId, ...(several && place ? [placeName(place)] : [])].join('/'),
      sourceId,
      fileId,
      name,
      width,
      height,
      depth: file.depth,
      dither: file.dither ?? false,
      channels,
      rawBytes: (width * height * channels * file.depth) / 8,
      way,
      place,
      note: note ?? (missing.length ? `${source.name} has no ${labels} map: the neutral value stands there` : null),
      problem:
        badTemplate ??
        emptyBlend(source) ??
        nameProblem(name) ??
        wayProblem(file, way, { width, height }) ??
        (Object.keys(file.channels).length ? null : 'no channel of this file has a source') ??
        (asked.length && missing.length === asked.length ? `${source.name} has no ${labels} map, and nothing else is routed` : null),
    };
  });
  const twice = new Set(collisions(files.map((f) => f.name)));
  return files.map((f) =>
    f.problem
      ? f
      : { ...f, problem: twice.has(f.name.toLowerCase()) ? `two files would be called ${f.name}. Add {set} or {file} to the name` : null },
  );
}

/**
 * The files of a recipe as entries of a zip, made one after the other, one source in memory at a time.
 * @throws UseCaseError naming every file with a problem, before the first is made.
 */
export async function* packRecipe(
  ports: Ports,
  recipe: RecipeDocument,
  documents: Documents,
  exportNormal: 'y+' | 'y-',
  skip: ReadonlySet<string>,
  report: Report,
): AsyncGenerator<ZipEntry> {
  const planned = planRecipe(recipe, documents).filter((f) => !skip.has(f.key));
  const bad = planned.filter((f) => f.problem);
  if (bad.length) throw new UseCaseError('bad-plan', bad.map((f) => `${f.name}: ${f.problem}`).join('; '), bad[0].name);
  if (!planned.length) throw new UseCaseError('nothing-to-pack', 'There is no file to pack. Add a surface or blend and route a channel');
  const library = libraryOf(documents);
  // One source, as one place shows it, in memory at a time.
  const shownBy = ({ sourceId, place }: PlannedFile) => JSON.stringify([sourceId, place]);
  let made = 0;
  for (const shown of new Set(planned.map(shownBy))) {
    const files = planned.filter((f) => shownBy(f) === shown);
    const [{ sourceId, place }] = files;
    const rolesFor = (f: PlannedFile) => [...rolesOf(recipe.files[f.fileId]), ...readBeside(recipe.files[f.fileId].channels, f.way)];
    const roles = [...new Set(files.flatMap(rolesFor))];
    const step: Report = (done, note) => report((made + done * 0.5) / planned.length, note);
    const open = await openSource(ports, documents[sourceId] as SurfaceDocument | BlendDocument, library, { size: recipe.size, roles, place }, step);
    for (const file of files) {
      report((made + 0.5) / planned.length, file.name);
      const have = availableRoles(documents[sourceId], documents);
      const channels = withNeutral(recipe.files[file.fileId].channels, (role) => have.includes(role));
      const content = async () => inDirection(await open(rolesFor(file)), exportNormal);
      yield { name: file.name, content: () => encodePacked(ports, channels, content, file, file.way) };
      made++;
    }
  }
  report(1, 'done');
}

/** Normals leave as the project wants them; inside they are Y+. */
export const inDirection = (maps: OpenMaps, direction: 'y+' | 'y-'): OpenMaps =>
  maps.normal ? { ...maps, normal: rowsAsRole(maps.normal, 'normal', direction) } : maps;

/** How to open maps of a source: a surface's stream from where they are kept, a blend's are worked out once for all files. */
export async function openSource(
  ports: Ports,
  source: SurfaceDocument | BlendDocument,
  library: Library,
  { size, roles, place }: { size: number; roles: readonly Role[]; place: MeshPlace | null },
  report: Report,
): Promise<(roles: readonly Role[]) => Promise<OpenMaps>> {
  if (source.kind === 'surface') return (wanted) => openMaps(ports, source, wanted);
  const maps: MapSet = (await evaluateBlendDocument(ports, source, library, { size, roles: roles.filter(isMaterialRole), place }, report)).maps;
  return async (wanted) =>
    Object.fromEntries(Object.entries(maps).flatMap(([role, map]) => (wanted.includes(role as Role) ? [[role, asRows(map)]] : [])));
}

/**
 * The inverse of packing: one image a role. Inverted channels are turned back; channels fed by constants are dropped;
 * several channels of one role (`baseColor.r`, `baseColor.g` …) come together again in one image.
 * @throws UseCaseError when the layout names a channel that the file does not have.
 */
export function unpackMaps(packed: Image, channels: RecipeFile['channels']): MapSet {
  const maps: MapSet = {};
  const full = packed.depth === 8 ? 255 : 65535;
  const routes = Object.entries(channels).filter((entry): entry is [OutputChannel, ChannelRoute & { from: 'map' }] => entry[1].from === 'map');
  for (const role of new Set(routes.map(([, r]) => r.role))) {
    const own = routes.filter(([, r]) => r.role === role);
    const last = Math.max(...own.map(([, r]) => r.channel));
    const out = makeImage({ width: packed.width, height: packed.height, channels: own.length === 1 ? 1 : last + 1, depth: packed.depth });
    for (const [name, route] of own) {
      const from = 'rgba'.indexOf(name);
      if (from >= packed.channels)
        throw new UseCaseError('missing-channel', `The file has ${packed.channels} channels: there is no ${name} for ${role}`);
      const to = own.length === 1 ? 0 : route.channel;
      for (let i = to, j = from; j < packed.data.length; i += out.channels, j += packed.channels)
        out.data[i] = route.invert ? full - packed.data[j] : packed.data[j];
    }
    maps[role] = out;
  }
  return maps;
}
