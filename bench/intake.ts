import type { AskedKind, JobOf, JobRequest, UploadedFile } from '@pebble/contracts';
import { jobPath } from '@pebble/contracts';
import type { Image } from '@pebble/core';
import { BLEND_ROLES, generateSurface, recognise } from '@pebble/core';
import { fileMarks, probeImage } from '@pebble/formats';
import { nodeCodec } from '@pebble/formats/node';
import { lookRequests, planImport, planRequests } from '@pebble/usecases';
import { readFileSync } from 'node:fs';
import { testDatabase } from '../apps/server/spec/harness';
import { api, serve } from '../e2e/harness';
import { median, ms, table, times } from './measure';

const FILES = 200;
const SIDE = 1024;

/** The same picture moved down by some rows: other bytes, as hard to read. */
function moved(image: Image, rows: number): Image {
  const cut = rows * image.width * image.channels;
  const data = image.data.slice();
  data.set(image.data.subarray(cut));
  data.set(image.data.subarray(0, cut), data.length - cut);
  return { ...image, data };
}

/** Two hundred files into surfaces through the server, against decoding the same files and no more; one large map recognised. */
export async function intake(): Promise<void> {
  const sets = (['terrace-stone', 'river-gravel'] as const).map((name) => generateSurface(name, { seed: 3, size: SIDE }).maps);
  const files: { name: string; bytes: Uint8Array }[] = [];
  for (let i = 0; files.length < FILES; i++)
    for (const role of BLEND_ROLES)
      if (files.length < FILES) files.push({ name: `lot${i}_${role}.png`, bytes: await nodeCodec.encode(moved(sets[i % 2][role], 7 * i + 1)) });
  let began = performance.now();
  for (const { bytes } of files) await nodeCodec.decode(bytes, 'data');
  const decoding = performance.now() - began;

  const database = await testDatabase();
  const served = await serve(['--no-demo'], { DATABASE_URL: database.url });
  let memory = 0;
  const watch = setInterval(() => {
    const status = readFileSync(`/proc/${served.process.pid}/status`, 'utf8');
    memory = Math.max(memory, Number(/VmRSS:\s+(\d+) kB/.exec(status)?.[1]) / 1024);
  }, 100);
  const run = async <K extends AskedKind>(kind: K, request: JobRequest<K>): Promise<JobOf<K>> => {
    let job = await api<JobOf<K>>(served.url, jobPath(kind), request);
    while (job.status === 'waiting' || job.status === 'running') {
      await new Promise((r) => setTimeout(r, 100));
      job = await api<JobOf<K>>(served.url, `/jobs/${job.id}`);
    }
    if (job.status !== 'done') throw new Error(job.error ?? job.status);
    return job;
  };
  const parts: number[] = [];
  const lap = () => parts.push(performance.now() - began) && (began = performance.now());
  began = performance.now();
  // As the interface does it: files of a surface together, looked at while others are still sent.
  const sent: UploadedFile[] = [];
  const looking: Promise<JobOf<'look'>>[] = [];
  for (const group of lookRequests(files.map((f) => ({ ...f, fileName: f.name })))) {
    const form = new FormData();
    for (const { name, bytes } of group.files) form.append('files', new Blob([bytes as Uint8Array<ArrayBuffer>]), name);
    const uploaded = (await (await fetch(`${served.url}/api/uploads`, { method: 'POST', body: form })).json()) as UploadedFile[];
    looking.push(run('look', { files: uploaded.map(({ blob, fileName }) => ({ blob: blob!, fileName })) }));
    sent.push(...uploaded);
  }
  lap();
  const looks = await Promise.all(looking);
  const looked = looks.flatMap((job) => job.result!.files);
  lap();
  const requests = planRequests(planImport(sent, looked));
  const surfaces = requests.flatMap((r) => r.surfaces);
  await Promise.all(requests.map((r) => run('import', r)));
  lap();
  clearInterval(watch);
  await served.stop();
  await database.drop();
  const whole = parts.reduce((a, b) => a + b);

  const large = generateSurface('terrace-stone', { seed: 4, size: 2048 }).maps;
  const clues = async (image: Image) => {
    const bytes = await nodeCodec.encode(image);
    return fileMarks(bytes, probeImage(bytes));
  };
  const recognised: [string, string][] = [];
  for (const role of ['baseColor', 'normal', 'height'] as const) {
    const given = await clues(large[role]);
    const laps = Array.from({ length: 5 }, () => {
      const start = performance.now();
      recognise(large[role], given);
      return performance.now() - start;
    });
    recognised.push([`recognising one 2048² map, ${role} (reach < 250 ms)`, ms(median(laps))]);
  }
  table(`${FILES} PNG files of ${SIDE}² into ${surfaces.length} surfaces`, [
    ['sent, recognised, imported (reach < 25 s)', ms(whole)],
    ['… sent', ms(parts[0])],
    ['… recognised after that', ms(parts[1])],
    ['… imported', ms(parts[2])],
    ['decoding the same files, one after the other', ms(decoding)],
    ['all of it to decoding', times(whole / decoding)],
    ['most memory of the server (reach < 700 MiB)', `${memory.toFixed(0)} MiB`],
    ...recognised,
  ]);
}
