// A project in a folder, what is delivered from it, and what a device makes of that.
import type { AnyDocument, PreflightFinding, Proof } from '@pebble/core';
import { SKIES, blocks, computeLight, preflight as findings, proofProblems, proofSummary } from '@pebble/core';
import { loadOnDevice, openBundle } from '@pebble/formats/bundle';
import { readGltf } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { writeTexture } from '@pebble/formats/write';
import type { BandEvaluator, Ports, Report } from '@pebble/usecases';
import type { Documents } from '@pebble/usecases/deliver';
import { Slots, deliver as deliverProject, lookAtMeshes, planDelivery, preflightFacts, prove } from '@pebble/usecases/deliver';
import { bundleAt, blobsNamed, folderSink, openProject } from '@pebble/usecases/deliver-folder';
import { FinishPool } from '@pebble/usecases/finish-pool';
import { writeWhole } from '@pebble/usecases/folder';
import { randomUUID } from 'node:crypto';
import { existsSync, openAsBlob, watch } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { readAnyDocument } from './beside';
import type { Print } from './options';
import { UsageError, options } from './options';
import { serverAt } from './server';

/** Beside this file once it is built; from its sources files are written in place. */
const WRITER = path.join(import.meta.dirname, 'finish-worker.mjs');
const writers = existsSync(WRITER) ? new FinishPool(WRITER, Math.min(4, availableParallelism())) : null;

const silent: Report = () => undefined;

interface Opened {
  all: Documents;
  ports: Ports;
}
async function open(folder: string, bands?: BandEvaluator): Promise<Opened> {
  const blends = new Set((await readdir(path.join(folder, 'documents', 'blend')).catch(() => [])).map((name) => name.replace(/\.json$/, '')));
  const { all, blobs } = await openProject(folder, (file) => readAnyDocument(file, (id) => blends.has(id)));
  const ports: Ports = {
    blobs,
    codec: nodeCodec,
    write: writeTexture,
    ...(writers ? { finish: writers.finish } : {}),
    light: () => computeLight(SKIES.overcast),
    model: async (bytes) => (await readGltf(bytes)).model,
    bands,
  };
  return { all, ports };
}

/** Ids of targets from names or ids, as they were typed; the project's own where none was. */
function targetsOf(all: Documents, asked: string[]): string[] {
  const project = Object.values(all).find((d) => d.kind === 'project');
  if (!asked.length) return project?.kind === 'project' ? [project.target] : [];
  const targets = Object.entries(all).filter(([, d]) => d.kind === 'target');
  return asked.map((name) => {
    const found = targets.find(([id, d]) => id === name || d.name.toLowerCase() === name.toLowerCase());
    if (!found) throw new UsageError(`There is no target ${name}; there are ${targets.map(([, d]) => d.name).join(', ')}`);
    return found[0];
  });
}

const line = ({ severity, message, key, accepted, mend }: PreflightFinding): string =>
  `${severity}: ${message}${accepted === undefined ? '' : ` (accepted: ${accepted})`}${mend ? ` [${mend.label}]` : ''} ${key}`;

export async function preflight(args: string[], cwd: string, print: Print): Promise<void> {
  const { positionals, many, on } = options(args, [], [], ['json'], ['target']);
  if (positionals.length !== 1) throw new UsageError('Name one project folder');
  const { all, ports } = await open(path.resolve(cwd, positionals[0]));
  const slots = new Slots(all);
  const plan = planDelivery(all, { targets: targetsOf(all, many['target']) }, slots);
  const found = findings(preflightFacts(plan, all, await lookAtMeshes(ports, plan, all, silent)), plan.project.accepted);
  if (on.has('json')) print(JSON.stringify(found, null, 2));
  else {
    found.forEach((f) => print(line(f)));
    print(found.some(blocks) ? 'It cannot be delivered so' : `${plan.outputs.length} files can be delivered`);
  }
  const blocking = found.filter(blocks);
  if (blocking.length) throw new Error(`${blocking.length === 1 ? 'One finding blocks' : `${blocking.length} findings block`} the delivery`);
}

