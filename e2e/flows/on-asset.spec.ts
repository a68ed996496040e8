import type { History, StoredDocument } from '@pebble/contracts';
import type { AssetDocument, BlendDocument, SpecimenDocument } from '@pebble/core';
import { constantOf } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { readFileSync } from 'node:fs';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api } from '../harness';
import { atSpecimen, seenPart, stagePixel, stageReady } from '../on-stage';

describe('work on an asset and its maps', () => {
  let { served, page } = {} as Flow;
  const still = (part: string) => seenPart(page, 'copper-still', part);
  /** Where a part of the still is seen, on the page. */
  const onStill = async (part: string) => atSpecimen(page, ...(await still(part)));

  inBrowser((flow) => ({ served, page } = flow), { size: { width: 1100, height: 690 } });

  it('an asset shows a blend on each slot together; a part is opened by its name, or by a click on it', async () => {
    await page.goto(`${served.url}/blend/copper-still`);
    await stageReady(page);
    await page.getByLabel('Specimen', { exact: true }).selectOption({ label: 'Copper still, whole' });
    await page.waitForURL(/asset=whole-still/);
    const chips = page.locator('pb-asset .chips .pill');
    expect((await chips.allInnerTexts()).map((t) => t.replace(/\s+/g, ' '))).toEqual([
      'copper Copper still',
      'pipe Copper still',
      'iron Black iron',
      'slots …',
    ]);
    await page.getByRole('radio', { name: 'Layers' }).click();
    await page.evaluate(() =>
      (document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: { settled(): Promise<void> } }).pebbleStage.settled(),
    );
    // The belly is copper's, the stand is iron's: each shows colours of its own layers.
    const [belly, leg] = [await stagePixel(page, ...(await still('body'))), await stagePixel(page, ...(await still('stand')))];
    expect(Math.max(...belly.map((v, c) => Math.abs(v - leg[c])))).toBeGreaterThan(12);
    await page.getByRole('button', { name: /^iron/ }).click();
    await page.waitForURL(/blend\/black-iron\?asset=whole-still/);
    await page.waitForSelector('[data-layer="Rust"]');
    // A click on the belly opens what sits there.
    await page.mouse.click(...(await onStill('body')));
    await page.waitForURL(/blend\/copper-still\?asset=whole-still/);
  });
  it('what was painted for the blend of each slot is seen together, and leaves together', async () => {
    const whole = new URLSearchParams({ asset: 'whole-still' }).toString();
    const openOn = async (id: string) => {
      await page.goto(`${served.url}/blend/${id}?${whole}`);
      await page.waitForSelector('pb-asset');
      await page.keyboard.press('b');
      await page.waitForFunction(() => document.querySelector('pb-brush-card')?.textContent?.includes('Drag on it to paint'));
      await page.getByRole('radio', { name: 'channel', exact: true }).click();
    };
    /** White pixels in the lower part of the picture, where the legs are. */
    const white = async () => {
      await stagePixel(page, 0.5, 0.5);
      return page.evaluate(() => {
        const canvas = document.querySelector('[data-testid=stage]') as HTMLCanvasElement;
        const copy = Object.assign(document.createElement('canvas'), { width: canvas.width, height: canvas.height });
        const context = copy.getContext('2d')!;
        context.drawImage(canvas, 0, 0);
        const [width, top] = [Math.round(canvas.width * 0.55), Math.round(canvas.height * 0.65)];
        const { data } = context.getImageData(0, top, width, canvas.height - top);
        let count = 0;
        for (let i = 0; i < data.length; i += 4) if (Math.min(data[i], data[i + 1], data[i + 2]) > 230) count++;
        return count;
      });
    };
    await openOn('copper-still');
    const before = await white();
    await openOn('black-iron');
    await page.getByRole('button', { name: 'fill', exact: true }).click();
    await until(async () => (await api<History>(served.url, '/documents/black-iron/history')).undo?.startsWith('Fill red'));
    await openOn('copper-still');
    await until(async () => (await white()) > before + 20);
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'save .glb' }).click()]);
    const { model } = await readGltf(new Uint8Array(readFileSync(await download.path())));
    const reds = Object.fromEntries(model.lods[0].map(({ name, mesh }) => [name, mesh.geomcolor.filter((_, i) => i % 4 === 0)]));
    expect(Object.keys(reds)).toEqual(['body', 'lid', 'pipe', 'stand']);
    expect(reds['stand'].every((v) => v === 1)).toBeTrue();
    expect(reds['body'].some((v) => v < 0.9)).toBeTrue();
    // Coordinates leave as they came, however slots are laid.
    const { body } = await api<StoredDocument<SpecimenDocument>>(served.url, '/documents/copper-still-tile');
    const kept = await (await fetch(`${served.url}/api/blobs/${body.model}`)).arrayBuffer();
    const given = (await readGltf(new Uint8Array(kept))).model.lods[0];
    const bounds = (values: Float32Array) => [Math.min(...values), Math.max(...values)].map((v) => v.toFixed(4));
    model.lods[0].forEach(({ mesh }, i) => expect(bounds(mesh.texcoord)).toEqual(bounds(given[i].mesh.texcoord)));
    await page.keyboard.press('b');
  });
  it('slots of an asset are given other blends, sizes and copies of their own; layers go from one to another', async () => {
    const asset = async () => (await api<StoredDocument<AssetDocument>>(served.url, '/documents/whole-still')).body;
    await page.getByRole('button', { name: 'slots …' }).click();
    await page.getByLabel('Blend on pipe').selectOption({ label: 'Black iron' });
    await until(async () => (await asset()).slots['s2'].blend === 'black-iron');
    const size = page.getByRole('spinbutton', { name: /Size of what sits on pipe/ });
    await size.focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type('2');
    await page.keyboard.press('Enter');
    await until(async () => (await asset()).slots['s2'].size === 2);
    await page.getByLabel('own copy for pipe').click();
    await page.waitForSelector('[data-layer="Rust"]');
    const own = await until(async () => {
      const { blend } = (await asset()).slots['s2'];
      return blend !== 'black-iron' && blend;
    });
    await page.waitForURL(new RegExp(`blend/${own}`));
    await page.getByRole('button', { name: 'More for Rust' }).click();
    await page.getByRole('menuitem', { name: 'Copy to another blend' }).click();
    await page.getByRole('menuitem', { name: /^Copper still on copper/ }).click();
    const body = () => api<StoredDocument<BlendDocument>>(served.url, '/documents/copper-still');
    const copied = await until(async () => Object.values((await body()).body.layers).find((l) => l.name === 'Rust'));
    expect(constantOf(copied)?.baseColor).toBe('#7a4526');
    expect((await api<History>(served.url, '/documents/copper-still/history')).undo).toBe('Copy Rust here from Black iron, pipe');
  });
  it('surfaces are given to the colours of an ID map, which lies as the mesh has it', async () => {
    await page.goto(`${served.url}/blend/copper-still`);
    await page.waitForSelector('[data-layer="Copper"]');
    const before = Object.keys((await api<StoredDocument<BlendDocument>>(served.url, '/documents/copper-still')).body.layers);
    await page.getByRole('button', { name: 'Layer', exact: true }).click();
    await page.getByRole('menuitem', { name: 'By ID colours or parts' }).click();
    await page.getByLabel('What tells them apart').selectOption({ label: 'ID map of Copper still, IDs' });
    await until(async () => (await page.locator('pb-id-card .ids b').allInnerTexts()).length === 3);
    const colours = await page.locator('pb-id-card .ids b').allInnerTexts();
    const shares = (await page.locator('pb-id-card .ids .num').allInnerTexts()).map((t) => parseFloat(t));
    expect(Math.abs(shares.reduce((sum, v) => sum + v, 0) - 100)).toBeLessThan(0.2);
    // The commonest colour is that of the belly and the lid.
    await page.getByLabel(`Surface for ${colours[0]}`).selectOption({ label: 'Lime plaster' });
    await page.getByRole('button', { name: 'Make 1 layer' }).click();
    const made = await until(async () => {
      const { layers } = (await api<StoredDocument<BlendDocument>>(served.url, '/documents/copper-still')).body;
      return Object.entries(layers).find(([id]) => !before.includes(id))?.[1];
    });
    expect(Object.values(made.coverage)).toEqual([jasmine.objectContaining({ kind: 'id', surface: 'copper-still-ids', colour: colours[0], set: 1 })]);
    const name = `Lime plaster on ${colours[0]}`;
    await page.locator(`[data-layer="${name}"] .name`).click();
    const row = page.locator('pb-account-card tr', { hasText: name }).first();
    const shown = async () => ((await row.count()) ? parseFloat((await row.innerText()).replace(name, '')) : null);
    // A place is asked about once the mesh and what lies on it are there.
    await until(async () => {
      await page.mouse.click(...(await onStill('body')));
      await page.waitForTimeout(1000);
      return (await shown()) === 100;
    });
    // The pipe has another colour.
    await page.mouse.click(...(await onStill('pipe')));
    await until(async () => (await shown()) === 0);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await until(
      async () => Object.keys((await api<StoredDocument<BlendDocument>>(served.url, '/documents/copper-still')).body.layers).length === before.length,
    );
  });
  it('a map that decides is laid over the extent, or by a set of coordinates of the mesh', async () => {
    const cue = async () =>
      Object.values((await api<StoredDocument<BlendDocument>>(served.url, '/documents/shed-wall')).body.layers['dirt'].coverage)[0];
    await page.goto(`${served.url}/blend/shed-wall`);
    await page.getByLabel('Specimen', { exact: true }).selectOption({ label: 'Copper still, one tile' });
    await page.locator('[data-layer="Rising dirt"] .name').click();
    await page.getByTestId('cue').first().locator('.cue').click();
    await page.getByLabel('What the cue looks at').selectOption('mask');
    await page.getByLabel('Map', { exact: true }).selectOption({ label: 'Height' });
    await until(async () => (await cue()).kind === 'mask');
    const picture = () =>
      page.evaluate(() => {
        const canvas = document.querySelector('pb-cue-card canvas') as HTMLCanvasElement;
        return [...canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data].filter((_, i) => i % 4 === 0).join();
      });
    const over = await until(async () => /[1-9]\d\d/.test(await picture()) && picture());
    await page.getByLabel('What the map is laid by').selectOption({ label: 'by UV set 1' });
    await until(async () => ((await cue()) as { set?: number }).set === 1);
    await until(async () => (await picture()) !== over);
    expect(await page.locator('pb-sentence').innerText()).toContain('by UV set 1');
    await page.getByLabel('What the map is laid by').selectOption({ label: 'over the extent' });
    await until(async () => !('set' in (await cue())));
    await page.keyboard.press('Escape');
    await page.getByLabel('Specimen', { exact: true }).selectOption({ label: 'Shed wall' });
    await until(async () => (await api<StoredDocument<BlendDocument>>(served.url, '/documents/shed-wall')).body.specimen === 'shed-wall');
  });
  it('a new asset of a specimen begins with the open blend on all slots, and is removed again', async () => {
    await page.goto(`${served.url}/blend/shed-wall`);
    await page.getByLabel('Specimen', { exact: true }).selectOption('make:');
    await page.waitForSelector('pb-asset');
    expect((await page.locator('pb-asset .chips .pill').allInnerTexts()).slice(0, 3).map((t) => t.replace(/\s+/g, ' '))).toEqual([
      'stone Shed wall',
      'timber Shed wall',
      'plaster Shed wall',
    ]);
    await page.getByRole('button', { name: 'slots …' }).click();
    await page.getByRole('button', { name: 'Remove this asset' }).click();
    await page.waitForSelector('pb-asset', { state: 'detached' });
    await page.waitForURL(/blend\/shed-wall$/);
  });
});
