import { TARGETS, fullScale, makeImage } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { flipGreen } from '@pebble/usecases';
import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { UsageError, run } from '../src/commands';

describe('maps on the command line', () => {
  let dir = '';
  let printed: string[] = [];
  const jaunty = (...args: string[]) => run(args, dir, (text) => printed.push(text));
  const read = async (file: string) => nodeCodec.decode(await readFile(path.join(dir, file)), 'data');
  const values = async (file: string) => {
    const { data, depth } = await read(file);
    return Array.from(data, (v) => v / fullScale(depth));
  };
  const fails = (text: RegExp, usage: boolean, ...args: string[]) =>
    jaunty(...args).then(
      () => fail('nothing was thrown'),
      (e: Error) => {
        expect(e instanceof UsageError)
          .withContext(e.message)
          .toBe(usage);
        expect(e.message).toMatch(text);
      },
    );

  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'jaunty-maps-'));
    await mkdir(path.join(dir, 'odd'));
    await jaunty('generate', 'terrace-stone', '--seed', '5', '--size', '96', '--out', '.');
  });
  beforeEach(() => (printed = []));
  afterAll(() => rm(dir, { recursive: true }));

  it('derive normals from a height as the surface has them, and the height back', async () => {
    const { sizeM, reliefM } = JSON.parse(await readFile(path.join(dir, 'surface.json'), 'utf8')) as { sizeM: number; reliefM: number };
    const scale = ['--size', String(sizeM), '--relief', String(reliefM * 1000)];
    await jaunty('derive', 'normal', 'terrace-stone_height.png', '--out', 'n.png', ...scale);
    const [made, own] = [await values('n.png'), await values('terrace-stone_normal.png')];
    const off = made.map((v, i) => Math.abs(v - own[i])).sort((a, b) => a - b);
    expect(off[Math.floor(off.length * 0.99)]).toBeLessThan(2 / 255);
    await jaunty('derive', 'height', 'n.png', '--out', 'h.png', ...scale);
    expect(printed.join()).toMatch(/The directions are met within 0\.\d\d %; relief \d+\.\d mm\./);
    const [back, height] = [await values('h.png'), await values('terrace-stone_height.png')];
    const mean = (of: number[]) => of.reduce((a, b) => a + b, 0) / of.length;
    const [a, b] = [mean(back), mean(height)];
    const dot = (p: number[], ma: number, q: number[], mb: number) => p.reduce((sum, v, i) => sum + (v - ma) * (q[i] - mb), 0);
    expect(dot(back, a, height, b) / Math.sqrt(dot(back, a, back, a) * dot(height, b, height, b))).toBeGreaterThan(0.999);
  });
  it('derive carries a border that does not tile on, and says so', async () => {
    const slope = makeImage({ width: 32, height: 32, channels: 1, depth: 16 });
    for (let i = 0; i < 1024; i++) slope.data[i] = 8000 + 1500 * (i % 32);
    await writeFile(path.join(dir, 'odd/slope_height.png'), await nodeCodec.encode(slope));
    await jaunty('derive', 'normal', 'odd/slope_height.png', '--out', 'odd/slope_n.png');
    expect(printed.join()).toMatch(/does not tile/);
    const made = await values('odd/slope_n.png');
    for (let i = 0; i < made.length; i++) expect(Math.abs(made[i] - made[i % 3])).toBeLessThan(1e-4);
  });
  it('inspect asks about a grey map whose name says nothing, and goes on past files that it cannot read', async () => {
    for (const role of ['height', 'roughness', 'occlusion'])
      await writeFile(path.join(dir, `q_${role.length}.png`), await readFile(path.join(dir, `terrace-stone_${role}.png`)));
    for (const length of [6, 9]) {
      await jaunty('inspect', `q_${length}.png`, '--json');
      const [row] = JSON.parse(printed.at(-1) ?? '') as { findings: { severity: string }[] }[];
      expect(row.findings.some((f) => f.severity === 'question')).toBeTrue();
    }
    const greyAlpha = makeImage({
      width: 16,
      height: 16,
      channels: 2,
      data: Uint8Array.from({ length: 512 }, (_, i) => (i % 2 ? (i >> 1) % 256 : 90)),
    });
    await writeFile(path.join(dir, 'odd/leaf_height.png'), await nodeCodec.encode(greyAlpha));
    await writeFile(path.join(dir, 'broken.png'), 'no picture');
    await fails(/broken\.png: .*no image/, false, 'inspect', 'odd/leaf_height.png', 'broken.png', 'terrace-stone_height.png');
    expect(printed.filter((line) => / × /.test(line)).map((line) => line.split(':')[0])).toEqual(['odd/leaf_height.png', 'terrace-stone_height.png']);
  });
  it('take negative numbers as people type them', async () => {
    await fails(/--relief takes a number from 0/, true, 'derive', 'normal', 'terrace-stone_height.png', '--out', 'x.png', '--relief', '-5');
    await fails(/--size takes a number/, true, 'derive', 'normal', 'terrace-stone_height.png', '--out', 'x.png', '--size', '-.5');
  });
  it('derive reads Y− by itself, or as it is told', async () => {
    const normal = await read('terrace-stone_normal.png');
    await writeFile(path.join(dir, 'down.png'), await nodeCodec.encode(flipGreen(normal)));
    await jaunty('derive', 'height', 'terrace-stone_normal.png', '--out', 'a.png');
    await jaunty('derive', 'height', 'down.png', '--out', 'b.png');
    await jaunty('derive', 'height', 'down.png', '--out', 'c.png', '--green', 'y+');
    const [a, b, c] = await Promise.all(['a.png', 'b.png', 'c.png'].map(values));
    const worst = (p: number[]) => p.reduce((most, v, i) => Math.max(most, Math.abs(v - a[i])), 0);
    expect(worst(b)).toBeLessThan(0.01);
    expect(worst(c)).toBeGreaterThan(0.1);
  });
  it('derive goes through several steps with their values', async () => {
    await jaunty('derive', 'desaturate,levels,invert', 'terrace-stone_baseColor.png', '--out', 'r.png', '--set', 'low=0.4', '--set', 'high=0.9');
    const found = await values('r.png');
    expect(Math.min(...found)).toBeGreaterThanOrEqual(0.1 - 1 / 255);
    expect(Math.max(...found)).toBeLessThanOrEqual(0.6 + 1 / 255);
    expect((await read('r.png')).channels).toBe(1);
  });
  it('derive says what it cannot do, and writes nothing', async () => {
    await fails(/no step melt; there are channel, desaturate/, true, 'derive', 'melt', 'n.png', '--out', 'x.png');
    await fails(/called softness; they take black, white/, true, 'derive', 'levels', 'n.png', '--out', 'x.png', '--set', 'softness=1');
    await fails(/from 0\.1 to 10, not "0"/, true, 'derive', 'levels', 'n.png', '--out', 'x.png', '--set', 'gamma=0');
    await fails(/--green takes y\+ or y-/, true, 'derive', 'height', 'n.png', '--out', 'x.png', '--green', 'up');
    await fails(/nothing\.png cannot be read/, false, 'derive', 'invert', 'nothing.png', '--out', 'x.png');
    expect(await readdir(dir)).not.toContain('x.png');
  });
  it('mips are a file a level, by role: roughness keeps what the normal map loses, cut-outs their cover', async () => {
    await jaunty('mips', 'terrace-stone_roughness.png', '--role', 'roughness', '--out', 'plain');
    await jaunty('mips', 'terrace-stone_roughness.png', '--role', 'roughness', '--normal', 'terrace-stone_normal.png', '--out', 'kept');
    expect(printed.at(-1)).toBe('7 levels, 96 × 96 to 1 × 1');
    expect((await readdir(path.join(dir, 'kept'))).length).toBe(7);
    const level = async (folder: string, l: number) => values(`${folder}/terrace-stone_roughness_mip${l}.png`);
    expect(await level('kept', 0)).toEqual(await values('terrace-stone_roughness.png'));
    const mean = (of: number[]) => of.reduce((a, b) => a + b, 0) / of.length;
    for (const l of [3, 6]) expect(mean(await level('kept', l))).toBeGreaterThan(mean(await level('plain', l)) + 0.005);

    const leaf = makeImage({ width: 32, height: 32, channels: 4 });
    for (let i = 0; i < 1024; i++) leaf.data.set([40, 120, 30, i % 5 === 0 ? 255 : 0], i * 4);
    await writeFile(path.join(dir, 'leaf.png'), await nodeCodec.encode({ ...leaf, colourSpace: 'srgb' }));
    await jaunty('mips', 'leaf.png', '--role', 'opacity', '--cutoff', '0.5', '--out', 'leaf');
    const covered = (of: number[]) => of.filter((v, i) => i % 4 === 3 && v >= 0.5).length / (of.length / 4);
    expect(covered(await values('leaf/leaf_mip2.png'))).toBeGreaterThan(0.1);
    await jaunty('mips', 'leaf.png', '--role', 'baseColor', '--out', 'faded');
    expect((await readdir(path.join(dir, 'faded'))).length).toBe(6);

    await fails(/There is no role shine; there are baseColor/, true, 'mips', 'leaf.png', '--role', 'shine', '--out', 'x');
    await fails(/--normal is for levels of roughness/, true, 'mips', 'leaf.png', '--role', 'height', '--normal', 'leaf.png', '--out', 'x');
    await fails(/--cutoff takes a number from 0\.01 to 1|0\.01/, true, 'mips', 'leaf.png', '--role', 'opacity', '--cutoff', '7', '--out', 'x');
    await fails(/gone\.png cannot be read/, false, 'mips', 'gone.png', '--role', 'height', '--out', 'x');
  });
  it('memory is told to the byte, by role and target', async () => {
    const files = ['terrace-stone_baseColor.png', 'terrace-stone_normal.png', 'terrace-stone_height.png'];
    await jaunty('memory', ...files, '--target', 'headset', '--json');
    const told = JSON.parse(printed[0]) as { bytes: number; files: { format: string; width: number; levels: number; bytes: number }[] };
    // 96 less one dropped mip is 48: 12², 6², 3², 2², 1, 1 blocks.
    const blocks = 144 + 36 + 9 + 4 + 1 + 1;
    expect(told.files.map((f) => [f.format, f.width, f.levels, f.bytes])).toEqual([
      ['ASTC_4x4', 48, 6, blocks * 16],
      ['ASTC_4x4', 48, 6, blocks * 16],
      ['EAC_R11', 48, 6, blocks * 8],
    ]);
    expect(told.bytes).toBe(blocks * 40);
  });
  it('memory of a packed file is that of a format with its channels', async () => {
    await jaunty('pack', '--from', '.', '--layout', 'r=occlusion,g=roughness,b=height', '--out', 'packed_orh.png');
    await jaunty('memory', 'packed_orh.png', '--target', 'desktop', '--json');
    const [file] = (JSON.parse(printed[0]) as { files: { role: string | null; format: string; bytes: number }[] }).files;
    // 96², 48², 24², 12², 6², 3², 1 in blocks of 4 × 4.
    expect([file.role, file.format, file.bytes]).toEqual([null, 'BC7', (576 + 144 + 36 + 9 + 4 + 1 + 1) * 16]);
  });
  it('memory takes a target document, and says what is wrong with one', async () => {
    const own = { ...TARGETS.desktop, name: 'Kiosk', maxSize: 32 };
    await writeFile(path.join(dir, 'kiosk.json'), JSON.stringify(own));
    await jaunty('memory', 'terrace-stone_height.png', '--target', 'kiosk.json');
    expect(printed.at(-1)).toBe(`Kiosk: ${(36 + 9 + 4 + 1 + 1) * 8} bytes`);
    await writeFile(path.join(dir, 'bad.json'), '{"kind":"target"}');
    await fails(/bad\.json is no target document: kind and formats is missing/, false, 'memory', 'n.png', '--target', 'bad.json');
    await fails(/no target moon; there are desktop, handheld, phone, headset/, true, 'memory', 'n.png', '--target', 'moon');
  });
  it('import says when no server answers, and when an address is none', async () => {
    await fails(/No server answers at http:\/\/127\.0\.0\.1:9/, false, 'import', 'terrace-stone_height.png', '--server', 'http://127.0.0.1:9');
    await fails(/takes an address/, true, 'import', 'terrace-stone_height.png', '--server', 'here');
    await fails(/gone\.png cannot be read/, false, 'import', 'gone.png', '--server', 'http://127.0.0.1:9');
  });
});
