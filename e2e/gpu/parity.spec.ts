import type { Browser, Page } from 'playwright-core';
import { launch } from '../browser';
import { openGpuPage } from './open-page';
import type { BentCase } from './bent-cases';
import { replayedOnHill } from './replay-case';
import { disagreements } from './verdict';
import type { AheadCase } from './ahead-cases';
import { drawnBare } from './bare';
import type { DrawnCases } from './drawn-cases';
import type { EffectCase } from './effect-cases';
import type { Agreement } from './agreement';

interface Exports {
  operations(): Promise<Agreement[]>;
  blends(): Promise<Agreement[]>;
  terrain(): Promise<Agreement[]>;
  replayed(depth: 8 | 16): string;
  extras(): Promise<Agreement[]>;
  bc7(): Promise<{ modes: number; differ: number; read: number } | null>;
  random(from: number, count: number): Promise<Agreement[]>;
  graphs(seed: number, count: number): Promise<Agreement[]>;
  effects(): Promise<EffectCase<Agreement>[]>;
  ahead(): Promise<AheadCase[]>;
  announced(): Promise<(Omit<AheadCase, 'name' | 'scale' | 'unshifted'> & { compiles: number[]; again: number })[]>;
  aheadFails(): Promise<{ ahead: number; full: number }>;
  mask(): Promise<{ p99: number; coarse: number; changed: number; textures: number; others: number; compiles: number }>;
  bent(random: number): Promise<BentCase[]>;
  live(): Promise<{ p99: number; most: number }>;
  drawnCases(): Promise<DrawnCases>;
  furnaceTest(): Promise<{ name: string; lo: number; hi: number }[]>;
  furnaceBeside(): Promise<{ name: string; lo: number; hi: number }[]>;
  balls(): Promise<{ name: string; worst: number; mean: number }[]>;
  shadows(): Promise<{ below: [number, number]; beside: [number, number]; pulled: number }>;
  parallax(): Promise<{ plain: number; parallax: number }>;
  pieces(): Promise<number[][]>;
  lost(): Promise<{ before: number[]; away: boolean; after: number[]; told: number; answers: boolean }>;
  smoothed(): Promise<{ plain: number; smooth: number; even: number }>;
  frameTime(w: number, h: number): Promise<{ ms: number[]; units: number; compiles: number }>;
}
declare const pebble: Exports;