export async function deliver(args: string[], cwd: string, print: Print, bands?: BandEvaluator): Promise<void> {
  const { values, positionals, many, on } = options(args, ['out'], ['out'], ['watch', 'json'], ['target', 'skip']);
  if (positionals.length !== 1) throw new UsageError('Name one project folder');
  const folder = path.resolve(cwd, positionals[0]);
  const out = path.resolve(cwd, values['out']);
  const once = async () => {
    const { all, ports } = await open(folder, bands);
    const sink = await folderSink(out);
    const done = await deliverProject(ports, all, { targets: targetsOf(all, many['target']), skip: many['skip'] }, sink, silent);
    const { manifest, made, kept } = done;
    const bytes = manifest.files.reduce((sum, f) => sum + f.bytes, 0);
    print(
      on.has('json')
        ? JSON.stringify({ made, kept, bytes, files: manifest.files.length })
        : `${made} files written, ${kept} as they were; ${manifest.files.length} files of ${bytes} bytes in all`,
    );
  };
  await once();
  if (on.has('watch')) await followed(folder, once, print);
}

/** Changes of a folder are delivered as they come, one after the other; many at once count as one. */
function followed(folder: string, once: () => Promise<void>, print: Print): Promise<never> {
  const PAUSE_MS = 120;
  let [wanted, running] = [false, false];
  const run = async () => {
    wanted = true;
    if (running) return;
    running = true;
    while (wanted) {
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
      wanted = false;
      // What cannot be delivered now may be once the next change is in.
      await once().catch((error: Error) => print(`Not delivered: ${error.message}`));
    }
    running = false;
  };
  return new Promise((_, reject) => {
    const lost = (error: Error) => reject(new Error(`${folder} can no longer be followed: ${error.message}`));
    try {
      watch(folder, { recursive: true }, () => void run()).on('error', lost);
    } catch (error) {
      return lost(error as Error);
    }
    print(`Following ${folder}; Ctrl+C ends it`);
    // What changed before anybody listened.
    void run();
  });
}

function told(proof: Proof, print: Print): void {
  const { identical, lossless, lossy, psnr, degrees, deltaE } = proofSummary(proof);
  print(`${identical} of ${lossless} lossless files hold every bit`);
  if (lossy) print(`${lossy} lossy files: at worst ${psnr?.toFixed(1)} dB, ${degrees.toFixed(2)}° and ΔE2000 ${deltaE.toFixed(2)} on average`);
  for (const { target, asset, slot, max, mean, deltaE: off } of proof.lit)
    print(
      `${asset}, ${slot} on ${target}, lit: at most ${max.toFixed(0)} of 255, ${mean.toFixed(2)} on average, ΔE2000 ${off.mean.toFixed(2)}, 99 of 100 within ${off.p99.toFixed(2)}`,
    );
}

export async function proof(args: string[], cwd: string, print: Print, bands?: BandEvaluator): Promise<void> {
  const { positionals, on } = options(args, [], [], ['json']);
  if (positionals.length !== 2) throw new UsageError('Name a project folder, and a bundle (a folder or a ZIP)');
  const { all, ports } = await open(path.resolve(cwd, positionals[0]), bands);
  const bundle = await openBundle(await bundleAt(path.resolve(cwd, positionals[1])));
  const [broken] = await bundle.check();
  if (broken) throw new Error(`${positionals[1]}: ${broken.message}`);
  const found = await prove(ports, all, bundle, silent);
  const problems = proofProblems(found, bundle.manifest.files);
  if (on.has('json')) print(JSON.stringify({ ...found, summary: proofSummary(found), problems }, null, 2));
  else {
    told(found, print);
    problems.forEach((p) => print(p.message));
  }
  if (problems.length) throw new Error(`${problems.length === 1 ? 'One file is' : `${problems.length} files are`} not what was authored`);
}

