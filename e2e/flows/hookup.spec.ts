import type { AssetDocument, BlendDocument, Model, Orbit, SurfaceDocument } from '@pebble/core';
import { clipMatrix, makeBlend, makeImage, makeLayer } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { vec4 } from 'gl-matrix';
import type { Page } from 'playwright-core';
import { until } from '../../apps/server/spec/harness';
import { panel } from '../../packages/formats/src/testing/panels';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, api } from '../harness';
import { stageReady } from '../on-stage';

type Rgb = readonly [number, number, number];
/** Two colours of each slot, told apart from all others by sight. */
const COLOURS: Record<string, readonly [Rgb, Rgb]> = {
  body: [
    [220, 30, 30],
    [30, 30, 220],
  ],
  wheels: [
    [30, 200, 30],
    [230, 230, 30],
  ],
  roof: [
    [30, 210, 210],
    [210, 30, 210],
  ],
};
const SIDE = 128;

/** Where each panel begins, in metres. */
const AT: Record<string, number> = { body: 0, wheels: 1.1, roof: 2.2 };
const kiosk: Model = { title: 'kiosk', lods: [Object.entries(AT).map(([slot, x]) => panel(`M_Kiosk_${slot[0].toUpperCase()}${slot.slice(1)}`, x))] };

/** Squares of two colours, so many each way. */
function checker([a, b]: readonly [Rgb, Rgb], columns: number, width = SIDE, height = SIDE) {
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      data.set((Math.floor((x * columns) / width) + Math.floor((y * columns) / height)) % 2 ? b : a, (y * width + x) * 3);
  return makeImage({ width, height, channels: 3, colourSpace: 'srgb', data });
}
const flat = (...value: number[]) =>
  makeImage({
    width: SIDE,
    height: SIDE,
    channels: value.length,
    data: Uint8Array.from({ length: SIDE * SIDE * value.length }, (_, i) => value[i % value.length] + (value.length === 1 ? (i * 7) % 3 : 0)),
  });

/** Colours of places of the stage, in shares of one of its halves, once it is at rest. */
const coloursAt = (page: Page, half: 'specimen' | 'flat', places: readonly (readonly [number, number])[]) =>
  page.evaluate(
    async ([half, places]) => {
      const canvas = document.querySelector('[data-testid=stage]') as HTMLCanvasElement & { pebbleStage: { settled(): Promise<void> } };
      await canvas.pebbleStage.settled();
      for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
      const copy = Object.assign(document.createElement('canvas'), { width: canvas.width, height: canvas.height });
      const context = copy.getContext('2d', { willReadFrequently: true })!;
      context.drawImage(canvas, 0, 0);
      const from = half === 'flat' ? 0.5 : 0;
      return places.map(([x, y]) => [
        ...context.getImageData(Math.floor((from + x / 2) * canvas.width), Math.floor(y * canvas.height), 1, 1).data.subarray(0, 3),
      ]);
    },
    [half, places] as const,
  );

/** Where places of a panel's texture are seen, in shares of the specimen's half. @param x where the panel begins, in metres */
async function seenAt(page: Page, x: number, places: readonly (readonly [number, number])[]) {
  const box = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  const { orbit } = JSON.parse(
    await page.evaluate(() => (document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: { looked: string } }).pebbleStage.looked),
  ) as { orbit: Orbit };
  const matrix = clipMatrix(orbit, box.width / box.height);
  return places.map(([u, v]) => {
    const [cx, cy, , w] = vec4.transformMat4(vec4.create(), [x + u, 1 - v, 0, 1], matrix);
    return [(cx / w + 1) / 2, (1 - cy / w) / 2] as const;
  });
}

/** Middles of the squares of a checker, and which of its two colours each has. */
const squares = (columns: number) =>
  Array.from({ length: columns * columns }, (_, i) => {
    const [c, r] = [i % columns, Math.floor(i / columns)];
    return { at: [(c + 0.5) / columns, (r + 0.5) / columns] as const, colour: (c + r) % 2 };
  });
const near = (found: readonly number[], wanted: Rgb) => found.every((v, c) => Math.abs(v - wanted[c]) < 30);
/** How many squares of a slot's checker have another colour than they should. */
async function wrong(page: Page, slot: string, columns: number) {
  const all = squares(columns);
  const found = await coloursAt(
    page,
    'specimen',
    await seenAt(
      page,
      AT[slot],
      all.map((s) => s.at),
    ),
  );
  return found.filter((colour, i) => !near(colour, COLOURS[slot][all[i].colour])).length;
}

