import { SPECIMEN_MODELS, makeImage } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { panel } from '../../../packages/formats/src/testing/panels';
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
  it('turns normals of an object into those of tangents and back, by the mesh that they lie on', async () => {
    const side = panel('wall', 0);
    await writeFile(path.join(dir, 'wall.glb'), await writeGlb('wall', { title: '', lods: [[side]] }));
    // It faces +z and u runs along +x: in both spaces right is x; up is y; outwards is z.
    const image = makeImage({ width: 16, height: 16, channels: 3, data: Uint8Array.from({ length: 768 }, (_, i) => [166, 89, 243][i % 3]) });
    await writeFile(path.join(dir, 'object.png'), await nodeCodec.encode(image));
    await jaunty('normals', 'object.png', '--to', 'tangent', '--mesh', 'wall.glb', '--out', 'tangent.png');
    expect(printed).toEqual(['tangent.png: 16², in the space of tangents, Y+']);
    const turned = await nodeCodec.decode(new Uint8Array(await readFile(path.join(dir, 'tangent.png'))), 'data');
    for (let c = 0; c < 3; c++) expect(Math.abs(turned.data[(8 * 16 + 8) * 3 + c] - image.data[c])).toBeLessThanOrEqual(1);
    await jaunty('normals', 'tangent.png', '--to', 'object', '--mesh', 'wall.glb', '--slot', 'wall', '--out', 'back.png');
    const back = await nodeCodec.decode(new Uint8Array(await readFile(path.join(dir, 'back.png'))), 'data');
    for (let c = 0; c < 3; c++) expect(Math.abs(back.data[(8 * 16 + 8) * 3 + c] - image.data[c])).toBeLessThanOrEqual(1);
    await fails(/takes object or tangent, not "world"/, true, 'normals', 'object.png', '--to', 'world', '--mesh', 'wall.glb', '--out', 'x.png');
    await fails(
      /has no slot called roof; it has wall/,
      true,
      'normals',
      'object.png',
      '--to',
      'object',
      '--mesh',
      'wall.glb',
      '--slot',
      'roof',
      '--out',
      'x.png',
    );
    await fails(
      /stone has no set 1 of texture coordinates/,
      false,
      'normals',
      'object.png',
      '--to',
      'object',
      '--mesh',
      'stone.glb',
      '--out',
      'x.png',
    );
  });
});
