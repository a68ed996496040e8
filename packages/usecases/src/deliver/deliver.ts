// A delivery: files made one after the other, each known by what it was made of, so that what is there is not made again.
import type { AnyDocument, BundleFile, BundleManifest, Quality } from '@pebble/core';
import { blocks, canonical, isLossyKind, manifestText, preflight, TEXTURE_FILES } from '@pebble/core';
import { sha256 } from '@pebble/formats';
import { UseCaseError } from '../errors';
import { isUniversal } from '../finished';
import { AS_PNG } from '../packed-file';
import type { FinishedFile, Finisher, Ports, Report } from '../ports';
import { lookAtMeshes, ownExtent } from './assets';
import { loadsOf, preflightFacts, surfacesIn } from './facts';
import type { Documents } from './slots';
import { Slots } from './slots';
import { finished } from './finish';
import { Maker, isPackedWhole } from './make';
import type { DeliveryPlan, DeliveryRequest, Making, PlannedOutput } from './plan';
import { inMakingOrder, planDelivery } from './plan';

/** Files that are being written while the next is worked out. */
const AT_ONCE = 3;
/** Files that are read while one is packed. */
const AHEAD = 1;
/** What is written is made anew when this grows: the same documents give other bytes. */
const MAKER = 1;

/** What was made of something before. */
export type KnownFile = Pick<BundleFile, 'sha256' | 'bytes' | 'quality'>;

/** Where a bundle goes. */
export interface BundleSink {
  /** A file that was made of the same before and is still as it was; null where it is to be made. */
  known(path: string, key: string): Promise<KnownFile | null>;
  /** Keeps a file wholly or not at all. */
  put(path: string, key: string, bytes: Uint8Array, quality?: Quality): Promise<void>;
  /** The last thing of a delivery; until then the bundle is the one before. @param files all that belong to it */
  finish(manifest: Uint8Array, files: readonly BundleFile[]): Promise<void>;
}

/** Everything that a document names, and what that names: documents call each other by id. */
export function named(all: Documents, ids: readonly string[]): Record<string, AnyDocument> {
  const found: Record<string, AnyDocument> = {};
  const walk = (value: unknown): void => {
    if (typeof value === 'string') visit(value);
    else if (value && typeof value === 'object') Object.values(value).forEach(walk);
  };
  const visit = (id: string): void => {
    if (Object.hasOwn(found, id) || !Object.hasOwn(all, id)) return;
    found[id] = all[id];
    walk(all[id]);
  };
  ids.forEach(visit);
  return found;
}

const hashed = (value: unknown): Promise<string> => sha256(new TextEncoder().encode(canonical(value)));

/** Says wherein files differ from others: what each shows, how it is kept, and who makes it. Every document is hashed once. */
class Keys {
  private readonly documents = new Map<string, Promise<string>>();

  constructor(
    private readonly all: Documents,
    private readonly exportNormal: 'y+' | 'y-',
  ) {}

  private document(id: string): Promise<string> {
    let made = this.documents.get(id);
    if (!made) this.documents.set(id, (made = hashed(this.all[id])));
    return made;
  }

  /** What of a making counts beside the documents that it names: of an asset no other slots than its own, of a target neither name nor budget. */
  private spec(making: Making): { spec: unknown; from: string[] } {
    switch (making.by) {
      case 'slot': {
        const { asset, of, use, kept, way } = making.texture;
        return { spec: { laid: of.laid, use, kept, way, extentM: ownExtent(asset, this.all) }, from: [asset.specimen, of.laid.blend] };
      }
      case 'asset':
        return {
          spec: making.textures.map(({ of, use, width, height, way }) => [of.slot, use, width, height, ...(isUniversal(way) ? [way] : [])]),
          from: [making.assetId],
        };
      case 'recipe': {
        // What it is called is no part of it: renamed, it is not made again.
        const { sourceId, width, height, depth, dither, place, way } = making.file;
        return { spec: { width, height, depth, dither, place, way, channels: making.channels, exportNormal: this.exportNormal }, from: [sourceId] };
      }
      case 'map':
        return { spec: making.role, from: [making.surfaceId] };
      case 'master':
        return { spec: making.as, from: [making.masterId] };
      case 'copy':
        return { spec: making.blob, from: [] };
      case 'heights':
        return { spec: making.by, from: [making.specimenId] };
      case 'ground':
      case 'terrain-table':
        return { spec: making, from: [making.specimenId, making.blendId] };
      default:
        return { spec: making, from: [making.blendId] };
    }
  }