describe('GPU and CPU', () => {
  let browser: Browser;
  let page: Page;
  let close = () => undefined as void;
  beforeAll(async () => {
    browser = await launch();
    ({ page, close } = await openGpuPage(browser));
  });
  afterAll(async () => {
    close();
    await browser.close();
  });

  it('agree on every operation of the registry within 1e-4', async () => {
    const list = await page.evaluate(() => pebble.operations());
    expect(list.length).toBeGreaterThan(30);
    for (const a of list) {
      expect(a.finite).withContext(a.name).toBeTrue();
      expect(a.beyond).withContext(`${a.name}, worst ${a.worst}`).toBeLessThanOrEqual(0.001);
    }
  });
  it('agree on whole blends in exact mode: near, far with mips, enlarged', async () => {
    for (const a of await page.evaluate(() => pebble.blends())) {
      expect(a.finite).withContext(a.name).toBeTrue();
      expect(a.beyond).withContext(`${a.name}, worst ${a.worst}`).toBeLessThanOrEqual(0.001);
    }
  });
  it('agree on the ground of a terrain in exact mode, in true metres, near and from afar', async () => {
    const list = await page.evaluate(() => pebble.terrain());
    expect(list.length).toBe(2);
    for (const a of list) {
      expect(a.finite).withContext(a.name).toBeTrue();
      expect(a.beyond).withContext(`${a.name}, worst ${a.worst}`).toBeLessThanOrEqual(0.001);
    }
  });
  it('replay strokes on a mesh to the same bytes in the browser and on Node', async () => {
    for (const depth of [8, 16] as const) {
      const here = replayedOnHill(depth);
      expect(here.length).toBeGreaterThan(100_000);
      expect((await page.evaluate((d) => pebble.replayed(d), depth)) === here)
        .withContext(`${depth} bits`)
        .toBeTrue();
    }
  });
  it('read blocks of BC7 of every mode as the browser’s own decoder does, to the bit', async () => {
    const found = await page.evaluate(() => pebble.bc7());
    expect(found).toEqual({ modes: 8, differ: 0, read: 64 * 64 * 64 });
  });
  it('agree on roles beside the usual six: colours of their own, pictures by themselves, near and far', async () => {
    for (const a of await page.evaluate(() => pebble.extras())) {
      expect(a.finite).withContext(a.name).toBeTrue();
      expect(a.beyond).withContext(`${a.name}, worst ${a.worst}`).toBeLessThanOrEqual(0.001);
    }
  });
  it('agree on random blends of every kind of cue, layer, mode and seam', async () => {
    const count = Number(process.env['PEBBLE_BLENDS'] ?? 30);
    let all = 0;
    // Pixels where a choice hangs on the last bit may differ: at most one in a thousand, over all.
    let beyond = 0;
    for (let from = 0; from < count; from += 10)
      for (const a of await page.evaluate(([f]) => pebble.random(f, 10), [from] as const)) {
        expect(a.finite).withContext(a.name).toBeTrue();
        expect(a.beyond).withContext(`${a.name}, worst ${a.worst}`).toBeLessThanOrEqual(0.02);
        beyond += a.beyond;
        all++;
      }
    expect(all).toBe(count);
    expect(beyond / all).toBeLessThanOrEqual(0.001);
  }, 900_000);
  it('agree on random graphs of typed steps', async () => {
    const [seed, count] = [Number(process.env['PEBBLE_SEED'] ?? 20261128), Number(process.env['PEBBLE_GRAPHS'] ?? 150)];
    let beyond = 0;
    for (let from = 0; from < count; from += 10)
      for (const a of await page.evaluate(([f]) => pebble.graphs(f, 10), [seed + from] as const)) {
        expect(a.finite).withContext(a.name).toBeTrue();
        expect(a.beyond).withContext(`${a.name}, worst ${a.worst}`).toBeLessThanOrEqual(0.05);
        beyond += a.beyond;
      }
    expect(beyond / count)
      .withContext(`seed ${seed}`)
      .toBeLessThanOrEqual(0.001);
  }, 900_000);
  it('agree on every effect: in exact mode within 1e-4, and by the shaders that leave, in a page of somebody else, within 2/255', async () => {
    const cases = await page.evaluate(() => pebble.effects());
    expect(cases.length).toBeGreaterThan(19);
    const stranger = await browser.newPage();
    await stranger.setContent('<title>a page of somebody else</title>');
    // What runs the specs gives functions their names by this; a page does not know it.
    await stranger.evaluate('globalThis.__name = (f) => f');
    const beyond: number[] = [];
    for (const { exact, cpu, ...bare } of cases) {
      expect(exact.finite).withContext(exact.name).toBeTrue();
      expect(exact.beyond).withContext(`${exact.name}, worst ${exact.worst}`).toBeLessThanOrEqual(0.001);
      const drawn = await stranger.evaluate(drawnBare, { shader: bare.shader, textures: bare.textures, output: bare.output, width: bare.width });
      const off = drawn.map((v, i) => Math.abs(v - cpu[i]) * 255).sort((a, b) => a - b);
      const share = off.filter((d) => d > 2).length / off.length;
      beyond.push(share);
      // One effect alone may differ where its cells or stamps meet, by a pixel that falls to either.
      expect(share)
        .withContext(`${exact.name}, worst ${off.at(-1)}`)
        .toBeLessThanOrEqual(0.05);
      expect(Math.max(...cpu) - Math.min(...cpu))
        .withContext(exact.name)
        .toBeGreaterThan(/^(time|wave)/.test(exact.name) ? -1 : 0.05);
    }
    await stranger.close();
    expect(beyond.reduce((a, b) => a + b) / beyond.length).toBeLessThanOrEqual(0.01);
  });
  it('agree in live mode to 2/255 for 99 of 100 pixels', async () => {
    const { p99, most } = await page.evaluate(() => pebble.live());
    expect(p99).withContext(`worst ${most}`).toBeLessThanOrEqual(2);
  });
  it('agree in live mode in every channel of what a mesh carries and layers may be, on a bent mesh with several coordinates', async () => {
    expect(disagreements(await page.evaluate(() => pebble.bent(8)))).toEqual([]);
  });
  it('show the same while a program is built as when it is there', async () => {
    for (const { name, program, former, unshifted, p95, scale } of await page.evaluate(() => pebble.ahead())) {
      expect(scale).withContext(name).toBeLessThan(1);
      expect(former).withContext(name).toBeGreaterThan(3);
      expect(program)
        .withContext(name)
        .toBeLessThan(former / 3);
      expect(p95).withContext(name).toBeLessThanOrEqual(6);
      if (unshifted !== null) expect(program).toBeLessThan(0.75 * unshifted);
    }
  });
  it('show a surface that is on its way from coarse pixels, and then itself', async () => {
    const [another, instead] = await page.evaluate(() => pebble.announced());
    for (const { program, former, p95, again } of [another, instead]) {
      expect(former).toBeGreaterThan(3);
      expect(program).toBeLessThan(former / 3);
      expect(p95).toBeLessThanOrEqual(8);
      // What was announced is not worked out again.
      expect(again).toBe(0);
    }
    expect(another.compiles).toEqual([1, 2, 2]);
    // The same program shows another surface.
    expect(instead.compiles).toEqual([1, 1, 1]);
  });
  it('go on with the program where nothing can be worked out ahead of it', async () => {
    expect(await page.evaluate(() => pebble.aheadFails())).toEqual({ ahead: 0, full: 3 });
  });
  it('follow a mask while it is painted, without another texture or program', async () => {
    const { p99, coarse, changed, textures, others, compiles } = await page.evaluate(() => pebble.mask());
    expect(p99).toBeLessThanOrEqual(2);
    // Masks of another size are another texture; those of surfaces stay.
    expect(others).toBe(1);
    expect(coarse).toBeLessThanOrEqual(2);
    expect(changed).toBeGreaterThan(0.1);
    expect([textures, compiles]).toEqual([0, 1]);
  });
  it('go over what is behind them as they are drawn: cut by opacity, mixed by it, added to it; and what no light enters is as it was', async () => {
    const { solid, behind, glass, additive, kept, cut, opaque, through } = await page.evaluate(() => pebble.drawnCases());
    expect(kept).toEqual(solid);
    expect(cut).toEqual(behind);
    solid.forEach((v, c) => {
      expect(Math.abs(glass[c] - (0.25 * v + 0.75 * behind[c])))
        .withContext(`glass ${c}`)
        .toBeLessThanOrEqual(1);
      expect(Math.abs(additive[c] - Math.min(255, behind[c] + 0.25 * v)))
        .withContext(`additive ${c}`)
        .toBeLessThanOrEqual(1);
    });
    expect(opaque).toBe(0);
    expect(through).toBeGreaterThan(200);
  });
  it('pass the furnace: white in light 1 is seen as 1, within 1 % and the byte it is shown with', async () => {
    for (const { name, lo, hi } of await page.evaluate(() => pebble.furnaceTest())) {
      expect(lo).withContext(name).toBeGreaterThan(0.98);
      expect(hi).withContext(name).toBeLessThan(1.02);
    }
  });
  it('pass it through thin walls, under coats and in crevices as well, and add light of their own', async () => {
    for (const { name, lo, hi } of await page.evaluate(() => pebble.furnaceBeside())) {
      const wanted = name === 'light of its own' ? 1.25 : 1;
      expect(lo)
        .withContext(name)
        .toBeGreaterThan(wanted - 0.025);
      expect(hi)
        .withContext(name)
        .toBeLessThan(wanted + 0.02);
    }
  });
  it('agree on balls under every sky, key light included, turned', async () => {
    for (const { name, worst, mean } of await page.evaluate(() => pebble.balls())) {
      expect(mean).withContext(name).toBeLessThan(0.6);
      expect(worst).withContext(name).toBeLessThan(4);
    }
  });
  it('throw a shadow below what is in the way of the key light, nowhere else, and from where displaced vertices are', async () => {
    const { below, beside, pulled } = await page.evaluate(() => pebble.shadows());
    expect(below[1]).toBeLessThan(below[0] - 10);
    expect(Math.abs(beside[1] - beside[0])).toBeLessThan(1.5);
    expect(Math.abs(pulled - below[0])).toBeLessThan(1.5);
  });
  it('see by parallax what lies higher where geometry would put it', async () => {
    const { plain, parallax } = await page.evaluate(() => pebble.parallax());
    expect(plain).toBeGreaterThan(5);
    expect(parallax).toBeLessThan(plain / 4);
  });
  it('draw several materials on one object, each on its own triangles, and vertex colours that change in runs', async () => {
    const shown = await page.evaluate(() => pebble.pieces());
    const [red, green, blue, black] = [
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255],
      [0, 0, 0],
    ];
    expect(shown.slice(0, 5)).toEqual([
      [...red, ...red],
      [...red, ...green],
      [...red, ...blue],
      [...red, ...red],
      [...black, ...black],
    ]);
    // Half way from the middle to the right rim, half way to white.
    const [left, right] = [shown[5].slice(0, 3), shown[5].slice(3)];
    expect(left).toEqual(black);
    for (const v of right) expect(Math.abs(v - 128)).toBeLessThan(24);
    expect([shown[6].slice(3), shown[6].slice(0, 3)]).toEqual([blue, shown[5].slice(0, 3)]);
    expect(shown[7]).toEqual(shown[5]);
    // While a program is built nothing is drawn that would hold it up.
    expect(shown[8]).toEqual([0]);
  });
  it('smooth edges of a picture that rests as one many times as large has them, and change nothing else', async () => {
    const { plain, smooth, even } = await page.evaluate(() => pebble.smoothed());
    expect(plain).toBeGreaterThan(1000);
    // Four places a pixel: each step of a slanted edge is at most an eighth of a pixel off, a half before.
    expect(smooth).toBeLessThan(0.4 * plain);
    expect(even).toBeLessThanOrEqual(1);
  });
  it('draw all of it again when the graphics card was lost and is back', async () => {
    expect(await page.evaluate(() => pebble.lost())).toEqual({ before: [255, 0, 0], away: true, after: [255, 0, 0], told: 1, answers: true });
  });
  it('draw a three-layer blend with light from no more than 16 texture units', async () => {
    const { units, compiles } = await page.evaluate(() => pebble.frameTime(64, 64));
    expect(units).toBeLessThanOrEqual(16);
    expect(compiles).toBe(1);
  });
});