describe('a mesh and its finished maps', () => {
  let { served, page } = {} as Flow;
  inBrowser(
    async (flow) => {
      ({ served, page } = flow);
      await page.goto(`${served.url}/surfaces`);
    },
    { demo: false },
  );
  const png = async (name: string, image: ReturnType<typeof makeImage>) => ({
    name,
    mimeType: 'image/png',
    buffer: Buffer.from(await nodeCodec.encode(image)),
  });
  const asset = async () => (await allDocuments<AssetDocument>(served.url)).find((d) => d.kind === 'asset');

  it('dropped together are matched by name, and every slot wears its own once', async () => {
    const files = [{ name: 'kiosk.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(await writeGlb('kiosk', kiosk)) }];
    for (const slot of Object.keys(COLOURS))
      files.push(
        await png(`kiosk_${slot}_basecolor.png`, checker(COLOURS[slot], 4)),
        await png(`kiosk_${slot}_roughness.png`, flat(150)),
        await png(`kiosk_${slot}_metallic.png`, flat(0)),
      );
    await page.getByTestId('pick-files').setInputFiles(files);
    const form = page.locator('pb-import-form');
    await form.getByLabel('What M_Kiosk_Body of kiosk wears').waitFor();
    const wears = await form.locator('.hook select').evaluateAll((all) => all.map((s) => (s as HTMLSelectElement).selectedOptions[0].text));
    expect(wears).toEqual(['Kiosk body', 'Kiosk wheels', 'Kiosk roof']);
    for (const ask of await form.locator('tr.under .question .pill').all()) if (await ask.isVisible()) await ask.click();
    await form.getByRole('button', { name: 'Import' }).click();
    await page.getByTestId('stage').waitFor();
    await stageReady(page);
    const made = await asset();
    const surfaces = await allDocuments<SurfaceDocument>(served.url);
    const name = (id: string) => surfaces.find((s) => s.id === id)?.body.name;
    expect(Object.values(made!.body.slots).map((s) => [s.slot, name(s.blend)])).toEqual([
      ['M_Kiosk_Body', 'Kiosk body'],
      ['M_Kiosk_Wheels', 'Kiosk wheels'],
      ['M_Kiosk_Roof', 'Kiosk roof'],
    ]);
    // A texture is as wide as it is on the mesh: a metre here.
    expect(surfaces.find((s) => s.body.name === 'Kiosk body')?.body.sizeM).toBeCloseTo(1, 3);
  });
  it('show four columns of a checker of four on a square, on every slot and flat', async () => {
    await page.getByRole('radio', { name: 'Base colour' }).click();
    // Any other number of columns, any turn and any mirroring puts another colour into half of the squares.
    for (const slot of Object.keys(COLOURS)) await until(async () => (await wrong(page, slot, 4)) === 0);
    await page.locator('pb-worn .slots .pill', { hasText: 'M_Kiosk_Roof' }).click();
    const { width, height } = (await page.getByRole('application', { name: /^Flat/ }).boundingBox())!;
    const across = squares(4).filter((s) => Math.abs(s.at[1] - 0.5) < 0.2);
    // The flat shows 1.06 of the texture across its shorter side.
    const span = 1.06 / Math.min(width, height);
    const places = across.map(({ at: [u, v] }) => [0.5 + (u - 0.5) / (span * width), 0.5 + (v - 0.5) / (span * height)] as const);
    await until(async () => (await coloursAt(page, 'flat', places)).every((found, i) => near(found, COLOURS['roof'][across[i].colour])));
  });
  it('give a slot something else in the table, undone in one step', async () => {
    await page.locator('pb-asset').getByRole('button', { name: 'slots …' }).click();
    await page.getByLabel('Blend on M_Kiosk_Roof').selectOption({ label: 'Kiosk body' });
    await until(async () => {
      const [surfaces, made] = [await allDocuments<SurfaceDocument>(served.url), await asset()];
      return surfaces.find((s) => s.id === Object.values(made!.body.slots)[2].blend)?.body.name === 'Kiosk body';
    });
    await page.keyboard.press('Escape');
    await until(async () => (await wrong(page, 'roof', 4)) === 16);
    await page.keyboard.press('Control+z');
    await until(async () => (await wrong(page, 'roof', 4)) === 0);
  });
  it('bring roles beside the usual six into a blend: seen by themselves, kept off by a layer, drawn as one chooses', async () => {
    const rgba = makeImage({ width: SIDE, height: SIDE, channels: 4, colourSpace: 'srgb' });
    // Half of it is cut away: what alpha holds is plain.
    for (let i = 0; i < SIDE * SIDE; i++) rgba.data.set([200, 120 + ((i * 13) % 60), 40, i % SIDE < SIDE / 2 ? 255 : 0], i * 4);
    const glow = makeImage({
      width: SIDE,
      height: SIDE,
      channels: 3,
      colourSpace: 'srgb',
      data: new Uint8Array(SIDE * SIDE * 3).map((_, i) => [255, 128, (i * 7) % 30][i % 3]),
    });
    await page.goto(`${served.url}/surfaces`);
    await page.getByTestId('pick-files').setInputFiles([await png('lantern_basecolor.png', rgba), await png('lantern_emissive.png', glow)]);
    await page.getByLabel('What alpha of lantern_basecolor.png holds').waitFor();
    expect(await page.getByLabel('What alpha of lantern_basecolor.png holds').inputValue()).toBe('opacity');
    await page.getByRole('button', { name: 'Import', exact: true }).click();
    let id = '';
    await until(async () => (id = (await allDocuments<SurfaceDocument>(served.url)).find((d) => d.body.name === 'Lantern')?.id ?? '') !== '');
    const body = makeBlend('Lanterns', { extentM: 1, layers: { a: makeLayer(id, 'Lantern', 1) } });
    const { id: blend } = await api<{ id: string }>(served.url, '/documents', { body, label: 'New', opId: crypto.randomUUID() });
    await page.goto(`${served.url}/blend/${blend}`);
    await stageReady(page);
    const channels = await page.getByRole('radiogroup', { name: 'Channel' }).getByRole('radio').allInnerTexts();
    expect(channels.slice(-3)).toEqual(['Emissive', 'Opacity', 'Layers']);
    await page.getByRole('radio', { name: 'Emissive' }).click();
    const middle = [[0.5, 0.5]] as const;
    await until(async () => near((await coloursAt(page, 'flat', middle))[0], [255, 128, 15]));
    await page.getByLabel('How the blend goes over what is behind it').selectOption({ label: 'glass' });
    await until(async () => (await allDocuments<BlendDocument>(served.url)).find((d) => d.id === blend)?.body.drawn?.as === 'glass');
  });
});