  async of({ making, texture, kind }: PlannedOutput): Promise<string> {
    const { spec, from } = this.spec(making);
    const ids = Object.keys(named(this.all, from)).sort();
    const shows = await Promise.all(ids.map((id) => this.document(id)));
    return hashed({ maker: MAKER, kind, spec, texture, shows });
  }
}

export const isLossless = (texture: BundleFile['texture']): boolean => !!texture && !isLossyKind(texture.kept) && !TEXTURE_FILES[texture.file].lossy;

/** What was delivered, and how much of it had to be made. */
export interface Delivered {
  manifest: BundleManifest;
  made: number;
  kept: number;
}

/**
 * Delivers a project for targets. Files that were made of the same before are kept; the manifest is written last, so that a
 * delivery that stops leaves the bundle before it. The same documents give the same bytes.
 * @throws UseCaseError naming every finding of the preflight that blocks, before a file is made
 */
export async function deliver(ports: Ports, all: Documents, request: DeliveryRequest, sink: BundleSink, report: Report): Promise<Delivered> {
  const slots = new Slots(all);
  const plan = planDelivery(all, request, slots);
  const outputs = inMakingOrder(plan.outputs);
  const { exportNormal, accepted } = plan.project;
  const naming = new Keys(all, exportNormal);
  const keys = await Promise.all(outputs.map((output) => naming.of(output)));
  const known: (KnownFile | null)[] = [];
  for (const [i, { path }] of outputs.entries()) known.push(await sink.known(path, keys[i]));
  // Of what is there already, meshes were looked at when it was made: they are in its key.
  const fresh = { ...plan, outputs: outputs.filter((o, i) => !known[i] && (o.making.by === 'asset' || o.making.by === 'slot')) };
  const seen = await lookAtMeshes(ports, fresh, all, (done, note) => report(0.05 * done, note));
  const blocking = preflight(preflightFacts(plan, all, seen), accepted).filter(blocks);
  if (blocking.length)
    throw new UseCaseError(
      'bad-plan',
      `${blocking.length === 1 ? 'One finding blocks' : `${blocking.length} findings block`} the delivery: ${blocking.map((f) => f.message).join('; ')}`,
      blocking[0].path,
    );
  const maker = new Maker(ports, all, slots, exportNormal);
  const whole = outputs.reduce((sum, o) => sum + o.about, 0) || 1;
  const files: BundleFile[] = [];
  const finish = ports.finish ?? ((work) => finished(ports, work));
  // Targets that keep a file the same way share it: it is made once, and held while another still wants it.
  const held = new Map<string, Promise<FinishedFile>>();
  // While files are written by threads, the next ones are worked out.
  const under: Promise<void>[] = [];
  let failure: Error | null = null;
  let [done, made] = [0, 0];
  // While pixels of one file are read, those of the next are packed: of what is packed no two are large.
  const early = new Map<number, ReturnType<typeof begun>>();
  const begin = (i: number, step: Report): ReturnType<typeof begun> => {
    const started = early.get(i) ?? begun(maker, outputs[i], finish, step);
    early.delete(i);
    const small = (k: number) => k < outputs.length && isPackedWhole(outputs[k].making);
    for (let k = i + 1; small(i) && small(k) && k <= i + AHEAD; k++) {
      if (early.has(k) || known[k] || keys.indexOf(keys[k]) < k) continue;
      const ahead = begun(maker, outputs[k], finish, () => undefined);
      // It is waited for in its turn, unless one before it fails.
      ahead.catch(() => undefined);
      early.set(k, ahead);
    }
    return started;
  };
  for (const [i, output] of outputs.entries()) {
    const at = (share: number) => 0.05 + (0.95 * (done + share * output.about)) / whole;
    report(at(0), output.path);
    const [key, there] = [keys[i], known[i]];
    if (there) files[i] = fileOf(output, key, there, all);
    else {
      const step: Report = (share, note) => report(at(share), `${output.path}: ${note}`);
      const file = held.get(key) ?? (await begin(i, step)).file;
      if (keys.includes(key, i + 1)) held.set(key, file);
      else held.delete(key);
      const task = file.then(async ({ bytes, quality }) => {
        await sink.put(output.path, key, bytes, quality);
        files[i] = fileOf(output, key, { sha256: await sha256(bytes), bytes: bytes.length, quality }, all);
      });
      task.catch((error: Error) => (failure ??= error));
      under.push(task);
      made++;
      if (under.length > AT_ONCE) await under.shift();
    }
    if (failure) throw failure as Error;
    done += output.about;
  }
  await Promise.all(under);
  const manifest = manifestOf(plan, all, files);
  const text = manifestText(manifest);
  await sink.finish(new TextEncoder().encode(text), files);
  report(1, 'done');
  return { manifest: JSON.parse(text) as BundleManifest, made, kept: files.length - made };
}

