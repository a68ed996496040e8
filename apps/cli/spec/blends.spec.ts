import type { BlendDocument, Coverage } from '@pebble/core';
import { DEFAULT_WATER, makeBlend, makeCue, makeLayer, parseCoverage } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { UsageError, run } from '../src/commands';

describe('blend documents on the command line', () => {
  let dir = '';
  let printed: string[] = [];
  const jaunty = (...args: string[]) => run(args, dir, (text) => printed.push(text));
  const read = async (file: string) => nodeCodec.decode(await readFile(path.join(dir, file)), 'data');
  const write = (file: string, body: unknown) => writeFile(path.join(dir, file), JSON.stringify(body));
  const problem = (...args: string[]) =>
    jaunty(...args).then(
      () => fail('nothing was thrown') as never,
      (e: Error) => e,
    );
  const moss: Coverage = {
    damp: makeCue('noise', { order: 1, sizeM: 0.6, centre: 0.5, width: 0.3, seed: 3 }),
    low: makeCue('low', { order: 2, join: 'butNot', centre: 0.002, width: 0.006 }),
  };
  const step = (over: Partial<BlendDocument> = {}) =>
    makeBlend('Step', {
      extentM: 2.4,
      layers: {
        ground: makeLayer('stone', 'Stone', 1),
        moss: makeLayer('moss', 'Moss', 2, { coverage: moss }),
        pool: makeLayer({ kind: 'water', ...DEFAULT_WATER, levelM: -0.008 }, 'Puddle', 3, { coverage: {} }),
      },
      ...over,
    });

  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'jaunty-blend-'));
    await jaunty('generate', 'terrace-stone', '--seed', '5', '--size', '48', '--out', 'stone');
    await jaunty('generate', 'cushion-moss', '--seed', '6', '--size', '32', '--out', 'moss');
    await jaunty('specimen', 'marker-stone', '--out', 'stone.glb');
    await write('step.json', step());
  });
  beforeEach(() => (printed = []));
  afterAll(() => rm(dir, { recursive: true }));

  it('are evaluated to the maps that are asked for, the same bytes each time', async () => {
    await jaunty('blend', '--doc', 'step.json', '--out', 'out', '--size', '40', '--maps', 'baseColor,height');
    expect((await readdir(path.join(dir, 'out'))).sort()).toEqual(['step_baseColor.png', 'step_height.png', 'surface.json']);
    await jaunty('blend', '--doc', 'step.json', '--out', 'again', '--size', '40', '--maps', 'baseColor,height');
    expect(await readFile(path.join(dir, 'out/step_height.png'))).toEqual(await readFile(path.join(dir, 'again/step_height.png')));
    const height = await read('out/step_height.png');
    expect([height.width, height.depth]).toEqual([40, 16]);
    const { reliefM, mid } = JSON.parse(await readFile(path.join(dir, 'out/surface.json'), 'utf8')) as { reliefM: number; mid: number };
    // Nothing is lower than the water's level.
    const metres = [...height.data].map((v) => (v / 65535 - mid) * reliefM);
    expect(Math.min(...metres)).toBeGreaterThan(-0.00801);
    expect(metres.filter((h) => Math.abs(h + 0.008) < 1e-5).length).toBeGreaterThan(20);
  });
  it('are baked over the coordinates of a mesh, carried past its islands', async () => {
    const { layers } = step();
    const edges = { e: makeCue('convexity', { centre: 12, width: 20 }) };
    await write('worn.json', step({ extentM: 0.5, layers: { ground: layers['ground'], moss: { ...layers['moss'], coverage: edges } } }));
    await jaunty('unwrap', 'stone.glb', '--out', 'laid.glb', '--level', '1', '--repack');
    await jaunty('blend', '--doc', 'worn.json', '--mesh', 'laid.glb', '--out', 'baked', '--size', '64', '--maps', 'roughness');
    const { data } = await read('baked/worn_roughness.png');
    expect(new Set(data).size).toBeGreaterThan(20);
  });
  it('may show blends that lie beside them, and refuse circles', async () => {
    const { layers } = step();
    await write(
      'outer.json',
      makeBlend('Outer', {
        extentM: 4.8,
        layers: { a: makeLayer({ kind: 'blend', blend: 'step.json' }, 'Inner', 1), b: { ...layers['moss'], order: 2 } },
      }),
    );
    await jaunty('blend', '--doc', 'outer.json', '--out', 'outer', '--size', '16', '--maps', 'roughness');
    expect((await read('outer/outer_roughness.png')).width).toBe(16);
    await write('self.json', makeBlend('Self', { layers: { a: makeLayer({ kind: 'blend', blend: 'self.json' }, 'Itself', 1), b: layers['moss'] } }));
    expect((await problem('blend', '--doc', 'self.json', '--out', 'x')).message).toContain('holds');
  });
  it('say what is missing or wrong, and where', async () => {
    await write('gone.json', step({ layers: { a: makeLayer('granite', 'Granite', 1) } }));
    expect((await problem('blend', '--doc', 'gone.json', '--out', 'x')).message).toContain('granite is not a folder that can be read');
    await jaunty('blend', '--doc', 'gone.json', '--out', 'x', '--size', '8', '--surface', 'granite=stone', '--maps', 'roughness');
    const seam = step();
    seam.layers['moss'].seam.soft = 2;
    await write('wrong.json', seam);
    expect((await problem('blend', '--doc', 'wrong.json', '--out', 'x')).message).toContain('/layers/moss/seam/soft must be <= 1');
    await writeFile(path.join(dir, 'torn.json'), '{"kind": ');
    expect((await problem('sentence', '--doc', 'torn.json')).message).toContain('torn.json is not JSON');
    await write('list.json', []);
    expect((await problem('sentence', '--doc', 'list.json')).message).toMatch(/list\.json: This is a list, not a document/);
    await write('nothing.json', { ...step(), version: 1, layers: { moss: null } });
    expect((await problem('sentence', '--doc', 'nothing.json')).message).toContain('nothing.json: /layers/moss must be object');
    await write('unshared.json', step({ layers: { moss: makeLayer('moss', 'Moss', 1, { shared: 'gone' }) } }));
    expect((await problem('blend', '--doc', 'unshared.json', '--out', 'x')).message).toContain('Moss');
    await writeFile(path.join(dir, 'taken'), 'a file');
    expect((await problem('blend', '--doc', 'step.json', '--out', 'taken')).message).toContain('taken');
    await jaunty('generate', 'cushion-moss', '--seed', '6', '--size', '16', '--out', 'odd');
    for (const [facts, said] of [
      ['{"reliefM": "Infinity"}', 'reliefM is "Infinity"; it must be a number of metres of at least 0'],
      ['{"mid": null}', 'mid is null; it must be a number from 0 to 1'],
      ['{"sizeM": -1}', 'sizeM is -1; it must be a number of metres above 0'],
      ['{"sizeM": 1e999}', 'sizeM is Infinity'],
      ['[]', 'is not an object'],
      ['null', 'is not an object'],
    ]) {
      await writeFile(path.join(dir, 'odd/surface.json'), facts);
      expect((await problem('blend', '--doc', 'gone.json', '--out', 'x', '--surface', 'granite=odd')).message).toContain(said);
    }
    expect(await problem('blend', '--doc', 'step.json', '--out', 'x', '--maps', 'shine')).toBeInstanceOf(UsageError);
    expect(await problem('section', '--doc', 'step.json', '--line', '0,0,1')).toBeInstanceOf(UsageError);
  });
  it('are cut through: heights, weights and winners along a line', async () => {
    await jaunty('section', '--doc', 'step.json', '--line', '0,0.5,1,0.5', '--samples', '32', '--json');
    const cut = JSON.parse(printed.join('')) as { lengthM: number; height: number[]; winner: string[]; layers: { id: string; share: number[] }[] };
    expect(cut.lengthM).toBeCloseTo(2.4, 6);
    for (let i = 0; i < 32; i++) {
      expect(cut.layers.reduce((sum, l) => sum + l.share[i], 0)).toBeCloseTo(1, 4);
      expect(cut.layers.find((l) => l.id === cut.winner[i])?.share[i]).toBe(Math.max(...cut.layers.map((l) => l.share[i])));
    }
    printed = [];
    await jaunty('section', '--doc', 'step.json', '--line', '0,0,1,1', '--samples', '4');
    expect(printed.length).toBe(6);
    expect(printed[1]).toContain('Puddle');
  });
  it('are said in sentences, which are read back', async () => {
    await jaunty('sentence', '--doc', 'step.json');
    expect(printed).toEqual([
      'Stone below everything',
      'Moss where noise above 0.5 ±0.15 at 0.6 m but not low places deeper than 2 mm ±3',
      'Puddle everywhere',
    ]);
    printed = [];
    await jaunty('sentence', '--doc', 'step.json', '--json');
    const [, said] = JSON.parse(printed.join('')) as { text: string }[];
    expect(Object.values(parseCoverage(said.text).coverage)).toEqual(Object.values(moss));
    printed = [];
    await jaunty('sentence', '--parse', 'Dust where slope under 38° ±20', '--json');
    expect(JSON.parse(printed.join(''))).toEqual({ c1: makeCue('slope', { centre: 38, width: 40 }) });
    expect((await problem('sentence', '--parse', 'Dust where slope under 38 metres')).message).toBe(
      'Dust where slope under 38 metres\n                          ^\nCharacter 27: expected "°", found "metres"',
    );
  });
});
