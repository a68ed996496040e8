import { SPECIMEN_MODELS } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { UsageError, run } from '../src/commands';
import { onLine } from './on-line';

interface Told {
  files: {
    file: string;
    levels: {
      parts: { name: string; slot: string; triangles: number; sets: number }[];
      sets: { islands: number; wasted: number; mirrored: number; repeating: number; overlaps: unknown[]; density: { mean: number } }[];
    }[];
    notes: { code: string }[];
  }[];
}

describe('jaunty, for meshes', () => {
  let dir: string;
  const { printed, jaunty } = onLine(() => dir);
  const told = () => (JSON.parse(printed[0]) as Told).files;
  const fails = async (message: RegExp, use: boolean, ...args: string[]) => {
    const error: unknown = await run(args, dir, () => undefined).catch((e: unknown) => e);
    expect((error as Error).message).toMatch(message);
    expect(error instanceof UsageError).toBe(use);
  };
  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'pebble-cli-mesh-'));
    const [stone] = SPECIMEN_MODELS['marker-stone'](1).lods[1];
    await writeFile(path.join(dir, 'stone.glb'), await writeGlb('stone', { title: '', lods: [[{ ...stone, sets: [] }]] }));
    await writeFile(path.join(dir, 'bad.obj'), 'v 0 0 0\nv 1 0 0\nf 1 2 3\n');
  });
  afterAll(() => rm(dir, { recursive: true }));

  it('tells what a mesh is, and unwraps it so that the same command finds nothing wrong', async () => {
    await jaunty('mesh', 'stone.glb', '--json');
    const [before] = told();
    expect(before.levels[0].parts).toEqual([jasmine.objectContaining({ name: 'stone', slot: 'stone', triangles: 432, sets: 0 })]);
    expect(before.levels[0].sets).toEqual([]);
    expect(before.notes.map((n) => n.code)).toEqual(['mesh-no-uv']);
    await jaunty('unwrap', 'stone.glb', '--out', 'flat.glb');
    expect(printed[0]).toMatch(/^flat\.glb: set 1 has \d+ islands, \d+ % of the tile is empty$/);
    await jaunty('mesh', 'flat.glb', '--json');
    const [set] = told()[0].levels[0].sets;
    expect(set).toEqual(jasmine.objectContaining({ mirrored: 0, repeating: 0, overlaps: [] }));
    expect(set.wasted).toBeLessThan(0.7);
    expect(set.density.mean).toBeGreaterThan(0);
    await jaunty('unwrap', 'flat.glb', '--repack', '--out', 'again.glb');
    await jaunty('mesh', 'again.glb');
    expect(printed[0]).toMatch(/^again\.glb, detail 0: stone \(stone, 432 triangles\)$/);
    expect(printed.filter((l) => l.startsWith('  set')).length).toBe(2);
  });
  it('says what is wrong, with line and byte, and writes nothing then', async () => {
    await fails(/^bad\.obj: line 3: a face uses vertex “3”, and there are 2 so far\. Export the mesh again \(byte 16\)$/, false, 'mesh', 'bad.obj');
    await fails(/^gone\.glb cannot be read$/, false, 'mesh', 'gone.glb');
    await fails(/Name one mesh/, true, 'unwrap', '--out', 'x.glb');
    await fails(/no texture coordinates/, false, 'unwrap', 'stone.glb', '--repack', '--out', 'x.glb');
    await fails(/no level of detail 4/, false, 'unwrap', 'stone.glb', '--level', '4', '--out', 'x.glb');
    expect(await readdir(dir)).not.toContain('x.glb');
  });
});
