import { randomUUID } from 'node:crypto';
import type { JobView } from '@pebble/contracts';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, api } from '../harness';
import { stageReady } from '../on-stage';
import sharp from 'sharp';

const COUNT = 1000;

describe('looking at surfaces', () => {
  let { served, page } = {} as Flow;
  const documents = () => allDocuments(served.url);
  const surface = async (id: string) => {
    const { body } = (await documents()).find((d) => d.id === id)!;
    if (body.kind !== 'surface') throw new Error(`${id} is no surface`);
    return body;
  };
  const stone = (name: RegExp) => page.getByRole('listbox', { name: 'Surfaces' }).getByRole('option', { name });
  /** Whatever was asked for has ended. */
  const idle = () =>
    until(async () => {
      const jobs = await api<JobView[]>(served.url, '/jobs');
      return jobs.every((j) => j.status === 'done' || j.status === 'cancelled');
    });
  const drawn = () => page.waitForFunction(() => document.querySelectorAll('pb-map-strip .wait').length === 0);
  /** Mean of the pixels of a pane, to see that a picture changed. */
  const mean = (pane: number) =>
    page
      .locator('pb-map-strip canvas')
      .nth(pane)
      .evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        let sum = 0;
        for (let i = 0; i < data.length; i += 4) sum += data[i] + data[i + 1] + data[i + 2];
        return sum / (data.length / 4) / 3;
      });

  inBrowser(async (flow) => {
    ({ served, page } = flow);
    await idle();
    await page.goto(`${served.url}/surfaces`);
    await stone(/Weathered copper/).click();
    // Pictures that do not wait may not be there at all yet.
    await page.locator('pb-map-strip canvas').nth(4).waitFor();
    await drawn();
  });

  it('turns a structure: the pictures follow the drag, the surface follows when it is let go, undo brings it back', async () => {
    const before = await surface('weathered-copper');
    const metallic = await mean(4);
    const field = page.getByRole('spinbutton', { name: 'Verdigris: strength' });
    // Once it rests where it stays.
    await field.hover({ position: { x: 8, y: 8 } });
    const box = (await field.boundingBox())!;
    await page.mouse.down();
    await page.mouse.move(box.x + 88, box.y + 8, { steps: 5 });
    await until(async () => (await mean(4)) < metallic - 10);
    expect((await surface('weathered-copper')).maps.metallic).toEqual(before.maps.metallic);
    await page.mouse.up();
    const turned = Number(await field.getAttribute('aria-valuenow'));
    expect(turned).toBeGreaterThan(1.5);
    await until(async () => (await surface('weathered-copper')).generator?.amounts?.['verdigris'] === turned);
    await idle();
    const after = await surface('weathered-copper');
    expect(after.maps.metallic!.blob).not.toBe(before.maps.metallic!.blob);
    expect(after.maps.metallic!.width).toBe(1024);
    expect(Number(await field.getAttribute('aria-valuenow'))).toBe(turned);
    await page.getByRole('button', { name: 'Undo' }).click();
    await until(async () => (await surface('weathered-copper')).maps.metallic!.blob === before.maps.metallic!.blob);
    await until(async () => (await field.getAttribute('aria-valuenow')) === '1');
  });

  it('says that pictures are still those of the surface before, and shows no figures of it, until its own are there', async () => {
    await stone(/Weathered copper/).click();
    await drawn();
    // The pixels of the next one take their time.
    let letGo: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (letGo = resolve));
    const next = await surface('river-gravel');
    const blobs = new RegExp(
      Object.values(next.maps)
        .map((m) => m.blob)
        .join('|'),
    );
    await page.route(blobs, async (route) => {
      await held;
      await route.continue();
    });
    await stone(/River gravel/).click();
    const waits = page.locator('pb-map-strip .wait', { hasText: 'still the one before, reading …' });
    await waits.first().waitFor();
    const faint = page.locator('pb-map-strip canvas.old').first();
    expect(Number(await faint.evaluate((c) => getComputedStyle(c).opacity))).toBeLessThan(0.6);
    await faint.hover();
    // Panes turn one after the other; while the pixels are held back none has figures then.
    await until(async () => (await page.locator('pb-map-strip .value:not(.wait)').count()) === 0);
    letGo();
    await drawn();
    expect(await page.locator('pb-map-strip canvas.old').count()).toBe(0);
    await page.unroute(blobs);
    await stone(/Weathered copper/).click();
    await drawn();
  });
  it('shows fifty variations; one is kept as another surface', async () => {
    await page.getByRole('button', { name: 'Fifty variations' }).click();
    const options = page.getByRole('listbox', { name: 'Variations' }).getByRole('option');
    await options.nth(49).waitFor();
    expect(await options.count()).toBe(50);
    await until(async () => (await page.locator('pb-variations canvas').count()) === 50);
    const had = (await documents()).length;
    await options.nth(6).click();
    await page.getByRole('button', { name: 'Keep as another surface' }).click();
    await page.getByRole('button', { name: 'Close' }).click();
    await until(async () => (await documents()).length === had + 1);
    const kept = (await documents()).map((d) => d.body).filter((b) => b.kind === 'surface' && b.generator?.name === 'weathered-copper');
    expect(kept.length).toBe(2);
    const [a, b] = kept.map((k) => (k.kind === 'surface' ? k.generator : null));
    expect(a?.seed).not.toBe(b?.seed);
  });

  it('tiles, measures in metres, and compares two surfaces at the same scale with their densities', async () => {
    const says = (where: string, text: string) => until(async () => (await page.locator(`pb-map-strip ${where}`).innerText()) === text);
    await stone(/River gravel/).click();
    await drawn();
    await page.getByRole('button', { name: '4×4' }).click();
    await says('.scale', '1 m');
    await page.getByRole('button', { name: '1×1' }).click();
    const pane = (await page.locator('pb-map-strip .pane').first().boundingBox())!;
    await page.keyboard.down('Shift');
    await page.mouse.move(pane.x + 10, pane.y + 80);
    await page.mouse.down();
    await page.mouse.move(pane.x + 10 + pane.width / 2, pane.y + 80, { steps: 3 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    // One repetition, 1.2 m wide, is as wide as the pane.
    await says('.length', '60 cm');
    await page.getByRole('button', { name: 'Compare with' }).click();
    await page.getByRole('menuitem', { name: 'Fallen tea leaves' }).click();
    await drawn();
    expect(await page.locator('pb-map-strip').count()).toBe(2);
    // 853 and 1024 px/m are near enough; a surface of 427 px/m beside one of 1024 is not.
    expect(await page.getByText(/densities differ/).count()).toBe(0);
    await stone(/Terrace stone/).click();
    await page.getByText('densities differ 2.4×: 427 and 1024 px/m').waitFor();
    // Told once it is that of this surface.
    await page.locator('.strip-bar', { hasText: /repeats 0\.\d\d/ }).waitFor();
    await page.getByRole('button', { name: /^Beside/ }).click();
    await page.getByRole('menuitem', { name: 'Nothing' }).click();
  });

  it('shows a blend on other specimens under other skies, and the light stays when the blend is left and locked when asked', async () => {
    type Stage = { ready: boolean; compiles: number; settled(): Promise<void> };
    const stage = () => page.getByTestId('stage');
    const settled = () => stage().evaluate((canvas) => (canvas as unknown as { pebbleStage: Stage }).pebbleStage.settled());
    const ready = () =>
      page.waitForFunction(() => (document.querySelector('[data-testid=stage]') as unknown as { pebbleStage?: Stage })?.pebbleStage?.ready);
    /** The picture of the specimen once it rests. */
    const look = async () => {
      await settled();
      const box = (await stage().boundingBox())!;
      return (await page.screenshot({ clip: { x: box.x + 60, y: box.y + 60, width: 480, height: 250 } })).toString('base64');
    };
    const different = async (from: string) => until(async () => (await look()) !== from);
    await page.goto(`${served.url}/blend`);
    await ready();
    let last = await look();
    await page.getByLabel('Specimen', { exact: true }).selectOption('copper-still');
    await different(last);
    last = await look();
    await page.getByLabel('Sky', { exact: true }).selectOption('low-sun');
    await different(last);
    await page.getByRole('button', { name: 'light …' }).click();
    for (const label of ['Shadow of the key light', 'Bright light bent into range', 'Parallax', 'Displaced']) {
      last = await look();
      const box = page.getByLabel(label);
      if ((await box.getAttribute('type')) === 'radio') await box.check();
      else await box.click();
      await different(last);
    }
    // Parallax is another program; the normals' own was kept.
    const compiles = () => stage().evaluate((canvas) => (canvas as unknown as { pebbleStage: Stage }).pebbleStage.compiles);
    expect(await compiles()).toBe(2);
    expect(await page.locator('.reliefs').innerText()).toMatch(/\+\d+ samples[\s\S]*vertices, every \d+ mm/);
    await page.getByLabel('Locked while comparing').check();
    await page.locator('select[aria-label="Sky"]:disabled').waitFor();
    await page.goto(`${served.url}/surfaces`);
    await page.goto(`${served.url}/blend`);
    await ready();
    expect(await page.getByLabel('Sky', { exact: true }).inputValue()).toBe('low-sun');
    expect(await page.getByLabel('Specimen', { exact: true }).inputValue()).toBe('copper-still');
    await page.getByRole('button', { name: 'light …' }).click();
    await page.getByLabel('Locked while comparing').uncheck();
    await page.getByLabel('Normals alone').check();
  });

  it('saves the specimen by itself as a picture of any size, whatever lies over it', async () => {
    await page.goto(`${served.url}/blend`);
    await stageReady(page);
    await page.getByRole('button', { name: 'light …' }).click();
    const saved = async (width: number, height: number) => {
      for (const [label, pixels] of [
        ['Width of the picture', width],
        ['Height of the picture', height],
      ] as const) {
        await page.getByRole('spinbutton', { name: label }).focus();
        await page.keyboard.press('Enter');
        await page.keyboard.type(String(pixels));
        await page.keyboard.press('Enter');
      }
      const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as PNG' }).click()]);
      expect(download.suggestedFilename()).toMatch(new RegExp(`_${width}x${height}\\.png$`));
      const image = sharp(await download.path()).removeAlpha();
      const made = await image.metadata();
      expect([made.width, made.height]).toEqual([width, height]);
      return image.resize(64, 64, { kernel: 'cubic' }).raw().toBuffer();
    };
    const [small, large] = [await saved(1024, 1024), await saved(2048, 2048)];
    await saved(640, 96);
    // The ground in a corner, the specimen in the middle, and the same at either size.
    expect([...small.subarray(0, 3)].every((v) => Math.abs(v - 118) <= 2)).toBeTrue();
    const middle = (32 * 64 + 32) * 3;
    expect([...small.subarray(middle, middle + 3)].some((v) => Math.abs(v - 118) > 6)).toBeTrue();
    const off = small.reduce((sum, v, i) => sum + Math.abs(v - large[i]), 0) / small.length;
    expect(off).toBeLessThan(3);
    await page.getByRole('button', { name: 'light …' }).click();
  });

  it('keeps a wall of a thousand surfaces light: few rows in the page, reached by wheel and arrow keys', async () => {
    const body = await surface('river-gravel');
    const make = (i: number) =>
      api(served.url, '/documents', {
        id: `copy-${i}`,
        label: 'Copy',
        opId: randomUUID(),
        body: { ...body, name: `Copy ${String(i).padStart(4, '0')}` },
      });
    for (let i = 0; i < COUNT; i += 25) await Promise.all(Array.from({ length: 25 }, (_, k) => make(i + k)));
    await page.goto(`${served.url}/surfaces`);
    const there = (await documents()).filter((d) => d.kind === 'surface').length;
    expect(there).toBeGreaterThan(COUNT);
    await page.waitForFunction((n) => document.querySelector('.pill.on')?.textContent?.includes(`${n}`), there);
    const rows = () => page.locator('pb-wall .row').count();
    expect(await rows()).toBeLessThanOrEqual(60);
    const box = (await page.locator('pb-wall').boundingBox())!;
    await page.mouse.move(box.x + 300, box.y + 100);
    for (let i = 0; i < 12; i++) await page.mouse.wheel(0, 900);
    const ids = (await documents()).filter((d) => d.kind === 'surface').map((d) => d.id);
    const place = async (which: string) => ids.indexOf((await page.locator(`pb-wall ${which}`).first().getAttribute('data-id'))!);
    await until(async () => (await place('.pebble')) > 100);
    expect(await rows()).toBeLessThanOrEqual(60);
    await page.evaluate(() => document.querySelector('cdk-virtual-scroll-viewport')!.scrollTo({ top: 1e9 }));
    await until(async () => (await page.locator(`pb-wall [data-id="${ids.at(-1)}"]`).count()) === 1);
    await page.evaluate(() => document.querySelector('cdk-virtual-scroll-viewport')!.scrollTo({ top: 0 }));
    await until(async () => (await place('.pebble')) === 0);
    await page.locator('pb-wall .pebble').first().click();
    for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowDown');
    await until(async () => (await place('.pebble.on')) === 45);
    // The list keeps the focus and names the chosen one, which is in view.
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-activedescendant'))).toBe(`stone-${ids[45]}`);
    const [wall, stoneBox] = [await page.locator('pb-wall').boundingBox(), await page.locator('pb-wall .pebble.on').boundingBox()];
    expect(stoneBox!.y).toBeGreaterThanOrEqual(wall!.y - 1);
    expect(stoneBox!.y + stoneBox!.height).toBeLessThanOrEqual(wall!.y + wall!.height + 1);
  });
});
