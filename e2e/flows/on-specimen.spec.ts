import type { History, StoredDocument } from '@pebble/contracts';
import type { BlendDocument, PaintedVertices } from '@pebble/core';
import { finerTimes, makeSpecimen, putTile } from '@pebble/core';
import type { Page } from 'playwright-core';
import { until } from '../../apps/server/spec/harness';
import { readGltf } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api, openPage } from '../harness';
import { atSpecimen, stagePixel, stageReady } from '../on-stage';

describe('work on a specimen', () => {
  let { served, page, browser } = {} as Flow;
  const stored = () => api<StoredDocument<BlendDocument>>(served.url, '/documents/terrace-step');
  const painted = async (): Promise<PaintedVertices | null> => (await stored()).body.paint?.['patch'] ?? null;
  const label = async () => (await api<History>(served.url, '/documents/terrace-step/history')).undo;
  /** Red of every vertex as the server keeps it. */
  const red = async (): Promise<Float32Array> => {
    const colours = makeSpecimen('patch', 2.4).geomcolor.slice();
    for (const [tile, hash] of Object.entries((await painted())?.tiles ?? {}))
      putTile(colours, Number(tile), new Uint8Array(await (await fetch(`${served.url}/api/blobs/${hash}`)).arrayBuffer()));
    return colours.filter((_, i) => i % 4 === 0);
  };
  const sum = (values: Float32Array) => values.reduce((a, v) => a + v, 0);
  const openBrush = async (on: Page) => {
    await on.goto(`${served.url}/blend/terrace-step`);
    await stageReady(on);
    await on.keyboard.press('b');
    await on.waitForFunction(() => document.querySelector('pb-brush-card')?.textContent?.includes('Drag on it to paint'));
  };
  const at = (x: number, y: number) => atSpecimen(page, x, y);
  const drag = async (from: [number, number], to: [number, number]) => {
    await page.mouse.move(...(await at(...from)));
    await page.mouse.down();
    await page.mouse.move(...(await at(...to)), { steps: 8 });
    await page.mouse.up();
  };
  const sizeOfBrush = async (text: string) => {
    await page.getByRole('spinbutton', { name: /^Radius/ }).focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type(text);
    await page.keyboard.press('Enter');
  };
  inBrowser(
    async (flow) => {
      ({ served, page, browser } = flow);
      await openBrush(page);
    },
    { size: { width: 1100, height: 690 } },
  );

  it('the brush paints a channel where it is dragged: one stroke is one step, seen at once, taken back and done again', async () => {
    expect(await page.locator('.well.on').innerText()).toContain('Laterite clay');
    await page.getByRole('radio', { name: 'channel', exact: true }).click();
    const before = await red();
    const dark = await stagePixel(page, 0.5, 0.55);
    await drag([0.4, 0.55], [0.6, 0.55]);
    const after = await until(async () => ((await painted()) ? red() : null));
    expect(sum(after)).toBeGreaterThan(sum(before) + 100);
    for (let i = 0; i < after.length; i++) if (after[i] < before[i] - 1 / 255) return fail(`vertex ${i} lost red`);
    expect(await label()).toBe('Paint red');
    expect((await stagePixel(page, 0.5, 0.55))[0]).toBeGreaterThanOrEqual(Math.max(200, dark[0]));
    await page.keyboard.press('Control+z');
    await until(async () => (await painted()) === null);
    await page.keyboard.press('Control+Shift+z');
    await until(async () => (await painted()) !== null);
    expect(sum(await red())).toBeCloseTo(sum(after), 3);
  });
  it('the brush erases while E is held, and turns the specimen where it is dragged beside it', async () => {
    const before = sum(await red());
    await page.keyboard.down('e');
    await drag([0.42, 0.55], [0.58, 0.55]);
    await page.keyboard.up('e');
    await until(async () => (await label()) === 'Erase red');
    const erased = sum(await red());
    expect(erased).toBeLessThan(before - 50);
    const seen = await stagePixel(page, 0.5, 0.45);
    await drag([0.05, 0.5], [0.12, 0.5]);
    expect(await stagePixel(page, 0.5, 0.45)).not.toEqual(seen);
    expect(sum(await red())).toBe(erased);
  });
  it('the brush leaves everything as it was when the pen is lost in the middle of a stroke', async () => {
    const { version } = await stored();
    const before = await red();
    await page.mouse.move(...(await at(0.4, 0.62)));
    await page.mouse.down();
    // Long enough for a part of it to be kept on the way.
    for (let i = 0; i < 8; i++) {
      await page.mouse.move(...(await at(0.4 + i * 0.01, 0.62)));
      await page.waitForTimeout(80);
    }
    await page.evaluate(() => dispatchEvent(new PointerEvent('pointercancel', { pointerId: 1 })));
    await page.mouse.up();
    // The next step holds its own dab and nothing of the lost stroke.
    await sizeOfBrush('4cm');
    await page.getByRole('application', { name: /^Specimen/ }).focus();
    await page.keyboard.press('Enter');
    await until(async () => (await stored()).version === version + 1);
    expect(await label()).toBe('Paint red');
    const after = await red();
    expect(after.filter((v, i) => Math.abs(v - before[i]) > 1.5 / 255).length).toBeLessThan(15);
    await sizeOfBrush('12cm');
  });
  it('the brush keeps what was painted over a reload, and a stroke that a reload cut off as far as it had come', async () => {
    const whole = sum(await red());
    await page.mouse.move(...(await at(0.45, 0.62)));
    await page.mouse.down();
    for (let i = 0; i < 12; i++) {
      await page.mouse.move(...(await at(0.45 + i * 0.012, 0.62)));
      await page.waitForTimeout(80);
    }
    await page.waitForFunction(() => sessionStorage.getItem('pebble-open-stroke') !== null);
    await page.reload();
    await until(async () => (await label()) === 'Paint red, as far as it was kept');
    await page.mouse.up();
    expect(sum(await red())).toBeGreaterThan(whole + 5);
  });
  it('the brush fills, inverts and swaps, and says whom a channel feeds', async () => {
    await openBrush(page);
    await page.getByRole('radio', { name: /^green/ }).click();
    await page.getByRole('button', { name: /^Let it say where/ }).click();
    await page.waitForFunction(() => !document.querySelector('.well.on')?.textContent?.includes('feeds no layer'));
    await page.getByRole('radio', { name: /^red/ }).click();
    await page.getByRole('button', { name: 'fill', exact: true }).click();
    await until(async () => (await label()) === 'Fill red with 1.00');
    expect(new Set(await red())).toEqual(new Set([1]));
    await page.getByRole('button', { name: 'invert', exact: true }).click();
    await until(async () => (await label()) === 'Invert red');
    expect(new Set(await red())).toEqual(new Set([0]));
    await page.getByLabel('Swap with another channel').selectOption('a');
    await until(async () => (await label()) === 'Swap red and alpha');
    expect(new Set(await red())).toEqual(new Set([1]));
  });
  it('what was painted is shared with another window at once', async () => {
    const other = await openPage(browser, served.url, { width: 900, height: 600 });
    await openBrush(other.page);
    await page.getByRole('button', { name: 'invert', exact: true }).click();
    await other.page.waitForFunction(() => /red\s*0 %/.test((document.querySelector('.well') as HTMLElement)?.innerText ?? ''));
    expect(other.errors).toEqual([]);
    await other.page.close();
  });
  it('the brush asks for a finer mesh when the brush is too small, says the price, and keeps what was painted', async () => {
    await sizeOfBrush('3cm');
    await page.waitForSelector('.density.amiss');
    expect(await page.locator('.density .tag').innerText()).toMatch(/9,409 → 37,249 vertices, \+1\.45 MB/);
    await page.getByRole('button', { name: 'make it finer' }).click();
    await until(async () => (await painted())?.finer === 1);
    expect((await painted())?.vertices).toBe(37_249);
    await page.waitForFunction(() => document.querySelector('pb-brush-card')?.textContent?.includes('Drag on it to paint'));
    await page.waitForSelector('.density:not(.amiss)');
    const { version } = await stored();
    await drag([0.45, 0.5], [0.55, 0.5]);
    await until(async () => (await stored()).version === version + 1);
    expect(await label()).toBe('Paint red');
    // What was painted leaves as open glTF, on the finer mesh.
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'save .glb' }).click()]);
    expect(download.suggestedFilename()).toBe('terrace_step_patch.glb');
    const { model } = await readGltf(new Uint8Array(readFileSync(await download.path())));
    const [part] = model.lods[0];
    expect(part.mesh.position.length / 3).toBe(37_249);
    const bytes = Uint8Array.from(part.mesh.geomcolor, (v) => Math.round(v * 255));
    const want = finerTimes(makeSpecimen('patch', 2.4), 1).geomcolor.slice();
    for (const [tile, hash] of Object.entries((await painted())!.tiles))
      putTile(want, Number(tile), new Uint8Array(await (await fetch(`${served.url}/api/blobs/${hash}`)).arrayBuffer()));
    // Vertices may leave in another order.
    const sorted = (values: Uint8Array) => Buffer.from(new Uint32Array(values.slice().buffer).sort().buffer);
    expect(sorted(bytes).equals(sorted(Uint8Array.from(want, (v) => Math.round(v * 255))))).toBeTrue();
    await page.getByRole('button', { name: 'clear all' }).click();
    await until(async () => (await painted()) === null);
  });
  it('the cut is drawn across the specimen', async () => {
    await page.goto(`${served.url}/blend/terrace-step`);
    await page.waitForFunction(
      () => (document.querySelector('[data-testid=stage]') as { pebbleStage?: { ready: boolean } } | null)?.pebbleStage?.ready,
    );
    await page.getByRole('button', { name: 'draw it on the specimen' }).click();
    await drag([0.42, 0.5], [0.56, 0.7]);
    await until(async () => (await label()) === 'Draw the cut on the specimen');
    const { cut } = (await stored()).body;
    for (const v of Object.values(cut)) {
      expect(v).toBeGreaterThan(-0.2);
      expect(v).toBeLessThan(1.2);
    }
    expect(Math.hypot(cut.bx - cut.ax, cut.by - cut.ay)).toBeGreaterThan(0.15);
    // The tool is put away: the next drag turns the specimen.
    const { version } = await stored();
    await drag([0.45, 0.55], [0.5, 0.55]);
    expect((await stored()).version).toBe(version);
    expect(await page.getByRole('button', { name: 'draw it on the specimen' }).getAttribute('aria-pressed')).toBe('false');
  });
  it('a mask is painted on the flat: begun empty, seen at once, a stroke a step, kept over a reload and taken back', async () => {
    const cues = async () => Object.values((await stored()).body.layers['clay'].coverage);
    const picture = async () => (await cues()).flatMap((c) => (c.kind === 'painted' ? [c.picture] : [])).at(0) ?? null;
    const pixels = async () =>
      nodeCodec.decode(new Uint8Array(await (await fetch(`${served.url}/api/blobs/${await picture()}`)).arrayBuffer()), 'data');
    const flat = async (x: number, y: number): Promise<[number, number]> => {
      const box = (await page.getByTestId('flat').boundingBox())!;
      return [box.x + box.width * x, box.y + box.height * y];
    };
    const stroke = async (from: [number, number], to: [number, number]) => {
      await page.mouse.move(...(await flat(...from)));
      await page.mouse.down();
      await page.mouse.move(...(await flat(...to)), { steps: 10 });
    };
    const under = () => page.locator('.reading.pill').innerText();
    await page.locator('[data-layer="Laterite clay"] .name').click();
    await page.getByRole('button', { name: 'Add a cue' }).click();
    await page.getByRole('menuitem', { name: /painted mask/ }).click();
    await until(async () => (await cues()).length === 2);
    await page.locator('select.join').last().selectOption('or');
    await page.getByTestId('cue').last().locator('.cue').click();
    await page.getByRole('button', { name: 'paint it' }).click();
    await page.waitForFunction(() => document.querySelector('pb-brush-card')?.textContent?.includes('Drag on the flat to paint'));
    await sizeOfBrush('12cm');
    const empty = await until(picture);
    expect((await pixels()).data.every((v) => v === 0)).toBeTrue();
    await page.mouse.move(...(await flat(0.5, 0.3)));
    expect(await under()).not.toContain('Laterite clay');

    // While the button is down nothing is a step, and the clay is there.
    await stroke([0.3, 0.3], [0.5, 0.3]);
    await until(async () => (await under()).includes('Laterite clay 1.00'));
    expect(await picture()).toBe(empty);
    await page.mouse.up();
    await until(async () => (await label()) === 'Laterite clay: paint its mask');
    const { width, height, channels, data } = await pixels();
    const of = (value: number) => [...data].filter((v) => v === value).length / data.length;
    expect([width, height, channels]).toEqual([1024, 1024, 1]);
    expect(of(255)).toBeGreaterThan(0.005);
    expect(of(0)).toBeGreaterThan(0.9);
    expect(await page.locator('.well.on').innerText()).toMatch(/mask\s+[1-9]\d? %\s+Laterite clay/);

    // A pen that is lost leaves nothing behind.
    const kept = await picture();
    await stroke([0.3, 0.7], [0.5, 0.7]);
    await page.evaluate(() => dispatchEvent(new PointerEvent('pointercancel', { pointerId: 1 })));
    await page.mouse.up();
    // With the keyboard: a dab in the middle, erased again by filling.
    await page.getByRole('application', { name: /^Flat/ }).focus();
    await page.keyboard.press('Enter');
    const dab = await until(async () => (await picture()) !== kept && picture());
    await page.getByRole('button', { name: 'invert', exact: true }).click();
    await until(async () => (await label()) === 'Laterite clay: invert its mask');
    await page.keyboard.press('Control+z');
    await until(async () => (await picture()) === dab);
    await page.keyboard.press('Control+z');
    await until(async () => (await picture()) === kept);
    await page.reload();
    await page.waitForFunction(
      () => (document.querySelector('[data-testid=stage]') as { pebbleStage?: { ready: boolean } } | null)?.pebbleStage?.ready,
    );
    await page.mouse.move(...(await flat(0.45, 0.3)));
    await until(async () => (await under()).includes('Laterite clay 1.00'));
    // Another picture is brought in, of whatever kind; the server makes a mask of it.
    await page.locator('[data-layer="Laterite clay"] .name').click();
    await page.getByTestId('cue').last().locator('.cue').click();
    const white = await sharp({ create: { width: 96, height: 64, channels: 3, background: '#ffffff' } })
      .jpeg()
      .toBuffer();
    await page.getByLabel('A grey picture over the extent').setInputFiles({ name: 'all.jpg', mimeType: 'image/jpeg', buffer: white });
    await until(async () => (await picture()) !== kept);
    const brought = await pixels();
    expect([brought.width, brought.height, brought.channels, new Set(brought.data)]).toEqual([96, 64, 1, new Set([255])]);
    await page.keyboard.press('Escape');
    await page.mouse.move(...(await flat(0.45, 0.7)));
    await until(async () => (await under()).includes('Laterite clay 1.00'));
  });
});
