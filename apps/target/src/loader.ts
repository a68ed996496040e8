// Reads a bundle in a thread of its own: hashes, blocks, meshes. It knows the bundle alone.
import type { ColourSpace, Image } from '@pebble/core';
import { EXTRA_ROLES, MANIFEST_NAME, readManifest, slottedMesh } from '@pebble/core';
import type { BundleReader, OpenBundle } from '@pebble/formats/bundle';
import { loadOnDevice, openBundle, terrainsOf, zippedBundle } from '@pebble/formats/bundle';
import type { Transcoder } from '@pebble/formats/ktx2';
import { ktx2Decoder } from '@pebble/formats/ktx2';
import { probeImage } from '@pebble/formats/images';
import { webCodec } from '@pebble/formats/web';
import { packMask, packSurface } from '@pebble/stage/textures';
import type { BundlePlace, FromLoader, LoadedAsset, ToLoader } from './protocol';

/** Side of the stage's textures. */
const SIDE = 1024;

/** What of a worker's own world is used here: its types and those of a page cannot stand side by side. */
interface Here {
  postMessage(message: FromLoader): void;
  importScripts(file: string): void;
  onmessage: ((event: MessageEvent<ToLoader>) => void) | null;
  BASIS?: (options: object) => Promise<Transcoder>;
}
const worker = self as unknown as Here;
const post = (message: FromLoader) => worker.postMessage(message);

let transcoder: Promise<Transcoder> | undefined;
/** Lies beside this page. */
const startTranscoder = (): Promise<Transcoder> =>
  (transcoder ??= (async () => {
    worker.importScripts('basis_transcoder.js');
    const wasmBinary = await (await fetch('basis_transcoder.wasm')).arrayBuffer();
    if (!worker.BASIS) throw new Error('The transcoder of universal blocks did not start. Reload the page');
    const started = await worker.BASIS({ wasmBinary });
    started.initializeBasis();
    return started;
  })());
const decodeKtx2 = ktx2Decoder(startTranscoder);

const codec = {
  decode(bytes: Uint8Array, space: ColourSpace): Promise<Image> {
    const facts = probeImage(bytes);
    return facts.format === 'ktx2' ? decodeKtx2(bytes, facts, space) : webCodec.decode(bytes, space);
  },
};

async function fetched(address: string): Promise<Uint8Array | null> {
  const answer = await fetch(address);
  return answer.ok ? new Uint8Array(await answer.arrayBuffer()) : null;
}

/** A bundle whose files are asked for by their hashes. */
async function remote(manifest: string): Promise<BundleReader> {
  const bytes = await fetched(`/api/blobs/${manifest}`);
  const hashes = new Map(bytes ? readManifest(new TextDecoder().decode(bytes)).files.map((f) => [f.path, f.sha256]) : []);
  return {
    names: () => Promise.resolve([MANIFEST_NAME, ...hashes.keys()]),
    get: (path) =>
      path === MANIFEST_NAME ? Promise.resolve(bytes) : hashes.has(path) ? fetched(`/api/blobs/${hashes.get(path) ?? ''}`) : Promise.resolve(null),
  };
}
const readerOf = (place: BundlePlace): BundleReader | Promise<BundleReader> =>
  'zip' in place ? zippedBundle(new Uint8Array(place.zip)) : remote(place.manifest);

let bundle: OpenBundle | null = null;
/** What was asked for last: what comes of anything before it comes too late. */
let turn = 0;

async function open(place: BundlePlace): Promise<void> {
  bundle = await openBundle(await readerOf(place));
  // What lies in a ZIP is here already; behind addresses every file is checked as it comes.
  const beside = 'zip' in place ? (await bundle.check((progress) => post({ progress, note: 'checking' }))).map((e) => e.message) : [];
  post({ opened: bundle.manifest, beside });
  post({ terrains: await terrainsOf(bundle, codec) });
}

async function load(device: string, asset: string): Promise<void> {
  if (!bundle) throw new Error('Open a bundle first');
  const mine = ++turn;
  const { models, slots, words, bytes, target } = await loadOnDevice(bundle, device, codec, (progress, note) => post({ progress, note }), asset);
  if (mine !== turn) return;
  const [model] = models;
  if (!model) throw new Error(words[0]?.message ?? `The bundle has no model of ${asset} for ${target.name}`);
  const laid = new Map(model.materials.map((m) => [m.slot, m]));
  const { mesh, spans } = slottedMesh(model.model.lods[0], (slot) => ({ set: laid.get(slot)?.set ?? 0, by: 1 / (laid.get(slot)?.scale ?? 1) }));
  const dressed = slots.flatMap(({ slot, maps }) => {
    const material = laid.get(slot);
    if (!material) return [];
    const masks = Object.fromEntries(EXTRA_ROLES.flatMap((role) => (maps[role] ? [[role, packMask(maps[role], 0, SIDE)]] : [])));
    return [{ ...material, roles: Object.keys(maps) as (keyof typeof maps)[], packed: packSurface(maps, SIDE), masks }];
  });
  const loaded: LoadedAsset = { asset, mesh, spans, slots: dressed, words, bytes, budget: target.memoryBytes };
  post({ loaded });
}

worker.onmessage = ({ data }: MessageEvent<ToLoader>) => {
  const run = 'open' in data ? open(data.open) : load(data.load.device, data.load.asset);
  run.catch((error: Error) => post({ failed: error.message }));
};