/** The stand-in for a device, without its picture: what it takes of a bundle, and what not. */
export async function target(args: string[], cwd: string, print: Print): Promise<void> {
  const { positionals, values, on } = options(args, ['device'], [], ['json']);
  if (positionals.length !== 1) throw new UsageError('Name a bundle: a folder or a ZIP');
  const bundle = await openBundle(await bundleAt(path.resolve(cwd, positionals[0])));
  const devices = values['device'] === undefined ? Object.keys(bundle.manifest.targets) : [values['device']];
  const loads = [];
  for (const device of devices) loads.push({ device, ...(await loadOnDevice(bundle, device, nodeCodec, silent)) });
  const beside = (await bundle.check()).map((e) => e.message);
  const facts = loads.map(({ device, target: of, words, bytes, models, slots }) => ({
    device,
    name: of.name,
    bytes,
    models: models.map((m) => m.path),
    slots: slots.map(({ asset, slot, maps }) => ({ asset, slot, maps: Object.keys(maps) })),
    words,
  }));
  if (on.has('json')) print(JSON.stringify({ devices: facts, bundle: beside }, null, 2));
  else {
    for (const { name, bytes, models, slots, words } of facts) {
      print(`${name}: ${models.length} models, ${slots.length} slots dressed, ${bytes} bytes of textures`);
      for (const { does, message } of words) print(`  ${does}: ${message}`);
    }
    beside.forEach((text) => print(text));
  }
  if (beside.length || facts.some((f) => f.words.some((w) => w.does === 'refused'))) throw new Error('Not all of the bundle was taken');
}

interface Listed {
  id: string;
}

/** A project out of a running server into a folder, or out of a folder into a server. */
export async function project(args: string[], cwd: string, print: Print): Promise<void> {
  const { positionals, values } = options(args, ['server', 'out'], ['server']);
  const server = serverAt(values['server']);
  if ((values['out'] === undefined) === (positionals.length === 0))
    throw new UsageError('Give --out to save the project into a folder, or name a folder to read it from');
  if (values['out'] !== undefined) {
    const out = path.resolve(cwd, values['out']);
    const documents = await server.ask<Listed[]>('/documents');
    let bytes = 0;
    const blobs = new Set<string>();
    for (const { id } of documents) {
      const { body } = await server.ask<{ body: AnyDocument }>(`/documents/${id}`);
      blobsNamed(body).forEach((hash) => blobs.add(hash));
      await writeWhole(path.join(out, 'documents', body.kind, `${id}.json`), `${JSON.stringify(body, null, 1)}\n`);
    }
    for (const hash of [...blobs].sort()) {
      const answer = await server.fetch(`/blobs/${hash}`);
      const content = new Uint8Array(await answer.arrayBuffer());
      bytes += content.length;
      await writeWhole(path.join(out, 'files', hash), content);
    }
    return print(`${documents.length} documents and ${blobs.size} files of ${bytes} bytes`);
  }
  const folder = path.resolve(cwd, positionals[0]);
  const { all } = await open(folder);
  const hashes = new Set(Object.values(all).flatMap(blobsNamed));
  for (const hash of hashes) {
    const form = new FormData();
    // As bytes that belong to something, whatever they are.
    form.append('files', await openAsBlob(path.join(folder, 'files', hash)), `${hash}.bin`);
    await server.fetch('/uploads', form);
  }
  const documents = await server.ask<Listed[]>('/documents');
  const there = new Set(documents.map((d) => d.id));
  let made = 0;
  for (const [id, body] of Object.entries(all)) {
    if (there.has(id)) continue;
    await server.ask('/documents', { id, body, label: `Read ${body.name}`, opId: randomUUID() });
    made++;
  }
  print(`${made} documents read, ${Object.keys(all).length - made} were there already; ${hashes.size} files`);
}
