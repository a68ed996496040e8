import { makeImage, makeRandom, parseLayout } from '@pebble/core';
import { encodePacked } from '@pebble/usecases';
import { nodeCodec } from '@pebble/formats/node';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { median, ms, table, times } from './measure';

const SIZE = 4096;
const NAMES = ['occlusion', 'roughness', 'metallic'] as const;

/** Our way: decode, route, encode. */
async function ours(dir: string): Promise<void> {
  const maps = Object.fromEntries(
    await Promise.all(NAMES.map(async (n) => [n, await nodeCodec.decode(await readFile(path.join(dir, `${n}.png`)), 'data')] as const)),
  );
  writeFileSync(
    path.join(dir, 'ours.png'),
    await encodePacked(nodeCodec, parseLayout('r=occlusion,g=roughness,b=metallic'), maps, { width: SIZE, height: SIZE, depth: 8 }),
  );
}
/** The codec library's own streaming join of channels, with the same encoder settings. */
async function join(dir: string): Promise<void> {
  const [first, ...rest] = NAMES.map((n) => path.join(dir, `${n}.png`));
  await sharp(first)
    .toColourspace('b-w')
    .joinChannel(rest)
    .toColourspace('srgb')
    .png({ compressionLevel: 6, adaptiveFiltering: false })
    .toFile(path.join(dir, 'join.png'));
}

/** Each run in a process of its own, so that its peak is its own. */
export async function pack(): Promise<void> {
  if (process.env['PEBBLE_BENCH_PACK']) {
    const [way, dir] = process.env['PEBBLE_BENCH_PACK'].split('|');
    const began = performance.now();
    await (way === 'ours' ? ours(dir) : join(dir));
    console.log(JSON.stringify({ ms: performance.now() - began, kib: process.resourceUsage().maxRSS }));
    return;
  }
  const dir = mkdtempSync(path.join(os.tmpdir(), 'pebble-bench-'));
  const next = makeRandom(3);
  for (const [k, name] of NAMES.entries()) {
    const image = makeImage({ width: SIZE, height: SIZE, channels: 1 });
    for (let i = 0; i < image.data.length; i++) image.data[i] = 128 + 60 * Math.sin(i * 0.001 * (k + 1)) + 8 * next();
    writeFileSync(path.join(dir, `${name}.png`), await nodeCodec.encodePng(image));
  }
  const run = (way: string) => {
    const { stdout } = spawnSync(process.execPath, [process.argv[1], 'pack'], {
      encoding: 'utf8',
      env: { ...process.env, PEBBLE_BENCH_PACK: `${way}|${dir}` },
    });
    return JSON.parse(stdout.trim().split('\n').at(-1) ?? '{}') as { ms: number; kib: number };
  };
  const results = { ours: [] as ReturnType<typeof run>[], join: [] as ReturnType<typeof run>[] };
  for (let i = 0; i < 5; i++) for (const way of ['ours', 'join'] as const) results[way].push(run(way));
  const of = (way: 'ours' | 'join', key: 'ms' | 'kib') => median(results[way].map((r) => r[key]));
  const same =
    Buffer.compare(await sharp(path.join(dir, 'ours.png')).raw().toBuffer(), await sharp(path.join(dir, 'join.png')).raw().toBuffer()) === 0;
  table('Packing three 4096² grey PNGs into one RGB PNG (5 runs each, a process a run)', [
    ['ours: decode, route, encode', `${ms(of('ours', 'ms'))}, peak ${(of('ours', 'kib') / 1024).toFixed(0)} MiB`],
    ['the library’s streaming join', `${ms(of('join', 'ms'))}, peak ${(of('join', 'kib') / 1024).toFixed(0)} MiB`],
    ['time, ours to the join (reach ≤ 1.0×)', times(of('ours', 'ms') / of('join', 'ms'))],
    ['memory, ours over the join (reach ≤ 32 MiB)', `${((of('ours', 'kib') - of('join', 'kib')) / 1024).toFixed(0)} MiB`],
    ['pixels of both', same ? 'equal' : 'DIFFERENT'],
  ]);
  rmSync(dir, { recursive: true });
}
