import type { StoredDocument } from '@pebble/contracts';
import type { BlendDocument, Model, SpecimenDocument, SurfaceDocument } from '@pebble/core';
import { SPECIMEN_MODELS, generateSurface, makeBlend, makeImage, makeLayer, setsOf } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { layOut } from '@pebble/usecases/layout';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { until } from '../../apps/server/spec/harness';
import type { Page } from 'playwright-core';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, api } from '../harness';

/** Share of a canvas' pixels that are near a colour. */
const painted = (page: Page, testId: string, [r, g, b]: readonly [number, number, number]) =>
  page.getByTestId(testId).evaluate(
    (canvas: HTMLCanvasElement, want) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let n = 0;
      for (let i = 0; i < data.length; i += 4) if (data[i + 3] && want.every((v, c) => Math.abs(data[i + c] - v) < 12)) n++;
      return n / (data.length / 4);
    },
    [r, g, b],
  );
const BAD = [0xc8, 0x45, 0x2c] as const;
const GOOD = [0x5a, 0xa5, 0xac] as const;

describe('meshes of one’s own', () => {
  let { served, page } = {} as Flow;
  const dir = mkdtempSync(path.join(os.tmpdir(), 'pebble-meshes-'));
  const specimens = async () => (await allDocuments<SpecimenDocument>(served.url)).filter((d) => d.kind === 'specimen');
  const specimen = async (name: string) => (await specimens()).find((d) => d.body.name === name)!;
  const choose = (name: string) =>
    page
      .getByRole('listbox', { name: 'Specimens' })
      .getByRole('option', { name: new RegExp(name) })
      .click();
  const finding = (text: RegExp) => page.locator('pb-specimen-tray .finding').filter({ hasText: text });

  beforeAll(async () => {
    mkdirSync(path.join(dir, 'delivery'), { recursive: true });
    const put = (name: string, bytes: Uint8Array | string) => writeFileSync(path.join(dir, 'delivery', name), bytes);
    const [stone] = SPECIMEN_MODELS['marker-stone'](1).lods[1];
    const laid = await layOut(SPECIMEN_MODELS.cube(1), 'repack', 0, 0, { unitM: 1, up: 'y' }, () => undefined);
    const [cube] = laid.model.lods[0];
    const bare: Model = { title: '', lods: [[{ ...stone, sets: [] }]] };
    put('marker.glb', await writeGlb('marker', bare));
    // Two blocks that share all their islands, in centimetres.
    const sets = [setsOf(cube)[laid.set]];
    const block = { ...cube, slot: 'wood', sets, mesh: { ...cube.mesh, texcoord: sets[0], position: cube.mesh.position.map((v) => v * 500) } };
    put(
      'blocks.glb',
      await writeGlb('blocks', {
        title: '',
        lods: [
          [
            { ...block, name: 'left' },
            { ...block, name: 'right', placement: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 400, 0, 0, 1] },
          ],
        ],
      }),
    );
    put('cut.glb', (await writeGlb('marker', bare)).subarray(0, 900));
    const { maps } = generateSurface('terrace-stone', { seed: 5, size: 64 });
    put('leaf_d.png', await nodeCodec.encode(maps.baseColor));
    put('leaf.bin', Buffer.from(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 0, -1).buffer));
    put(
      'leaf.gltf',
      JSON.stringify({
        asset: { version: '2.0' },
        scenes: [{ nodes: [0] }],
        nodes: [{ mesh: 0, name: 'leaf' }],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
        materials: [{ name: 'Tea leaf', pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
        textures: [{ source: 0 }],
        images: [{ uri: 'leaf_d.png' }],
        accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 3 }],
        bufferViews: [{ buffer: 0, byteLength: 36 }],
        buffers: [{ byteLength: 36, uri: 'leaf.bin' }],
      }),
    );
  });
  inBrowser(
    async (flow) => {
      ({ served, page } = flow);
      await page.goto(`${served.url}/surfaces`);
    },
    { demo: false },
  );
  afterAll(() => rmSync(dir, { recursive: true }));

  it('an empty project says what a specimen is', async () => {
    await page.getByRole('button', { name: 'Specimens 0' }).click();
    await page.getByText('A specimen is a mesh on which things are looked at').waitFor();
  });
  it('a folder of meshes and pictures becomes specimens, and surfaces of the pictures that they name', async () => {
    await page.getByTestId('pick-folder').setInputFiles(path.join(dir, 'delivery'));
    await page.waitForSelector('pb-import-form');
    expect(await page.getByLabel('What Tea_leaf_basecolor.png holds').inputValue()).toBe('baseColor');
    expect(await page.getByLabel('What leaf_d.png holds').count()).toBe(0);
    await page.getByText(/^cut\.glb: it says to be \d+ bytes long and ends after 900/).waitFor();
    await page.getByRole('button', { name: 'Import', exact: true }).click();
    await page.getByRole('button', { name: 'Specimens 3' }).waitFor();
    expect((await specimens()).map((s) => s.body.name).sort()).toEqual(['Blocks', 'Leaf', 'Marker']);
    const surfaces = await until(async () => {
      const found = (await allDocuments<SurfaceDocument>(served.url)).filter((d) => d.kind === 'surface');
      return found.length > 0 && found;
    });
    expect(surfaces.map((s) => s.body.name)).toEqual(['Tea leaf']);
  });
  it('a mesh without coordinates is unwrapped in one click, and undone', async () => {
    await choose('Marker');
    await finding(/no texture coordinates/).waitFor();
    await page.locator('pb-specimen-page').getByRole('button', { name: 'Unwrap', exact: true }).click();
    await finding(/of the tile is empty/).waitFor();
    const { parts } = (await specimen('Marker')).body;
    expect(Object.values(parts).map((p) => p.sets)).toEqual([1]);
    // The page shows islands now: much of it is neither tile nor beyond.
    await until(async () => (await painted(page, 'specimen-page', [0x8c, 0x8a, 0x86])) < 0.5);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await finding(/no texture coordinates/).waitFor();
    await page.getByRole('button', { name: 'Redo', exact: true }).click();
    await finding(/of the tile is empty/).waitFor();
  });
  it('a size that nobody models is asked about, and read in another unit', async () => {
    await choose('Blocks');
    await finding(/Read in centimetres it would be/)
      .getByRole('button', { name: 'Read as centimetres' })
      .click();
    await page.locator('pb-specimen-tray dd.size', { hasText: '6.5 × 2.5 × 2.5 m' }).waitFor();
    expect((await specimen('Blocks')).body.unitM).toBe(0.01);
    expect(await finding(/Read in/).count()).toBe(0);
  });
  it('islands on each other are shown red until they are wanted, then blue, and get places of their own when laid out again', async () => {
    await page.getByRole('button', { name: 'Overlaps' }).click();
    await until(async () => (await painted(page, 'specimen-page', BAD)) > 0.1);
    await finding(/left and right: lie on each other/)
      .getByRole('button', { name: 'It is wanted' })
      .click();
    await until(async () => (await painted(page, 'specimen-page', GOOD)) > 0.1);
    expect(await painted(page, 'specimen-page', BAD)).toBe(0);
    await finding(/lies on itself as wanted|as wanted/)
      .getByRole('button', { name: 'Keep apart' })
      .click();
    await finding(/left and right: lie on each other/)
      .getByRole('button', { name: 'Lay out again' })
      .click();
    await page.getByRole('group', { name: 'Set of texture coordinates' }).getByRole('button', { name: '2', pressed: true }).waitFor();
    await until(async () => (await finding(/lie on each other/).count()) === 0);
    // The first set is still there.
    await page.getByRole('group', { name: 'Set of texture coordinates' }).getByRole('button', { name: '1' }).click();
    await finding(/left and right: lie on each other/).waitFor();
    await page.getByRole('group', { name: 'Set of texture coordinates' }).getByRole('button', { name: '2' }).click();
    await until(async () => (await finding(/lie on each other/).count()) === 0);
  });
  it('pointing at an island on the page or on the form reads it; keys turn, move and frame', async () => {
    const form = page.getByTestId('specimen-form');
    const box = (await form.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.5);
    await page.locator('.reading', { hasText: /(left|right), wood: 2\.\d+ m × 2\.\d+ m, [\d,]+ px\/m, [\d,]+ triangles/ }).waitFor();
    await page.mouse.move(box.x + 3, box.y + box.height - 3);
    await page.locator('.reading').waitFor({ state: 'detached' });
    const drawn = () => form.getAttribute('data-drawn');
    const pixels = () => form.evaluate((c: HTMLCanvasElement) => c.toDataURL());
    // What was pointed at is drawn plainly again.
    const before = await until(async () => {
      const now = await pixels();
      await new Promise((resolve) => setTimeout(resolve, 400));
      return now === (await pixels()) && now;
    });
    await form.focus();
    for (let k = 0; k < 3; k++) await page.keyboard.press('ArrowLeft');
    await until(async () => (await pixels()) !== before);
    await page.keyboard.press('f');
    await until(async () => (await pixels()) === before);
    expect(Number(await drawn())).toBeGreaterThan(3);
  });
  it('the same folder again makes nothing twice', async () => {
    const before = await specimens();
    await page.getByTestId('pick-folder').setInputFiles(path.join(dir, 'delivery'));
    await page.waitForSelector('pb-import-form');
    await page.getByRole('button', { name: 'Forget these files' }).click();
    expect(await specimens()).toEqual(before);
  });
  it('a blend is looked at on it', async () => {
    await page.getByRole('button', { name: /^All / }).click();
    const surface = (await allDocuments(served.url)).find((d) => d.kind === 'surface')!;
    const blocks = await specimen('Blocks');
    const body = makeBlend('On blocks', { extentM: 1, layers: { a: makeLayer(surface.id, 'Leaf', 1) } });
    const { id } = await api<StoredDocument>(served.url, '/documents', { body, label: 'New blend', opId: crypto.randomUUID() });
    await page.goto(`${served.url}/blend/${id}`);
    await page.getByLabel('Specimen', { exact: true }).selectOption({ label: 'Blocks' });
    const shown = await until(async () => {
      const { body: now } = await api<StoredDocument<BlendDocument>>(served.url, `/documents/${id}`);
      return now.specimen !== 'patch' && now.specimen;
    });
    expect(shown).toBe(blocks.id);
    // Its vertices are 2.4 m by 48 apart; those of the patch were 10 mm.
    await page.getByRole('button', { name: 'light …' }).click();
    await page.locator('.reliefs', { hasText: /every 5\d mm/ }).waitFor();
  });
  it('heights become a terrain in the metres that were asked for; a rule begins within what it holds', async () => {
    await page.goto(`${served.url}/surfaces`);
    await page.getByRole('button', { name: /^Specimens/ }).click();
    await page.getByRole('button', { name: 'A terrain …' }).click();
    const sheet = page.getByRole('dialog', { name: 'A terrain' });
    const ramp = makeImage({
      width: 65,
      height: 65,
      channels: 1,
      depth: 16,
      data: Uint16Array.from({ length: 65 * 65 }, (_, i) => ((i % 65) / 64) * 65535),
    });
    const picture = (name: string, buffer: Uint8Array) => ({ name, mimeType: 'image/png', buffer: Buffer.from(buffer) });
    // What is no picture is refused where it was chosen, and nothing is made of it.
    await sheet.getByTestId('pick-heights').setInputFiles(picture('broken.png', new TextEncoder().encode('no picture')));
    await sheet.getByRole('button', { name: 'Make the terrain' }).click();
    await sheet.getByRole('alert').filter({ hasText: 'broken.png' }).waitFor();
    await sheet.getByTestId('pick-heights').setInputFiles(picture('north_slope.png', await nodeCodec.encode(ramp)));
    expect(await sheet.getByLabel('Name of the terrain').inputValue()).toBe('North slope');
    for (const [label, metres] of [
      ['Across', '128'],
      ['Range', '64'],
      ['Foot', '1500'],
    ]) {
      await sheet.getByRole('spinbutton', { name: `Metres: ${label}` }).focus();
      await page.keyboard.press('Enter');
      await page.keyboard.type(metres);
      await page.keyboard.press('Enter');
    }
    await sheet.getByRole('button', { name: 'Make the terrain' }).click();
    await sheet.waitFor({ state: 'detached' });
    const slope = await until(() => specimen('North slope'));
    expect(slope.body.terrain).toEqual(jasmine.objectContaining({ width: 65, height: 65, acrossM: 128, rangeM: 64, footM: 1500 }));
    expect(slope.body.notes).toEqual([]);
    await page.getByLabel('Name of the specimen').waitFor();
    const body = makeBlend('On the slope', {
      extentM: 4,
      layers: {
        a: makeLayer({ kind: 'constant', baseColor: '#806040', roughness: 0.7, metallic: 0, heightM: 0 }, 'Clay', 1),
        b: makeLayer({ kind: 'constant', baseColor: '#408040', roughness: 0.7, metallic: 0, heightM: 0 }, 'Grass', 2),
      },
    });
    const { id } = await api<StoredDocument>(served.url, '/documents', { body, label: 'New blend', opId: crypto.randomUUID() });
    const blend = async () => (await api<StoredDocument<BlendDocument>>(served.url, `/documents/${id}`)).body;
    await page.goto(`${served.url}/blend/${id}`);
    await page.getByLabel('Specimen', { exact: true }).selectOption({ label: 'North slope' });
    await until(async () => (await blend()).standsAtM === 1500);
    await page.locator('[data-layer="Grass"] .name').click();
    await page.getByRole('button', { name: 'Add a cue' }).click();
    await page.getByRole('menuitem', { name: /^altitude/ }).click();
    const cue = await until(async () => Object.values((await blend()).layers['b'].coverage).find((c) => c.kind === 'altitude'));
    // The middle of a ramp of 64 m, over the sea or over its foot.
    const foot = cue.kind === 'altitude' && cue.from === 'world' ? 1500 : 0;
    expect(Math.abs(cue.centre - foot - 32)).toBeLessThan(3);
  });
});
