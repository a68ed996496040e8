import type { MasterDocument } from '@pebble/core';
import { linkTo, makeBlend, makeLayer, makeMaster, makeOperation, valueOf } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { UsageError, run } from '../src/commands';

describe('masters on the command line', () => {
  let dir = '';
  let printed: string[] = [];
  const jaunty = (...args: string[]) => run(args, dir, (text) => printed.push(text));
  const write = (file: string, body: unknown) => writeFile(path.join(dir, file), JSON.stringify(body));
  const problem = (...args: string[]) =>
    jaunty(...args).then(
      () => fail('nothing was thrown') as never,
      (e: Error) => e,
    );
  const gauge = (over: Partial<MasterDocument> = {}) =>
    makeMaster('Gauge', {
      operations: {
        uv: makeOperation('texcoord', 1),
        u: makeOperation('extract', 2, { inputs: { in: linkTo('uv') } }),
        lit: makeOperation('formula', 3, {
          settings: { text: 'clamp((mask - level) * 8.0, 0.0, 1.0)' },
          inputs: { mask: linkTo('u'), level: { from: 'parameter', parameter: 'p' } },
        }),
        pick: makeOperation('switch', 4, { settings: { switch: 's' }, inputs: { off: valueOf(0.25), on: linkTo('lit') } }),
      },
      outputs: { roughness: linkTo('pick') },
      parameters: { p: { order: 1, name: 'gauge level', group: null, help: '', holds: { kind: 'number', value: [0.5], low: 0, high: 1, unit: '' } } },
      switches: { s: { order: 1, name: 'lit', group: null, help: '', on: true } },
      ...over,
    });

  beforeAll(async () => {
    dir = await mkdtemp(path.join(os.tmpdir(), 'jaunty-master-'));
    await write('gauge.json', gauge());
    await jaunty('generate', 'roof-tile', '--seed', '5', '--size', '32', '--out', 'tile');
  });
  beforeEach(() => (printed = []));
  afterAll(() => rm(dir, { recursive: true }));
  const roughness = async (...set: string[]) => {
    await jaunty('evaluate', 'gauge.json', '--output', 'roughness', '--size', '16', '--out', 'r.png', ...set.flatMap((s) => ['--set', s]));
    const image = await nodeCodec.decode(await readFile(path.join(dir, 'r.png')), 'data');
    return [...image.data].slice(0, 16);
  };

  it('are evaluated, with parameters and switches by their names', async () => {
    // u at the middle of a pixel, worked out here.
    const want = (level: number) => Array.from({ length: 16 }, (_, i) => Math.round(255 * Math.min(1, Math.max(0, ((i + 0.5) / 16 - level) * 8))));
    expect(await roughness()).toEqual(want(0.5));
    expect(await roughness('gauge level=0.25')).toEqual(want(0.25));
    expect(await roughness('Gauge Level=0.25', 'lit=off')).toEqual(new Array<number>(16).fill(64));
  });
  it('are compiled to GLSL and to JSON that says price, inputs and values', async () => {
    await jaunty('compile', 'gauge.json');
    expect(printed[0]).toContain('void pb_evaluate(');
    expect(printed[0]).toMatch(/^#version 300 es\n\/\/ Gauge\n/);
    expect(printed[0]).toMatch(/u_gauge_level +float +– +0 to 1 +0\.5 +gauge level/);
    printed = [];
    await jaunty('compile', 'gauge.json', '--emit', 'json', '--set', 'gauge level=0.75');
    const told = JSON.parse(printed[0]) as {
      price: { operations: number };
      permutations: number;
      uniforms: { name: string; initial: number[]; range: number[] }[];
      inputs: { name: string }[];
    };
    expect(told.permutations).toBe(2);
    expect(told.price.operations).toBeGreaterThan(3);
    expect(told.uniforms).toEqual([jasmine.objectContaining({ name: 'u_gauge_level', initial: [0.75], range: [0, 1] })]);
    expect(told.inputs.map((i) => i.name)).toEqual(['in_texcoord']);
  });
  it('are taken as one of their variants, at a moment of their loop, and refuse one that is not there', async () => {
    const d = gauge();
    d.operations['t'] = makeOperation('time', 5, { inputs: { speed: valueOf(0.125) } });
    d.operations['sum'] = makeOperation('add', 6, { inputs: { in1: linkTo('pick'), in2: linkTo('t') } });
    d.outputs = { roughness: linkTo('sum') };
    const holds = { kind: 'number' as const, value: [0.25], low: 0, high: 1, unit: '' };
    d.variants = { v: { order: 1, name: 'Nearly empty', values: { p: { name: 'gauge level', holds } }, switches: {} } };
    await write('moves.json', d);
    const at = async (...more: string[]) => {
      await jaunty('evaluate', 'moves.json', '--output', 'roughness', '--size', '16', '--out', 'v.png', ...more);
      return [...(await nodeCodec.decode(await readFile(path.join(dir, 'v.png')), 'data')).data].slice(0, 16);
    };
    const want = (level: number, more: number) =>
      Array.from({ length: 16 }, (_, i) => Math.round(255 * Math.min(1, Math.min(1, Math.max(0, ((i + 0.5) / 16 - level) * 8)) + more)));
    expect(await at()).toEqual(want(0.5, 0));
    expect(await at('--variant', 'nearly EMPTY')).toEqual(want(0.25, 0));
    // Six seconds of a loop of four are two.
    expect(await at('--variant', 'v', '--time', '6')).toEqual(want(0.25, 0.25));
    expect((await problem('compile', 'moves.json', '--variant', 'full')).message).toBe('Gauge has no variant full; there are Nearly empty');
    expect((await problem('evaluate', 'moves.json', '--output', 'roughness', '--out', 'x.png', '--time', 'soon')).message).toMatch(
      /--time takes seconds/,
    );
  });
  it('leave as a vertex shader and as MaterialX', async () => {
    await jaunty('compile', 'gauge.json', '--emit', 'glsl-vertex');
    expect(printed[0]).toMatch(/^#version 300 es[^]*in_texcoord = a_texcoord/);
    await jaunty('compile', 'gauge.json', '--emit', 'mtlx');
    expect(printed[1]).toContain('<input name="gauge_level" type="float" value="0.5"');
    expect((await problem('compile', 'gauge.json', '--emit', 'paper')).message).toBe('--emit takes glsl, glsl-vertex, mtlx, json, not "paper"');
  });
  it('are simplified, with what it saves and how far apart both are', async () => {
    const d = gauge();
    d.operations['one'] = makeOperation('multiply', 7, { name: 'times one', inputs: { in1: linkTo('pick'), in2: valueOf(1) } });
    d.outputs = { roughness: linkTo('one') };
    await write('waste.json', d);
    await jaunty('simplify', 'waste.json', '--json', '--out', 'lean.json');
    const told = JSON.parse(printed[0]) as {
      findings: { name: string; kind: string }[];
      operations: { before: number; after: number };
      largestDifference: { random: { most: number; places: number } };
    };
    expect(told.findings.map((f) => [f.name, f.kind])).toEqual([['times one', 'does nothing']]);
    expect(told.operations).toEqual({ before: 5, after: 4 });
    expect(told.largestDifference.random).toEqual(jasmine.objectContaining({ most: 0, places: 4096 }));
    printed = [];
    await jaunty('simplify', 'lean.json');
    expect(printed[0]).toBe('Nothing can be left out');
  });
  it('take surfaces from folders and blends from documents beside them', async () => {
    await write('ground.json', makeBlend('Ground', { layers: { a: makeLayer('tile', 'Tile', 1) } }));
    await write(
      'over.json',
      makeMaster('Over', {
        operations: {
          b: makeOperation('blend', 1, { settings: { blend: 'ground.json' } }),
          i: makeOperation('image', 2, { settings: { surface: 'tile', role: 'roughness' } }),
        },
        outputs: { surface: linkTo('b'), roughness: linkTo('i') },
      }),
    );
    for (const output of ['baseColor', 'roughness', 'height', 'normal'])
      await jaunty('evaluate', 'over.json', '--output', output, '--size', '32', '--out', `${output}.png`);
    const [made, own] = await Promise.all(
      ['roughness.png', 'tile/roof-tile_roughness.png'].map(async (f) => nodeCodec.decode(await readFile(path.join(dir, f)), 'data')),
    );
    // One repetition at the map's own size is the map itself.
    const off = [...made.data].map((v, i) => Math.abs(v - own.data[i]));
    expect(Math.max(...off)).toBeLessThanOrEqual(1);
  });
  it('take other masters beside them as operations, and say in which of them a mistake is', async () => {
    const uses = (of: string) =>
      makeMaster('Uses', {
        operations: { o: makeOperation('own', 1, { settings: { master: of }, inputs: { p: valueOf(0.25) } }) },
        outputs: { metallic: linkTo('o', 'roughness') },
      });
    await write('uses.json', uses('gauge.json'));
    await jaunty('evaluate', 'uses.json', '--output', 'metallic', '--size', '16', '--out', 'm.png');
    const image = await nodeCodec.decode(await readFile(path.join(dir, 'm.png')), 'data');
    const want = Array.from({ length: 16 }, (_, i) => Math.round(255 * Math.min(1, Math.max(0, ((i + 0.5) / 16 - 0.25) * 8))));
    expect([...image.data].slice(0, 16)).toEqual(want);
    await write('itself.json', uses('itself.json'));
    expect((await problem('compile', 'itself.json')).message).toMatch(/used within itself: Uses → Uses/);
    await write('broken.json', gauge({ operations: {} }));
    await write('breaks.json', uses('broken.json'));
    expect((await problem('compile', 'breaks.json')).message).toMatch(/In Gauge: What roughness was linked to is gone/);
  });
  it('read a formula, and say at which character it is wrong', async () => {
    await jaunty('formula', 'mix(a, b, 0.5) * vec3(1.0, 0.0, 0.0)', '--json');
    const told = JSON.parse(printed[0]) as { type: string; inputs: { name: string; type: string }[]; price: { operations: number } };
    expect(told.type).toBe('vec3');
    expect(told.inputs).toEqual([
      { name: 'a', type: 'float' },
      { name: 'b', type: 'float' },
    ]);
    expect(told.price.operations).toBe(5);
    expect((await problem('formula', 'a + sinn(b)')).message).toMatch(/character 5: There is no function sinn\. Did you mean sin\?/);
    printed = [];
    await problem('formula', 'a +', '--json');
    expect(JSON.parse(printed[0])).toEqual({ error: 'Something is missing at the end', from: 3, to: 4 });
  });
  it('refuse what is wrong with its name, its place and what to do', async () => {
    await write(
      'circle.json',
      gauge({ operations: { a: makeOperation('sin', 1, { inputs: { in: linkTo('a') } }) }, outputs: { roughness: linkTo('a') } }),
    );
    expect((await problem('compile', 'circle.json')).message).toMatch(/Gauge, sin \(a\): It feeds itself/);
    await write(
      'no-map.json',
      gauge({ operations: { i: makeOperation('image', 1, { settings: { surface: 'nowhere' } }) }, outputs: { baseColor: linkTo('i') } }),
    );
    expect((await problem('compile', 'no-map.json')).message).toMatch(/nowhere is not a folder that can be read/);
    await write('wrong.json', { ...gauge(), operations: { a: { step: 'sin' } } });
    expect((await problem('compile', 'wrong.json')).message).toMatch(/\/operations\/a must have required property/);
    await write('many.json', gauge({ operations: Object.fromEntries(Array.from({ length: 2000 }, (_, i) => [`n${i}`, makeOperation('sin', i)])) }));
    expect((await problem('compile', 'many.json')).message).toMatch(/\/operations must NOT have more than 600/);
    await write('blend.json', makeBlend('B'));
    expect((await problem('compile', 'blend.json')).message).toMatch(/is a blend, not a master/);
    for (const [args, says] of [
      [['evaluate', 'gauge.json', '--output', 'gloss', '--out', 'x.png'], /--output takes baseColor/],
      [['evaluate', 'gauge.json', '--output', 'height', '--out', 'x.png', '--set', 'gauge=1'], /no parameter gauge; there are gauge level, lit/],
      [['evaluate', 'gauge.json', '--output', 'height', '--out', 'x.png', '--set', 'gauge level=red'], /takes a number, not "red"/],
      [['evaluate', 'gauge.json', '--output', 'height', '--out', 'x.png', '--set', 'lit=1'], /takes on or off/],
      [['compile', 'gauge.json', '--emit', 'text'], /--emit takes glsl, glsl-vertex, mtlx, json/],
      [['compile'], /Name one master document/],
    ] as const) {
      const error = await problem(...args);
      expect(error).withContext(args.join(' ')).toBeInstanceOf(UsageError);
      expect(error.message).toMatch(says);
    }
  });
});