/** Works a file out and hands it on to be written: what comes back is not waited for. */
async function begun(maker: Maker, output: PlannedOutput, finish: Finisher, report: Report): Promise<{ file: Promise<FinishedFile> }> {
  const streamed = await maker.streamed(output, report);
  if (streamed) return { file: Promise.resolve({ bytes: streamed }) };
  const authored = await maker.authored(output, report);
  if (!authored) return { file: Promise.resolve({ bytes: await maker.whole(output, report) }) };
  const { making, texture } = output;
  const way = making.by === 'slot' ? making.texture.way : making.by === 'recipe' ? making.file.way : AS_PNG;
  return { file: finish({ ...authored, way, measured: !!texture && !isLossless(texture) }) };
}

function fileOf(
  { path, kind, target, from, texture, making }: PlannedOutput,
  key: string,
  { sha256: hash, bytes, quality }: KnownFile,
  all: Documents,
): BundleFile {
  const of = [...new Set(from.flatMap((id) => all[id]?.name ?? []))];
  return {
    path,
    kind,
    bytes,
    sha256: hash,
    key,
    target: target?.id ?? null,
    of,
    ...(texture ? { texture } : {}),
    ...(making.by === 'slot' ? { worn: { asset: making.texture.asset.name, slot: making.texture.of.slot, use: making.texture.use } } : {}),
    ...(quality ? { quality } : {}),
  };
}

function manifestOf(plan: DeliveryPlan, all: Documents, files: BundleFile[]): Omit<BundleManifest, 'format' | 'version'> {
  return {
    project: plan.project.name,
    targets: Object.fromEntries(plan.targets.map(({ id, body }) => [id, body])),
    files,
    sources: surfacesIn(plan, all).flatMap((id) => {
      const surface = all[id];
      if (surface.kind !== 'surface') return [];
      const { author = '', source = '', licence = '' } = surface.origin ?? {};
      return [
        {
          name: surface.name,
          author,
          source: surface.generator ? `drawn here: ${surface.generator.name}, seed ${surface.generator.seed}` : source,
          licence,
        },
      ];
    }),
    costs: loadsOf(plan).map(({ asset, target, bytes }) => ({
      target: plan.targets.find((t) => t.body === target)?.id ?? '',
      asset,
      textures: plan.outputs.filter((o) => o.making.by === 'slot' && o.making.texture.asset.name === asset && o.target?.body === target).length,
      bytes,
      budget: target.memoryBytes,
    })),
  };
}
