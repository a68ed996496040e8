import type { History, StoredDocument } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import { generateSurface, makeImage } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { flipGreen } from '@pebble/usecases';
import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, ROOT, api } from '../harness';

const SIZE = 128;

describe('files of one’s own', () => {
  let { served, page } = {} as Flow;
  const dir = mkdtempSync(path.join(os.tmpdir(), 'pebble-intake-'));
  const folder = path.join(dir, 'yard');
  const gravel = generateSurface('river-gravel', { seed: 31, size: SIZE }).maps;
  const wall = generateSurface('terrace-stone', { seed: 32, size: SIZE }).maps;
  const put = async (name: string, image: Parameters<typeof nodeCodec.encode>[0]) =>
    writeFileSync(path.join(folder, name), await nodeCodec.encode(image));
  const surfaces = async () =>
    (await allDocuments<SurfaceDocument>(served.url)).filter((d) => d.kind === 'surface') as StoredDocument<SurfaceDocument>[];
  const surface = async (name: string) => (await surfaces()).find((d) => d.body.name === name)!;
  const choose = (name: string) =>
    page
      .getByRole('listbox', { name: 'Surfaces' })
      .getByRole('option', { name: new RegExp(name) })
      .click();
  const importButton = () => page.getByRole('button', { name: 'Import', exact: true });
  const settled = <T>(name: string, wanted: (body: SurfaceDocument) => T | undefined | false) =>
    until(async () => wanted((await surface(name)).body) || undefined);

  /** File of a map that is called by its surface and role. */
  const fileOf = async (label: string) => {
    const [name, role] = label.split(', ');
    return Object.entries((await surface(name)).body.maps).find(([r]) => r.toLowerCase() === role.replace(/ colour/, 'color').replace(/ /g, ''))?.[1]
      .fileName;
  };

  beforeAll(async () => {
    mkdirSync(path.join(folder, 'inner'), { recursive: true });
    await put('cistern_2k_albedo.png', gravel.baseColor);
    await put('inner/cistern_2k_nrm.png', flipGreen(gravel.normal));
    await put('cistern_2k_scan3.png', gravel.height);
    const parts = [wall.occlusion, wall.roughness, wall.height];
    await put(
      'shed_packed.png',
      makeImage({
        width: SIZE,
        height: SIZE,
        channels: 3,
        data: Uint8Array.from({ length: SIZE * SIZE * 3 }, (_, i) => parts[i % 3].data[Math.floor(i / 3)] / (parts[i % 3].depth === 16 ? 257 : 1)),
      }),
    );
    await put('shed_roughness.png', wall.normal);
    writeFileSync(path.join(folder, 'broken_height.png'), 'no picture');
  });
  inBrowser(
    async (flow) => {
      ({ served, page } = flow);
      await page.goto(`${served.url}/surfaces`);
    },
    { demo: false },
  );
  afterAll(() => rmSync(dir, { recursive: true }));

  it('files and folders are dropped from the desktop, together', async () => {
    const loose = path.join(dir, 'cistern_rough.png');
    writeFileSync(loose, await nodeCodec.encode(gravel.roughness));
    const cdp = await page.context().newCDPSession(page);
    const data = { items: [], files: [folder, loose], dragOperationsMask: 1 };
    const drag = (type: 'dragEnter' | 'dragOver' | 'drop') => cdp.send('Input.dispatchDragEvent', { type, x: 600, y: 400, data });
    await page.getByRole('button', { name: 'Pick files' }).waitFor();
    await drag('dragEnter');
    await page.locator('.stage.over').waitFor();
    await drag('dragOver');
    // A hand rests before it lets go.
    await page.waitForTimeout(200);
    await drag('drop');
    await page.waitForSelector('pb-import-form');
    for (const file of ['cistern_2k_albedo.png', 'cistern_2k_nrm.png', 'cistern_rough.png']) await page.getByLabel(`What ${file} holds`).waitFor();
    expect(await page.locator('pb-import-form').textContent()).toContain('broken_height.png: this is no image of a kind that is read');
    await page.getByRole('button', { name: 'Forget these files' }).click();
    await page.locator('pb-import-form').waitFor({ state: 'detached' });
  });
  it('a messy folder is recognised, asks only what is doubtful, and becomes surfaces', async () => {
    await page.getByTestId('pick-folder').setInputFiles(folder);
    await page.waitForSelector('pb-import-form');
    const holds = (file: string) => page.getByLabel(`What ${file} holds`).inputValue();
    expect([await holds('cistern_2k_albedo.png'), await holds('cistern_2k_nrm.png'), await holds('cistern_2k_scan3.png')]).toEqual([
      'baseColor',
      'normal',
      'height',
    ]);
    expect(await page.getByLabel('Way of green of cistern_2k_nrm.png').inputValue()).toBe('y-');
    const said = (await page.locator('pb-import-form footer').textContent()) ?? '';
    expect(said).toContain('broken_height.png: this is no image of a kind that is read');
    expect(said).toContain('shed_roughness.png: answer the question below it.');
    expect(await page.locator('pb-import-form').textContent()).toContain(
      'The name says roughness, the content looks like a normal map. Which is it?',
    );
    expect(await importButton().isDisabled()).toBeTrue();
    await page.locator('.under').getByRole('button', { name: 'normal', exact: true }).click();
    expect(await holds('shed_packed.png')).toBe('channels');
    const channels = page.locator('tr.under select');
    for (const [i, role] of ['occlusion', 'roughness', 'height'].entries()) await channels.nth(i).selectOption(role);
    await page.getByPlaceholder('who made them').fill('A. Perera');
    await importButton().click();
    await until(async () => (await surfaces()).length === 2);
    const { body } = await surface('Cistern');
    expect([Object.keys(body.maps).sort(), body.maps.normal?.normalDirection, body.origin?.author]).toEqual([
      ['baseColor', 'height', 'normal'],
      'y-',
      'A. Perera',
    ]);
    expect(Object.keys((await surface('Shed')).body.maps).sort()).toEqual(['height', 'normal', 'occlusion', 'roughness']);
  });
  it('green is turned over in one click and taken back in one step', async () => {
    await choose('Cistern');
    await page.getByRole('button', { name: 'Change Normal' }).click();
    await page.getByRole('menuitem', { name: 'Turn green over' }).click();
    await settled('Cistern', (b) => b.maps.normal?.normalDirection === 'y+');
    await page.getByLabel(/^Undo/).first().click();
    await settled('Cistern', (b) => b.maps.normal?.normalDirection === 'y-');
  });
  it('a map is made of another by steps, follows it, and its steps are turned', async () => {
    await page.getByRole('button', { name: 'Change Height' }).click();
    await page.getByRole('menuitem', { name: 'Cavity from it' }).click();
    await settled('Cistern', (b) => b.maps.cavity);
    await page.getByRole('tab', { name: 'How they are made' }).click();
    await page.getByRole('button', { name: 'Cavity', exact: true }).click();
    await page.getByText('the height map, which it follows').waitFor();
    const times = page.getByRole('spinbutton', { name: 'Cavity from height: Times' });
    await times.focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type('9');
    await page.keyboard.press('Enter');
    await settled('Cistern', (b) => Object.values(b.maps.cavity?.made?.steps ?? {})[0]?.values['amount'] === 9);
    await page.getByRole('tab', { name: 'What maps hold' }).click();
  });
  it('many maps change at once in the table, for one target, in one step a surface', async () => {
    await page.getByRole('tab', { name: 'How they are kept' }).click();
    await page.getByRole('button', { name: 'All surfaces' }).click();
    await page.getByRole('button', { name: 'Phone', exact: true }).click();
    await page.getByLabel('Find a map').fill('normal');
    await page.getByLabel('Mark all rows').check();
    await page.getByLabel('Format of Normal, Shed').selectOption('ASTC_8x8');
    for (const name of ['Shed', 'Cistern']) await settled(name, (b) => b.maps.normal?.overrides?.['phone']?.format === 'ASTC_8x8');
    expect((await surface('Shed')).body.maps.height?.overrides).toBeUndefined();
    expect(await page.locator('.value.own').count()).toBe(2);
    const { id } = await surface('Shed');
    expect((await api<History>(served.url, `/documents/${id}/history`)).undo).toBe('Normal: format ASTC 8×8 on Phone');
    // 128² at 8 × 8 blocks: 256 + 64 + 16 + 4 + 1 + 1 + 1 + 1 blocks of 16 bytes, twice.
    expect(await page.locator('pb-kept-table .tag').textContent()).toContain('2 maps 11 kB on Phone');
    await page.getByLabel('Format of Normal, Shed').selectOption('');
    await settled('Shed', (b) => !b.maps.normal?.overrides);
  });
  it('a target of one’s own is a copy with other limits', async () => {
    await page.getByRole('button', { name: 'Limits and formats' }).click();
    await page.getByRole('button', { name: 'Make a copy' }).click();
    const name = page.getByLabel('Name of the target');
    await until(async () => (await name.inputValue()) === 'Phone copy');
    await name.fill('Old phone');
    await name.press('Enter');
    await page.getByRole('button', { name: 'Close' }).click();
    await page.getByRole('button', { name: 'Old phone' }).waitFor();
    await page.getByLabel('Find a map').fill('');
    await page.getByRole('tab', { name: 'What maps hold' }).click();
  });
  it('the same folder again lists what has changed and reads just that; settings stay', async () => {
    const before = (await surface('Cistern')).body;
    await put('cistern_2k_albedo.png', wall.baseColor);
    await page.getByTestId('pick-folder').setInputFiles(folder);
    await page.waitForSelector('pb-import-form');
    const said = (await page.locator('pb-import-form .known').textContent()) ?? '';
    expect(said).toContain('cistern_2k_albedo.png in Cistern, base colour; settings stay');
    expect(said).toContain('6 maps are as they were and left alone.');
    await page.getByRole('button', { name: 'Read again' }).click();
    await settled('Cistern', (b) => b.maps.baseColor?.blob !== before.maps.baseColor?.blob);
    const after = (await surface('Cistern')).body;
    expect(after.maps.normal).toEqual(before.maps.normal);
    expect((await surfaces()).length).toBe(2);
  });
  it('an image is replaced everywhere after its places were shown', async () => {
    await choose('Shed');
    const other = path.join(dir, 'shed_packed_b.png');
    writeFileSync(other, await nodeCodec.encode(gravel.baseColor));
    await page.getByRole('button', { name: 'Change Roughness' }).click();
    await page.getByRole('menuitem', { name: 'Replace the image' }).click();
    await page.getByTestId('replace-image').setInputFiles(other);
    await page.getByText('shed_packed.png is used in 3 maps').waitFor();
    await page.getByRole('button', { name: 'Replace everywhere' }).click();
    await settled('Shed', (b) => b.maps.height?.fileName === 'shed_packed_b.png' && b.maps.roughness?.fileName === 'shed_packed_b.png');
    const { id } = await surface('Shed');
    await api(served.url, `/documents/${id}/undo`, { opId: crypto.randomUUID() });
    await settled('Shed', (b) => b.maps.height?.fileName === 'shed_packed.png');
  });
  it('arrow keys step maps of any surface through a slot, live; Enter takes one, Escape leaves', async () => {
    await choose('Shed');
    const drawn = () => page.waitForFunction(() => document.querySelectorAll('pb-map-strip .wait').length === 0);
    const mean = () =>
      page
        .getByRole('img', { name: /^Roughness, / })
        .locator('canvas')
        .evaluate((canvas: HTMLCanvasElement) => {
          const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
          return data.reduce((sum, v) => sum + v, 0) / data.length;
        });
    const open = async () => {
      await page.getByRole('button', { name: 'Change Roughness' }).click();
      await page.getByRole('menuitem', { name: 'Try other maps in its place' }).click();
      await page.getByText('Shed, roughness 1 of 8').waitFor();
    };
    await drawn();
    // What was undone before may still be on its way.
    let before = NaN;
    await until(async () => {
      const last = before;
      before = await mean();
      return before === last || new Promise((r) => setTimeout(r, 800, false));
    });
    await open();
    await page.keyboard.press('ArrowRight');
    await page.getByText('2 of 8').waitFor();
    await until(async () => Math.abs((await mean()) - before) > 1);
    await page.keyboard.press('Escape');
    await until(async () => Math.abs((await mean()) - before) < 0.01);
    await open();
    await page.keyboard.press('ArrowLeft');
    await page.getByText('8 of 8').waitFor();
    const label = ((await page.locator('.slot').textContent()) ?? '').replace(/^[^A-Za-z]+/, '').split(' 8 of')[0];
    await page.keyboard.press('Enter');
    await until(async () => (await surface('Shed')).body.maps.roughness?.fileName === (await fileOf(label)));
  });
  it('the command line imports into a running server, and leaves out what is doubtful unless it is told to', async () => {
    const jaunty = (...args: string[]) => {
      const cli = path.join(ROOT, 'dist/node/cli.mjs');
      return new Promise<{ code: number | null; out: string; err: string }>((resolve) =>
        execFile(
          process.execPath,
          [cli, 'import', ...args, '--server', served.url],
          { cwd: folder, env: { ...process.env, INIT_CWD: folder } },
          (e, out, err) => resolve({ code: e ? Number(e.code) : 0, out, err }),
        ),
      );
    };
    await put('step_nrm.png', wall.normal);
    await put('step_roughness.png', wall.normal);
    const careful = await jaunty('step_nrm.png', 'step_roughness.png', 'broken_height.png', '--licence', 'CC0');
    expect(careful.out).toContain('Step: normal');
    expect(careful.out).toContain('step_roughness.png: left out. The name says roughness');
    expect([careful.code, careful.err.trim()]).toEqual([1, '2 of 3 files were left out']);
    expect((await surface('Step')).body.origin?.licence).toBe('CC0');
    const told = await jaunty('step_roughness.png', '--doubtful');
    expect([told.code, told.out.trim()]).toEqual([0, 'Step: normal']);
  });
  it('a surface is found in the quarry and fetched over its slow line, with its origin', async () => {
    await page.getByRole('button', { name: 'Quarry', exact: true }).click();
    await page.getByLabel('Find in the quarry').fill('plaster gateway');
    await page.getByText('1 surface', { exact: true }).waitFor();
    await page.getByRole('button', { name: '256²' }).click();
    await page.getByRole('button', { name: 'Fetch Lime plaster, gateway' }).click();
    await page.getByRole('dialog', { name: 'The quarry' }).getByText('on the wall').waitFor();
    await page.getByLabel('Find in the quarry').fill('nothing of this');
    await page.getByText('Nothing in the quarry is called so').waitFor();
    await page.getByRole('button', { name: 'Close' }).click();
    const { body } = await surface('Lime plaster, gateway');
    expect([Object.keys(body.maps).length, body.origin?.licence]).toEqual([6, 'CC0 1.0']);
  });
  it('what is not square keeps its shape: said at import, in the tray, and in the file that is packed', async () => {
    const board = (channels: 1 | 3) =>
      makeImage({
        width: 96,
        height: 32,
        channels,
        data: Uint8Array.from({ length: 96 * 32 * channels }, (_, i) => 60 + ((Math.floor(i / channels) % 96) + (i % channels) * 20)),
      });
    const buffer = async (channels: 1 | 3) => Buffer.from(await nodeCodec.encode(board(channels)));
    await page.getByTestId('pick-files').setInputFiles([
      { name: 'gangplank_basecolor.png', mimeType: 'image/png', buffer: await buffer(3) },
      { name: 'gangplank_roughness.png', mimeType: 'image/png', buffer: await buffer(1) },
    ]);
    const form = page.locator('pb-import-form');
    await form.getByText(/× \d\.\d{3} m high/).waitFor();
    const wide = form.getByRole('spinbutton', { name: /[Ww]idth/ }).first();
    await wide.focus();
    await page.keyboard.type('3');
    await page.keyboard.press('Enter');
    await form.getByText('× 1.000 m high').waitFor();
    await importButton().click();
    await until(() => surface('Gangplank'));
    const { body } = await surface('Gangplank');
    expect([body.sizeM, body.maps.baseColor?.width, body.maps.baseColor?.height]).toEqual([3, 96, 32]);
    await choose('Gangplank');
    await page.locator('.facts').getByText('× 1.00 m high').waitFor();
  });
  it('looking is cancelled and leaves nothing', async () => {
    const many = Array.from({ length: 40 }, (_, i) => path.join(dir, `stone${i}_height.png`));
    const big = await nodeCodec.encode(generateSurface('terrace-stone', { seed: 5, size: 512 }).maps.baseColor);
    for (const file of many) writeFileSync(file, big);
    await page.getByTestId('pick-files').setInputFiles(many);
    await page.getByText(/Looking at file \d+ of 40/).waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await page.locator('.sheet').waitFor({ state: 'detached' });
    expect(await page.locator('pb-import-form').count()).toBe(0);
    expect((await surfaces()).length).toBe(6);
  });
});
