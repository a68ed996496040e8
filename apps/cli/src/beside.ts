import type { AnyDocument, BlendDocument, DocumentKind, DocumentOf, Image, MapSet, MasterDocument, Role, SurfaceFacts } from '@pebble/core';
import { mapsUsed, mastersIn, pictureOf, upgraded } from '@pebble/core';
import { documentProblem } from '@pebble/contracts';
import { nodeCodec } from '@pebble/formats/node';
import type { PixelReader } from '@pebble/usecases';
import { findMaps, forBlending, readFacts, readMaps } from '@pebble/usecases/folder';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { UsageError } from './options';

/** A document of any kind from a file. @param isBlend whether an id that it names is a blend's */
export async function readAnyDocument(file: string, isBlend: (id: string) => boolean): Promise<AnyDocument> {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new Error(`${file} cannot be read`);
  });
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch (error) {
    throw new Error(`${file} is not JSON: ${(error as Error).message}`);
  }
  const body = upgraded(given, isBlend) as AnyDocument;
  const problem = documentProblem(body);
  if (problem) throw new Error(`${file}: ${problem}`);
  return body;
}

/** A document from a file. @param places of things that were named by an option: of another blend the id is the name of its file */
export async function readDocument<K extends DocumentKind>(
  file: string,
  kind: K,
  places: ReadonlyMap<string, string> = new Map(),
): Promise<DocumentOf<K>> {
  const body = await readAnyDocument(file, (id) => (places.get(id) ?? id).endsWith('.json'));
  if (body.kind !== kind) throw new Error(`${file} is a ${body.kind}, not a ${kind}`);
  return body as DocumentOf<K>;
}

/** `NAME=PATH` pairs of a repeated option. */
export function pairs(many: string[], option: string): Map<string, string> {
  return new Map(
    many.map((text) => {
      const [, name, value] = /^([^=]+)=(.+)$/.exec(text) ?? [];
      if (!name) throw new UsageError(`--${option} takes NAME=PATH, not "${text}"`);
      return [name, value];
    }),
  );
}

/** What documents name, found beside them: a surface is the folder of its id, or the one that was given for it; `NAME.json` is another blend. */
export class Beside {
  readonly blends: Record<string, BlendDocument> = {};
  readonly masters: Record<string, MasterDocument> = {};
  readonly facts: Record<string, SurfaceFacts & { roles: Set<Role> }> = {};
  private readonly folders = new Map<string, string>();

  private constructor(
    private readonly base: string,
    private readonly given: ReadonlyMap<string, string>,
    private readonly painted: ReadonlyMap<string, string>,
  ) {}

  /** @param surfaces, painted `NAME=PATH` as they were typed */
  static at(file: string, { cwd, surfaces, painted }: { cwd: string; surfaces: string[]; painted: string[] }): Beside {
    const absolute = (m: Map<string, string>) => new Map([...m].map(([k, v]) => [k, path.resolve(cwd, v)]));
    return new Beside(path.dirname(file), absolute(pairs(surfaces, 'surface')), absolute(pairs(painted, 'painted')));
  }

  private placeOf = (id: string): string => this.given.get(id) ?? path.resolve(this.base, id);

  async blend(id: string): Promise<void> {
    if (this.blends[id]) return;
    this.blends[id] = await readDocument(this.placeOf(id), 'blend', this.given);
    await this.within(this.blends[id]);
  }

  /** Everything that a blend shows. */
  async within(blend: BlendDocument): Promise<void> {
    const layers = Object.values(blend.layers).map((layer) => layer.shows);
    for (const shows of layers) if (shows.kind === 'blend') await this.blend(shows.blend);
    const coverages = [...Object.values(blend.layers), ...Object.values(blend.groups), ...Object.values(blend.coverages)].map((c) => c.coverage);
    const pictures = coverages.flatMap((c) => Object.values(c).flatMap((cue) => pictureOf(cue) ?? []));
    const named = [
      ...layers.flatMap((shows) => (shows.kind === 'surface' ? [shows.surface] : [])),
      ...pictures.flatMap((picture) => (picture.kind === 'painted' ? [] : [picture.surface])),
    ];
    for (const id of new Set(named)) await this.surface(id, blend.name);
  }

  /** Everything that a master shows; `NAME.json` is another that it uses as an operation. */
  async shown(master: MasterDocument): Promise<void> {
    for (const { surface } of mapsUsed(master)) await this.surface(surface, master.name);
    for (const { step, settings } of Object.values(master.operations))
      if (step === 'blend' && settings['blend']) await this.blend(String(settings['blend']));
    for (const id of mastersIn(master))
      if (!this.masters[id]) {
        this.masters[id] = await readDocument(this.placeOf(id), 'master', this.given);
        await this.shown(this.masters[id]);
      }
  }

  /** @param by whoever shows it, for messages */
  async surface(id: string, by: string): Promise<void> {
    if (this.facts[id]) return;
    const place = this.placeOf(id);
    const roles = new Set((await findMaps(place)).keys());
    if (!roles.size) throw new Error(`${place} has no maps (files whose names end in _baseColor, _normal, _height …), which ${by} shows as "${id}"`);
    this.folders.set(id, place);
    this.facts[id] = { ...(await readFacts(place)), roles };
  }

  reader(): PixelReader {
    const read = new Map<string, Promise<MapSet>>();
    return {
      maps: async (id, roles) => {
        const key = `${id}:${roles.join()}`;
        if (!read.has(key)) read.set(key, readMaps(this.folders.get(id) as string, roles).then(forBlending));
        return read.get(key) as Promise<MapSet>;
      },
      painted: async (blob): Promise<Image> => {
        const file = this.painted.get(blob);
        if (!file) throw new Error(`A painted mask lies in the project as ${blob.slice(0, 12)}…; say which file it is by --painted ${blob}=FILE.png`);
        return nodeCodec.decode(await readFile(file), 'data');
      },
    };
  }
}
