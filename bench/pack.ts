import { extractChannel, generateSurface, makeRandom, parseChannelLayout, resize } from '@pebble/core';
import { encodePacked } from '@pebble/usecases';
import { openFolder, writeWhole } from '@pebble/usecases/folder';
import { nodeCodec } from '@pebble/formats/node';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { inOwnProcess, median, ms, often, table, times } from './measure';

const SIZE = 4096;
const NAMES = ['occlusion', 'roughness', 'metallic'] as const;

/** Our way, as the command line packs: decode, route, encode and write piece by piece. */
async function ours(dir: string): Promise<void> {
  await writeWhole(
    path.join(dir, 'ours.png'),
    encodePacked({ codec: nodeCodec }, parseChannelLayout('r=occlusion,g=roughness,b=metallic'), () => openFolder(dir, NAMES), {
      width: SIZE,
      height: SIZE,
      depth: 8,
    }),
  );
}
/** The codec library's own streaming join of channels, with the same encoder settings. */
async function join(dir: string): Promise<void> {
  const [first, ...rest] = NAMES.map((n) => path.join(dir, `x_${n}.png`));
  await sharp(first)
    .toColourspace('b-w')
    .joinChannel(rest)
    .toColourspace('srgb')
    .png({ compressionLevel: 6, adaptiveFiltering: false })
    .toFile(path.join(dir, 'join.png'));
}

/** Each run in a process of its own, so that its peak is its own. */
export async function pack(): Promise<void> {
  if (process.env['PEBBLE_BENCH_WAY']) {
    const [way, dir] = process.env['PEBBLE_BENCH_WAY'].split('|');
    const began = performance.now();
    await (way === 'ours' ? ours(dir) : join(dir));
    console.log(JSON.stringify({ ms: performance.now() - began, kib: process.resourceUsage().maxRSS }));
    return;
  }
  const dir = mkdtempSync(path.join(os.tmpdir(), 'pebble-bench-'));
  // Maps as scans give them: structure at all sizes with a grain of one or two steps.
  const next = makeRandom(3);
  const made = generateSurface('terrace-stone', { seed: 4, size: 1024 }).maps;
  for (const [name, map] of Object.entries({ occlusion: made.occlusion, roughness: made.roughness, metallic: extractChannel(made.baseColor, 0) })) {
    const image = resize({ ...map, colourSpace: 'data' }, SIZE, SIZE);
    for (let i = 0; i < image.data.length; i++) image.data[i] = Math.min(255, Math.max(0, image.data[i] + Math.floor(next() * 4) - 2));
    await writeWhole(path.join(dir, `x_${name}.png`), await nodeCodec.encode(image));
  }
  const run = (way: string) => inOwnProcess<{ ms: number; kib: number }>('pack', `${way}|${dir}`);
  const results = { ours: [] as ReturnType<typeof run>[], join: [] as ReturnType<typeof run>[] };
  for (let i = 0; i < often(7); i++) for (const way of ['ours', 'join'] as const) results[way].push(run(way));
  const of = (way: 'ours' | 'join', key: 'ms' | 'kib') => median(results[way].map((r) => r[key]));
  const same =
    Buffer.compare(await sharp(path.join(dir, 'ours.png')).raw().toBuffer(), await sharp(path.join(dir, 'join.png')).raw().toBuffer()) === 0;
  table('Packing three 4096² grey PNGs into one RGB PNG (7 pairs of runs, a process a run)', [
    ['ours: decode, route, encode', `${ms(of('ours', 'ms'))}, peak ${(of('ours', 'kib') / 1024).toFixed(0)} MiB`],
    ['the library’s streaming join', `${ms(of('join', 'ms'))}, peak ${(of('join', 'kib') / 1024).toFixed(0)} MiB`],
    ['time, ours to the join, median of pairs (reach ≤ 1.0×)', times(median(results.ours.map((r, i) => r.ms / results.join[i].ms)))],
    ['memory, ours over the join (reach ≤ 32 MiB)', `${((of('ours', 'kib') - of('join', 'kib')) / 1024).toFixed(0)} MiB`],
    ['bytes, ours to the join', times(statSync(path.join(dir, 'ours.png')).size / statSync(path.join(dir, 'join.png')).size)],
    ['pixels of both', same ? 'equal' : 'DIFFERENT'],
  ]);
  rmSync(dir, { recursive: true });
}
