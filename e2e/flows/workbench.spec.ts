import type { StoredDocument } from '@pebble/contracts';
import type { RecipeDocument } from '@pebble/core';
import { extractChannel, generateSurface, resize } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { unzipSync } from 'fflate';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, saved, scratch } from '../harness';

describe('the workbench', () => {
  let { served, page } = {} as Flow;
  const files = scratch();
  const documents = () => allDocuments(served.url);
  inBrowser(async (flow) => {
    ({ served, page } = flow);
    await page.waitForSelector('.pebble img');
  });
  afterAll(() => files.remove());

  it('shows Orrin Ridge: a wall of pebbles, the maps of the chosen one, values under the pointer', async () => {
    await page.goto(`${served.url}/surfaces`);
    await page.waitForSelector('.pebble img');
    expect(await page.locator('.pebble b').allTextContents()).toEqual(
      jasmine.arrayWithExactContents([
        'Terrace stone',
        'Laterite clay',
        'Cushion moss',
        'Fallen tea leaves',
        'River gravel',
        'Lime plaster',
        'Weathered copper',
        'Glazed roof tile',
        'Still water',
        'Copper still, IDs',
        'Copper still, finished',
        'Copper still, stamped',
        'Shed wall, finished',
        'Shed wall, stamped',
      ]),
    );
    await page.getByRole('option', { name: /Terrace stone/ }).click();
    await page.waitForFunction(
      () => document.querySelectorAll('pb-map-strip .wait').length === 0 && document.querySelectorAll('pb-map-strip .pane').length === 7,
    );
    await page
      .locator('pb-map-strip .pane')
      .first()
      .hover({ position: { x: 80, y: 80 } });
    const values = await page.locator('pb-map-strip .pane > .value').allInnerTexts();
    expect(values.length).toBe(6);
    expect(values[0]).toMatch(/^\d+ \d+ \d+\s+0\.\d{3} 0\.\d{3} 0\.\d{3}$/);
    expect(values.join('|')).toMatch(/(° to \d+°|flat).* mm/s);
    await page.getByLabel('Find a surface').fill('moss');
    await until(async () => (await page.locator('.pebble b').allTextContents()).join() === 'Cushion moss');
    await page.getByLabel('Find a surface').fill('');
  });

  it('takes files of one’s own: recognised, put right in the form, imported, one of them refused with a reason', async () => {
    const { maps } = generateSurface('laterite-clay', { seed: 77, size: 64 });
    const put = async (name: string, bytes: Uint8Array | Promise<Uint8Array>) => {
      const at = path.join(files.dir, name);
      writeFileSync(at, await bytes);
      return at;
    };
    const list = [
      await put('yard_path_baseColor.png', nodeCodec.encode(maps.baseColor)),
      await put('yard_path_nrm.png', nodeCodec.encode(maps.normal)),
      await put('yard_path_height.png', nodeCodec.encode(maps.height)),
      await put('yard_path_shine.png', nodeCodec.encode(maps.roughness)),
      await put('yard_path_ao.png', Buffer.from('no picture at all')),
    ];
    await page.goto(`${served.url}/surfaces`);
    await page.getByTestId('pick-files').setInputFiles(list);
    await page.waitForSelector('pb-import-form');
    expect(await page.locator('pb-import-form footer').textContent()).toContain('yard_path_ao.png: this is no image of a kind that is read');
    // The name of one file says nothing: it goes with the files it begins like, and what its content is taken for can be put right.
    await page.getByLabel('What yard_path_shine.png holds').selectOption('roughness');
    await page.getByLabel('Width in metres').first().focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type('150cm');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Import', exact: true }).click();
    await page.waitForSelector('.pebble b:text-is("Yard path")');
    const made = (await documents()).find((d) => d.body.name === 'Yard path')!.body;
    expect(made.kind === 'surface' && [made.sizeM, Object.keys(made.maps).sort()]).toEqual([1.5, ['baseColor', 'height', 'normal', 'roughness']]);
  });

  it('says how large files will be within a quarter, blends as well as surfaces', async () => {
    await page.goto(`${served.url}/pack`);
    await page.waitForSelector('.file pb-picture');
    const told = async () =>
      Object.fromEntries(
        await Promise.all(
          (await page.locator('.list li').all()).map(async (row) => {
            const [value, unit] = (await row.locator('.quiet').innerText()).split(' ');
            return [await row.locator('.name').innerText(), Number(value) * { B: 1, kB: 1e3, MB: 1e6 }[unit]!] as const;
          }),
        ),
      );
    // What is told changes while small pictures come, and then larger ones.
    let last = '';
    await until(async () => {
      const now = JSON.stringify(await told());
      const still = now === last;
      last = now;
      await page.waitForTimeout(4000);
      return still;
    });
    const about = await told();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: /^Pack 6 files/ }).click()]);
    const zip = unzipSync(readFileSync(await download.path()));
    expect(Object.keys(zip).sort()).toEqual(Object.keys(about).sort());
    for (const [name, bytes] of Object.entries(zip))
      expect(Math.abs(about[name] / bytes.length - 1))
        .withContext(`${name}: told ${about[name]}, is ${bytes.length}`)
        .toBeLessThan(0.25);
  });

  it('packs occlusion, roughness and metallic into one texture and downloads a zip whose pixels are right', async () => {
    await page.goto(`${served.url}/pack`);
    await page.waitForSelector('.file pb-picture');
    // Roughness is spread and inverted at its crossing; the base and normal files are left out.
    await page.getByRole('button', { name: 'Roughness feeds G of orm' }).click();
    const card = page.getByRole('dialog', { name: 'Roughness feeds G of orm' });
    await card.getByRole('button', { name: /Invert/ }).click();
    await card.getByRole('button', { name: /Invert/, pressed: true }).waitFor();
    for (const [level, value] of [
      ['What becomes 0', '0.2'],
      ['What becomes 1', '0.8'],
    ]) {
      const field = page.getByRole('spinbutton', { name: level });
      await field.click();
      await page.keyboard.press('ControlOrMeta+A');
      await page.keyboard.type(value);
      await page.keyboard.press('Enter');
      await page.waitForFunction(
        ([name, now]) => document.querySelector(`[aria-label="${name}"]`)?.getAttribute('aria-valuenow') === now,
        [level, value],
      );
    }
    await page.getByRole('spinbutton', { name: 'What becomes 1' }).focus();
    await page.keyboard.press('Escape');
    await page.getByRole('spinbutton', { name: 'What becomes 1' }).waitFor({ state: 'detached' });
    await page.getByLabel('Side in pixels').selectOption('256');
    for (const file of ['terrace_step_base.png', 'terrace_step_nh.png', 'cushion_moss_base.png', 'cushion_moss_nh.png', 'terrace_step_orm.png'])
      await page.getByRole('checkbox', { name: file }).uncheck();
    await saved(page);
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: /^Pack 1 file/ }).click()]);
    expect(download.suggestedFilename()).toBe('usual_packing.zip');
    const zip = unzipSync(readFileSync(await download.path()));
    expect(Object.keys(zip)).toEqual(['cushion_moss_orm.png']);
    const orm = await nodeCodec.decode(zip['cushion_moss_orm.png'], 'data');
    const made = generateSurface('cushion-moss', { seed: 27, size: 1024 }).maps;
    const small = (role: 'occlusion' | 'roughness') => resize(made[role], 256, 256).data;
    expect([...extractChannel(orm, 0).data]).toEqual([...small('occlusion')]);
    const spread = (v: number) => Math.min(1, Math.max(0, (v / 255 - 0.2) / 0.6));
    expect([...extractChannel(orm, 1).data]).toEqual([...small('roughness')].map((v) => Math.round(255 * (1 - spread(v)))));
    expect(Math.max(...extractChannel(orm, 2).data)).toBe(0);
  });

  it('says before the start what is wrong with names, and routes a constant by keyboard', async () => {
    await page.goto(`${served.url}/pack`);
    await page.waitForSelector('.grid');
    const template = page.getByLabel('Name template');
    await template.fill('same');
    await template.press('Enter');
    await page.waitForSelector('.list li.bad');
    expect(await page.locator('.list').textContent()).toContain('two files would be called same.png');
    await page.keyboard.press('Escape');
    await template.fill('{set}/{file}');
    await template.press('Enter');
    await page.waitForSelector('.token.wrong');
    await template.fill('{set}_{file}');
    await template.press('Enter');
    await page.waitForFunction(() => !document.querySelector('.token.wrong'));
    await page.getByRole('button', { name: 'Route A constant to A of orm' }).focus();
    await page.keyboard.press('Enter');
    await saved(page);
    const recipe = (await documents()).find((d) => d.kind === 'recipe') as StoredDocument<RecipeDocument>;
    expect(recipe.body.files['orm'].channels.a).toEqual({ from: 'constant', value: 1 });
  });

  it('is dark when asked, and says so after a reload', async () => {
    await page.getByRole('button', { name: /Orrin Ridge/ }).click();
    await page.getByLabel('Look').selectOption('slate');
    await page.reload();
    await page.waitForSelector('.bar');
    expect(await page.evaluate(() => getComputedStyle(document.body).backgroundColor)).toBe('rgb(29, 33, 35)');
    await page.evaluate(() => localStorage.setItem('pebble-theme', 'stone'));
  });
});
