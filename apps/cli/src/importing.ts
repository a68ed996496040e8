// Files of this machine into a running server: sent, looked at there, made into surfaces.
import type { SentFile } from '@pebble/core';
import { lookRequests, meshesAmong, namedBlobs, planImport, planQuestions, planRequests, settleUnasked, withCarried } from '@pebble/usecases';
import { openAsBlob } from 'node:fs';
import { stat } from 'node:fs/promises';
import path from 'node:path';
import type { Print } from './options';
import type { Server } from './server';
import { serverAt } from './server';
import { UsageError, options } from './options';

/** Files of one request. */
const BATCH = 20;

export async function importFiles(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, on } = options(args, ['server', 'author', 'source', 'licence'], ['server'], ['doubtful']);
  if (!positionals.length) throw new UsageError('Name at least one file');
  const server = serverAt(values['server']);
  const paths = positionals.map((file) => path.resolve(cwd, file));
  for (const [i, file] of paths.entries()) if (!(await stat(file).catch(() => null))?.isFile()) throw new Error(`${positionals[i]} cannot be read`);
  const sent: SentFile[] = [];
  for (let at = 0; at < paths.length; at += BATCH) {
    const form = new FormData();
    for (const file of paths.slice(at, at + BATCH)) form.append('files', await openAsBlob(file), path.basename(file));
    sent.push(...(await server.ask<SentFile[]>('/uploads', form)));
  }
  const files = await readMeshes(server, sent, print);
  if (!files.length) return;
  const looks = await Promise.all(lookRequests(namedBlobs(files)).map((request) => server.run('look', request)));
  const looked = looks.flatMap((job) => job.result?.files ?? []);
  const plan = planImport(files, looked);
  plan.origin = { author: values['author'] ?? '', source: values['source'] ?? '', licence: values['licence'] ?? '' };
  let left = plan.refused.length;
  for (const { problem } of plan.refused) print(problem ?? '');
  for (const { fileName, why } of settleUnasked(plan, on.has('doubtful'))) {
    print(`${fileName}: left out. ${why}`);
    left++;
  }
  // Meshes without pictures, or none that can be read: there is no surface to make.
  if (plan.rows.every((r) => r.holds === 'skip')) return ended(left, sent.length);
  const [question] = planQuestions(plan);
  if (question) throw new Error(question);
  const requests = planRequests(plan);
  await Promise.all(requests.map((request) => server.run('import', request)));
  for (const surface of requests.flatMap((r) => r.surfaces)) print(`${surface.name}: ${surface.maps.map((m) => m.role).join(', ')}`);
  ended(left, sent.length);
}

function ended(left: number, count: number): void {
  if (left) throw new Error(`${left} of ${count} files were left out`);
}

/** Makes specimens of the meshes; gives the files that are left, and those that the meshes carried. */
async function readMeshes(server: Server, sent: readonly SentFile[], print: Print): Promise<SentFile[]> {
  const { request, others } = meshesAmong(sent);
  if (!request.meshes.length) return others;
  const job = await server.run('meshes', request);
  const carried = job.result?.files ?? [];
  for (const { fileName } of request.meshes) if (!carried.some((c) => !c.blob && c.fileName === fileName)) print(`${fileName}: specimen`);
  return withCarried(carried, others);
}
