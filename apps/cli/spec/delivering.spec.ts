import type { AnyDocument } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { memoryPorts } from '../../../packages/usecases/src/testing/memory';
import { smallProject } from '../../../packages/usecases/src/testing/project';
import { UsageError, run } from '../src/commands';
import { onLine } from './on-line';

describe('a project delivered on the command line', () => {
  let dir: string;
  const { printed, jaunty, problem } = onLine(() => dir);
  const write = async (id: string, body: AnyDocument, folder = 'project') => {
    await mkdir(path.join(dir, folder, 'documents', body.kind), { recursive: true });
    await writeFile(path.join(dir, folder, 'documents', body.kind, `${id}.json`), JSON.stringify(body));
  };
  const sha = async (name: string) =>
    createHash('sha256')
      .update(await readFile(path.join(dir, name)))
      .digest('hex');
  let all: Record<string, AnyDocument>;

  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'pebble-cli-deliver-'));
    const ports = memoryPorts();
    all = await smallProject(ports);
    for (const [id, body] of Object.entries(all)) await write(id, body);
    await mkdir(path.join(dir, 'project/files'));
    for (const [hash, bytes] of ports.kept) await writeFile(path.join(dir, 'project/files', hash), bytes);
    await jaunty('deliver', 'project', '--target', 'Desktop', '--target', 'handheld', '--out', 'out');
  });
  afterAll(() => rm(dir, { recursive: true, force: true }));

  it('is checked, delivered, taken by both devices and proved', async () => {
    await jaunty('deliver', 'project', '--target', 'Desktop', '--target', 'handheld', '--out', 'first');
    expect(printed[0]).toMatch(/^\d+ files written, 0 as they were/);
    await jaunty('preflight', 'project', '--target', 'desktop');
    expect(printed.at(-1)).toMatch(/files can be delivered/);
    await jaunty('target', 'out');
    expect(printed.filter((l) => /1 models, 2 slots dressed/.test(l)).length).toBe(2);
    await jaunty('proof', 'project', 'out', '--json');
    const { summary, problems } = JSON.parse(printed[0]) as { summary: { identical: number; lossless: number; lossy: number }; problems: [] };
    expect(problems).toEqual([]);
    expect(summary.identical).toBe(summary.lossless);
    expect(summary.lossy).toBeGreaterThan(10);
    await jaunty('deliver', 'project', '--target', 'desktop', '--target', 'handheld', '--out', 'out');
    expect(printed[0]).toMatch(/^0 files written/);
  });

  it('is delivered for its own target where none is named, without what is left out', async () => {
    await jaunty('deliver', 'project', '--out', 'own', '--skip', 'desktop/packed/lime_plaster_height.tiff', '--json');
    expect(JSON.parse(printed[0])).toEqual(jasmine.objectContaining({ kept: 0 }));
    const manifest = JSON.parse(await readFile(path.join(dir, 'own/manifest.json'), 'utf8')) as {
      targets: object;
      files: { path: string; sha256: string }[];
    };
    expect(Object.keys(manifest.targets)).toEqual(['desktop']);
    expect(manifest.files.some((f) => f.path.endsWith('height.tiff'))).toBeFalse();
    for (const f of manifest.files.slice(0, 3)) expect(await sha(`own/${f.path}`)).toBe(f.sha256);
  });

  it('follows its folder: a change is on the disk soon after, and other files are not touched', async () => {
    await jaunty('deliver', 'project', '--target', 'desktop', '--out', 'linked');
    const untouched = await sha('linked/desktop/textures/gate_post_basecolor.ktx2');
    const { mtimeMs } = await import('node:fs').then((fs) => fs.statSync(path.join(dir, 'linked/desktop/textures/gate_post_basecolor.ktx2')));
    const said: string[] = [];
    const following = run(['deliver', 'project', '--target', 'desktop', '--out', 'linked', '--watch'], dir, (t) => said.push(t));
    void following.catch(() => undefined);
    const until = async (test: () => boolean) => {
      for (let i = 0; i < 400 && !test(); i++) await new Promise((resolve) => setTimeout(resolve, 50));
      expect(test()).withContext(said.join(' | ')).toBeTrue();
    };
    await until(() => said.some((t) => t.startsWith('Following')));
    const before = await sha('linked/desktop/packed/lime_plaster_orm.ktx2');
    const usual = structuredClone(all['usual']) as Extract<AnyDocument, { kind: 'recipe' }>;
    const route = usual.files['orm'].channels.g;
    if (route?.from === 'map') route.invert = true;
    await write('usual', usual);
    await until(() => said.some((t) => t.startsWith('1 files written')));
    expect(await sha('linked/desktop/packed/lime_plaster_orm.ktx2')).not.toBe(before);
    expect(await sha('linked/desktop/textures/gate_post_basecolor.ktx2')).toBe(untouched);
    expect((await import('node:fs')).statSync(path.join(dir, 'linked/desktop/textures/gate_post_basecolor.ktx2')).mtimeMs).toBe(mtimeMs);
    // What cannot be delivered is told, and the next change is.
    await writeFile(path.join(dir, 'project/documents/recipe/usual.json'), '{');
    await until(() => said.some((t) => t.startsWith('Not delivered: ') && t.includes('usual.json is not JSON')));
    await write('usual', all['usual']);
    await until(() => said.filter((t) => t.startsWith('1 files written')).length === 2);
    expect(await sha('linked/desktop/packed/lime_plaster_orm.ktx2')).toBe(before);
  });

  it('is refused with what, where and what to do', async () => {
    expect(await problem('deliver', 'project')).toBeInstanceOf(UsageError);
    expect((await problem('deliver', 'nowhere', '--out', 'x')).message).toContain('is no project: it has no folder "documents"');
    expect((await problem('deliver', 'project', '--target', 'toaster', '--out', 'x')).message).toContain(
      'There is no target toaster; there are Desktop, Handheld',
    );
    expect((await problem('proof', 'project', 'project')).message).toContain('There is no manifest.json');
    await mkdir(path.join(dir, 'broken'), { recursive: true });
    await jaunty('deliver', 'project', '--target', 'desktop', '--out', 'broken');
    await writeFile(
      path.join(dir, 'broken/desktop/gate.glb'),
      await nodeCodec.encode({ width: 1, height: 1, channels: 1, depth: 8, colourSpace: 'data', data: new Uint8Array(1) }),
    );
    expect((await problem('proof', 'project', 'broken')).message).toContain('desktop/gate.glb has');
    expect((await problem('target', 'broken')).message).toBe('Not all of the bundle was taken');
    expect(printed.some((l) => l.includes('refused: desktop/gate.glb'))).toBeTrue();
    const newer = JSON.parse(await readFile(path.join(dir, 'out/manifest.json'), 'utf8')) as { version: number };
    await writeFile(path.join(dir, 'broken/manifest.json'), JSON.stringify({ ...newer, version: 9 }));
    expect((await problem('target', 'broken')).message).toContain('version 9, and this reads up to 1');
    await writeFile(path.join(dir, 'lone.txt'), 'no zip');
    expect((await problem('target', 'lone.txt')).message).toContain('no ZIP that can be read');
    const blob = Object.values((all['plaster'] as Extract<AnyDocument, { kind: 'surface' }>).maps)[0].blob;
    const bytes = await readFile(path.join(dir, 'project/files', blob));
    await rm(path.join(dir, 'project/files', blob));
    expect((await problem('deliver', 'project', '--target', 'desktop', '--out', 'y')).message).toContain(blob);
    // The other specs have the same project.
    await writeFile(path.join(dir, 'project/files', blob), bytes);
  });
});
