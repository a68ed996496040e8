import { extractChannel, statistics } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { spawnSync } from 'node:child_process';
import { mkdtemp, mkdir, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { UsageError, run } from '../src/commands';

describe('the command line', () => {
  let dir = '';
  let printed: string[] = [];
  const jaunty = (...args: string[]) => run(args, dir, (text) => printed.push(text));
  const read = async (file: string) => nodeCodec.decode(await readFile(path.join(dir, file)), 'data');
  const fails = async (kind: 'usage' | 'failure', text: RegExp, ...args: string[]) =>
    jaunty(...args).then(
      () => fail('nothing was thrown'),
      (e: Error) => {
        expect(e instanceof UsageError)
          .withContext(e.message)
          .toBe(kind === 'usage');
        expect(e.message).toMatch(text);
      },
    );

  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'jaunty-'));
    await jaunty('generate', 'terrace-stone', '--seed', '5', '--size', '48', '--out', 'stone');
    await jaunty('generate', 'cushion-moss', '--seed', '6', '--size', '32', '--out', 'moss');
  });
  beforeEach(() => {
    printed = [];
  });
  afterAll(() => rm(dir, { recursive: true }));

  it('generates six maps and the facts, the same bytes for the same seed', async () => {
    expect((await readdir(path.join(dir, 'stone'))).sort()).toEqual([
      'surface.json',
      ...['baseColor', 'height', 'metallic', 'normal', 'occlusion', 'roughness'].map((r) => `terrace-stone_${r}.png`),
    ]);
    await jaunty('generate', 'terrace-stone', '--seed', '5', '--size', '48', '--out', 'again');
    for (const file of await readdir(path.join(dir, 'stone')))
      expect(Buffer.compare(await readFile(path.join(dir, 'stone', file)), await readFile(path.join(dir, 'again', file))))
        .withContext(file)
        .toBe(0);
    expect((await read('stone/terrace-stone_height.png')).depth).toBe(16);
    expect(JSON.parse(await readFile(path.join(dir, 'stone/surface.json'), 'utf8'))).toEqual({ sizeM: 2.4, reliefM: 0.05, mid: 0.62 });
  });
  it('writes a specimen with its parts and levels, and knows which there are', async () => {
    await jaunty('specimen', 'copper-still', '--out', 'still.glb');
    const { lods } = (await readGltf(await readFile(path.join(dir, 'still.glb')))).model;
    expect(lods.map((parts) => parts.map((p) => p.name).join())).toEqual(['body,lid,pipe,stand', 'body,lid,pipe,stand']);
    await fails('usage', /marker-stone/, 'specimen', 'teapot', '--out', 'x.glb');
  });
  it('packs exactly and unpacks what it packed', async () => {
    await jaunty('pack', '--from', 'stone', '--layout', 'r=occlusion,g=1-roughness,b=metallic,a=0.25', '--out', 'out/orm.png');
    const packed = await read('out/orm.png');
    const occlusion = await read('stone/terrace-stone_occlusion.png');
    expect(packed.channels).toBe(4);
    expect([...extractChannel(packed, 0).data]).toEqual([...occlusion.data]);
    expect(packed.data[3]).toBe(64);
    await jaunty('unpack', 'out/orm.png', '--layout', 'r=occlusion,g=1-roughness,b=metallic,a=0.25', '--out', 'back');
    expect((await readdir(path.join(dir, 'back'))).sort()).toEqual(['orm_metallic.png', 'orm_occlusion.png', 'orm_roughness.png']);
    expect([...(await read('back/orm_roughness.png')).data]).toEqual([...(await read('stone/terrace-stone_roughness.png')).data]);
    // The packed file agrees with an independent reader, too.
    expect([...(await sharp(path.join(dir, 'out/orm.png')).raw().toBuffer())].filter((_, i) => i % 4 === 0)).toEqual([...occlusion.data]);
  });
  it('rounds the 16-bit height to the nearest byte when packing', async () => {
    await jaunty('pack', '--from', 'stone', '--layout', 'r=height', '--out', 'h.png');
    const height = await read('stone/terrace-stone_height.png');
    expect([...(await read('h.png')).data]).toEqual([...height.data].map((v) => Math.round(v / 257)));
  });
  it('packs the neutral value of a role that has no file, and reads gloss as one minus roughness', async () => {
    await mkdir(path.join(dir, 'glossy'));
    const made = (value: number) =>
      ({ width: 2, height: 2, channels: 1, depth: 8, colourSpace: 'data', data: new Uint8Array(4).fill(value) }) as const;
    await writeFile(path.join(dir, 'glossy/wall_gloss.png'), await nodeCodec.encode(made(55)));
    await writeFile(path.join(dir, 'glossy/wall_ao.png'), await nodeCodec.encode(made(9)));
    await jaunty('pack', '--from', 'glossy', '--layout', 'r=occlusion,g=roughness,b=metallic', '--out', 'plain.png');
    expect([...(await read('plain.png')).data.subarray(0, 3)]).toEqual([9, 200, 0]);
    expect(printed.at(-1)).toBe('glossy has no metallic map: the neutral value stands there');
  });
  it('names a role that is missing and leaves no file behind', async () => {
    await fails('failure', /no emissive map/, 'pack', '--from', 'stone', '--layout', 'r=emissive', '--out', 'never/x.png');
    expect(await readdir(dir)).not.toContain('never');
    await fails('failure', /no g/, 'pack', '--from', 'stone', '--layout', 'r=roughness.g', '--out', 'never/x.png');
  });
  it('refuses maps of different sizes until told a size', async () => {
    await mkdir(path.join(dir, 'mixed'));
    for (const [name, side] of [
      ['a_roughness.png', 4],
      ['a_metallic.png', 8],
    ] as const)
      await writeFile(
        path.join(dir, 'mixed', name),
        await nodeCodec.encode({ width: side, height: side, channels: 1, depth: 8, colourSpace: 'data', data: new Uint8Array(side * side).fill(9) }),
      );
    await fails('failure', /different sizes.*--size/, 'pack', '--from', 'mixed', '--layout', 'r=roughness,g=metallic', '--out', 'm.png');
    await jaunty('pack', '--from', 'mixed', '--layout', 'r=roughness,g=metallic', '--size', '6', '--out', 'm.png');
    expect((await read('m.png')).width).toBe(6);
  });
  it('blends two folders by height into the same six maps', async () => {
    await jaunty(
      'blend',
      '--below',
      'stone',
      '--above',
      'moss',
      '--coverage',
      '0.5',
      '--softness',
      '0.1',
      '--lift',
      '0.002',
      '--size',
      '48',
      '--out',
      'blend',
    );
    expect((await readdir(path.join(dir, 'blend'))).length).toBe(7);
    await jaunty('blend', '--below', 'stone', '--above', 'moss', '--coverage', '0', '--size', '48', '--out', 'none');
    expect([...(await read('none/blend_baseColor.png')).data]).toEqual([...(await read('stone/terrace-stone_baseColor.png')).data]);
    const [below] = statistics(await read('none/blend_roughness.png'));
    const [mixed] = statistics(await read('blend/blend_roughness.png'));
    expect(mixed.mean).not.toBeCloseTo(below.mean, 3);
  });
  it('takes folders without facts for 1 m and 5 cm of relief', async () => {
    await jaunty('generate', 'river-gravel', '--size', '8', '--out', 'bare');
    await rm(path.join(dir, 'bare/surface.json'));
    await jaunty('blend', '--below', 'bare', '--above', 'bare', '--coverage', '0', '--size', '8', '--out', 'plain');
    expect(JSON.parse(await readFile(path.join(dir, 'plain/surface.json'), 'utf8'))).toEqual({ sizeM: 1, reliefM: 0.05, mid: 0.5 });
  });
  it('inspects files', async () => {
    await jaunty('inspect', 'stone/terrace-stone_height.png', 'stone/terrace-stone_baseColor.png', '--json');
    const [height, colour] = JSON.parse(printed[0]) as Record<string, unknown>[];
    expect(height).toEqual(
      jasmine.objectContaining({
        ...{ file: 'stone/terrace-stone_height.png', width: 48, height: 48, channels: 1, bitDepth: 16 },
        ...{ role: 'height', colourSpace: 'data', normalDirection: null, normalConfidence: 0, packed: null },
      }),
    );
    expect(colour).toEqual(jasmine.objectContaining({ channels: 3, bitDepth: 8, role: 'baseColor', colourSpace: 'srgb', roleConfidence: 0.99 }));
    expect(Object.keys(colour)).toEqual(
      'file width height channels bitDepth role roleConfidence colourSpace normalDirection normalConfidence packed findings'.split(' '),
    );
  });
  it('inspects files whose names say nothing, or something else than their content', async () => {
    const stone = (role: string) => readFile(path.join(dir, `stone/terrace-stone_${role}.png`));
    await jaunty('generate', 'terrace-stone', '--seed', '6', '--size', '256', '--out', 'large');
    const large = (role: string) => readFile(path.join(dir, `large/terrace-stone_${role}.png`));
    await writeFile(path.join(dir, 'x1.png'), await large('normal'));
    await writeFile(path.join(dir, 'yard_normal.png'), await large('baseColor'));
    await jaunty('pack', '--from', 'large', '--layout', 'r=occlusion,g=roughness,b=height', '--out', 'yard_orh.png');
    await jaunty('inspect', 'x1.png', 'yard_normal.png', 'yard_orh.png', '--json');
    const [normal, disagrees, packed] = JSON.parse(printed.at(-1) as string) as {
      role: string;
      normalDirection: string;
      normalConfidence: number;
      packed: object;
      findings: { code: string; severity: string }[];
    }[];
    expect([normal.role, normal.normalDirection]).toEqual(['normal', 'y+']);
    expect(normal.normalConfidence).toBeGreaterThan(0.5);
    expect(disagrees.findings).toContain(jasmine.objectContaining({ code: 'name-content-disagree', severity: 'question' }));
    expect(packed.packed).toEqual({ r: 'occlusion', g: 'roughness', b: 'height', a: null });
    await writeFile(path.join(dir, 'cut.png'), (await stone('normal')).subarray(0, 900));
    await fails('failure', /cut.png: the file is cut off/, 'inspect', 'cut.png');
    await jaunty('inspect', 'x1.png');
    expect(printed.at(-1)).toMatch(/^x1.png: 256 × 256, 3 channels, 8 bit, normal \(\d+ %\), data, Y\+/);
  });
  it('refuses what is no picture', async () => {
    await writeFile(path.join(dir, 'liar.png'), 'not a picture');
    await fails('failure', /liar.png: .*no image of a kind that is read/, 'inspect', 'liar.png');
  });
  it('tells bad use from failure, and helps', async () => {
    await fails('usage', /no command knead/, 'knead');
    await fails('usage', /no surface called lava/, 'generate', 'lava', '--out', 'x');
    await fails('usage', /--size takes a whole number from 1 to 16384/, 'generate', 'river-gravel', '--size', '99999', '--out', 'x');
    await fails('usage', /--out is missing/, 'generate', 'river-gravel');
    await fails('usage', /character 3/, 'pack', '--from', 'stone', '--layout', 'r=wrong', '--out', 'x.png');
    await fails('usage', /unknown|Unknown/, 'inspect', '--loud', 'x');
    await fails('failure', /not a folder/, 'pack', '--from', 'nowhere', '--layout', 'r=height', '--out', 'x.png');
    await jaunty('--help');
    await jaunty('pack', '--help');
    expect(printed[0]).toContain('unpack FILE.png');
    expect(printed[1]).toContain('--layout');
  });
  it('as a program: exit code 0, 2 for bad use, 1 for failure; one sentence on stderr; paths from where the caller is', () => {
    const program = path.resolve(import.meta.dirname, '../../../dist/node/cli.mjs');
    const call = (...args: string[]) => spawnSync(process.execPath, [program, ...args], { encoding: 'utf8', env: { ...process.env, INIT_CWD: dir } });
    const fine = call('inspect', 'stone/terrace-stone_height.png', '--json');
    expect([fine.status, fine.stderr]).toEqual([0, '']);
    expect((JSON.parse(fine.stdout) as { width: number }[])[0].width).toBe(48);
    const wrong = call('generate', 'lava', '--out', 'x');
    expect([wrong.status, wrong.stdout]).toEqual([2, '']);
    expect(wrong.stderr).toMatch(/^There is no surface called lava[^\n]*\n$/);
    const missing = call('pack', '--from', 'nowhere', '--layout', 'r=height', '--out', 'x.png');
    expect(missing.status).toBe(1);
    expect(missing.stderr).toMatch(/^[^\n]*nowhere is not a folder[^\n]*\n$/);
    expect(call().status).toBe(2);
    expect(call('--help').status).toBe(0);
  });

  it('packs a folder by a recipe that was saved: every file of it, what is missing being said', async () => {
    await jaunty('generate', 'river-gravel', '--seed', '4', '--size', '32', '--out', 'gravel');
    const from = (role: string, over: object = {}) => ({ from: 'map', role, channel: 0, invert: false, ...over });
    const recipe = {
      kind: 'recipe',
      version: 1,
      name: 'Own',
      template: '{set}_{file}_{size}',
      size: 16,
      sources: {},
      files: {
        a: {
          order: 1,
          label: 'orm',
          depth: 8,
          channels: { r: from('occlusion'), g: from('roughness', { levels: { low: 0.2, high: 0.8, mid: 0.5 } }), b: from('metallic') },
        },
        b: { order: 2, label: 'height', depth: 8, dither: true, channels: { r: from('height') } },
        c: { order: 3, label: 'glow', depth: 8, channels: { r: from('emissive') } },
      },
    };
    await writeFile(path.join(dir, 'own.recipe.json'), JSON.stringify(recipe));
    printed.length = 0;
    await jaunty('pack', '--from', 'gravel', '--recipe', 'own.recipe.json', '--out', 'byrecipe');
    expect((await readdir(path.join(dir, 'byrecipe'))).sort()).toEqual(['gravel_height_16.png', 'gravel_orm_16.png']);
    expect(printed).toContain('gravel_glow_16.png: left out, gravel has no emissive map');
    const orm = await nodeCodec.decode(await readFile(path.join(dir, 'byrecipe/gravel_orm_16.png')), 'data');
    expect([orm.width, orm.height, orm.channels]).toEqual([16, 16, 3]);
    await writeFile(path.join(dir, 'bad.recipe.json'), JSON.stringify({ ...recipe, template: '../{file}' }));
    await expectAsync(jaunty('pack', '--from', 'gravel', '--recipe', 'bad.recipe.json', '--out', 'x')).toBeRejectedWithError(/slash/);
    await writeFile(path.join(dir, 'bad.recipe.json'), JSON.stringify({ ...recipe, size: 0 }));
    await expectAsync(jaunty('pack', '--from', 'gravel', '--recipe', 'bad.recipe.json', '--out', 'x')).toBeRejectedWithError(/size/);
    await expectAsync(jaunty('pack', '--from', 'gravel', '--out', 'x')).toBeRejectedWithError(/--layout, or a --recipe/);
  });

  it('writes what the ending says, with all smaller levels and in blocks where that is asked for, and measures what was lost', async () => {
    await jaunty('generate', 'weathered-copper', '--seed', '4', '--size', '64', '--out', 'copper');
    const orm = 'r=occlusion,g=roughness,b=metallic';
    await jaunty('pack', '--from', 'copper', '--layout', orm, '--out', 'orm.png');
    const meant = await nodeCodec.decode(await readFile(path.join(dir, 'orm.png')), 'data');
    for (const name of ['orm.tga', 'orm.tiff', 'plain.ktx2']) {
      await jaunty('pack', '--from', 'copper', '--layout', orm, '--out', name);
      expect((await nodeCodec.decode(await readFile(path.join(dir, name)), 'data')).data)
        .withContext(name)
        .toEqual(meant.data);
    }
    await jaunty('pack', '--from', 'copper', '--layout', orm, '--out', 'orm.ktx2', '--block', 'bc7', '--mips');
    printed.length = 0;
    await jaunty('memory', 'orm.ktx2', '--target', 'handheld', '--json');
    await jaunty('quality', 'orm.png', 'orm.ktx2', '--json');
    const [, told] = printed.map((t) => JSON.parse(t) as { as: string; channels: { psnr: number | null }[] });
    expect(told.as).toBe('data');
    told.channels.forEach(({ psnr }) => expect(psnr ?? 99).toBeGreaterThan(25));
    printed.length = 0;
    await jaunty('quality', 'orm.png', 'orm.tga');
    expect(printed).toEqual(['r: equal', 'g: equal', 'b: equal']);
    const no = (message: RegExp, ...args: string[]) => expectAsync(jaunty(...args)).toBeRejectedWithError(message);
    await no(/holds data, which JPEG would change.*--lossy/, 'pack', '--from', 'copper', '--layout', orm, '--out', 'orm.jpg');
    await jaunty('pack', '--from', 'copper', '--layout', 'r=baseColor.r,g=baseColor.g,b=baseColor.b', '--out', 'base.jpg');
    await no(/ends in no kind of file that is written/, 'pack', '--from', 'copper', '--layout', orm, '--out', 'orm.bmp');
    await no(/Blocks are kept in KTX2/, 'pack', '--from', 'copper', '--layout', orm, '--out', 'x.png', '--block', 'BC7');
    await no(/PNG holds no smaller levels; KTX2 does/, 'pack', '--from', 'copper', '--layout', orm, '--out', 'x.png', '--mips');
    await no(/--block takes plain, BC1/, 'pack', '--from', 'copper', '--layout', orm, '--out', 'x.ktx2', '--block', 'ASTC');
    await jaunty('pack', '--from', 'copper', '--layout', 'r=height', '--out', 'other.png', '--size', '32');
    await no(/only pictures of one size can be compared/, 'quality', 'orm.png', 'other.png');
  });

  it('unpacks by a guess where name and content are clear, and says what to give where they are not', async () => {
    await jaunty('generate', 'roof-tile', '--seed', '4', '--size', '64', '--out', 'tile');
    for (const [layout, name] of [
      ['r=occlusion,g=roughness,b=metallic', 'tile_ORM.png'],
      ['r=roughness,g=occlusion,b=height', 'tile_roughness_occlusion_height.png'],
    ]) {
      await jaunty('pack', '--from', 'tile', '--layout', layout, '--out', name);
      printed.length = 0;
      await jaunty('unpack', name, '--out', `guessed/${name}`);
      expect(printed).toEqual([`${name}: taken for ${layout}`]);
      const stem = name.replace('.png', '');
      for (const role of layout.split(',').map((c) => c.split('=')[1])) {
        const [found, meant] = [`guessed/${name}/${stem}_${role}.png`, `by/${name}/${stem}_${role}.png`];
        await jaunty('unpack', name, '--layout', layout, '--out', `by/${name}`);
        expect(await readFile(path.join(dir, found))).toEqual(await readFile(path.join(dir, meant)));
      }
    }
    await jaunty('pack', '--from', 'tile', '--layout', 'r=occlusion,g=roughness,b=height', '--out', 'something.png');
    await expectAsync(jaunty('unpack', 'something.png', '--out', 'x')).toBeRejectedWithError(
      /something\.png: it is not clear what its channels hold.*--layout/,
    );
  });
});
