import type { StoredDocument } from '@pebble/contracts';
import type { BlendDocument, RecipeDocument } from '@pebble/core';
import { extractChannel, generateSurface, resize, makeCue } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { unzipSync } from 'fflate';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api, openPage, scratch } from '../harness';

type Stage = { compiles: number; onFrame: unknown };

describe('the workbench', () => {
  let { served, page, browser } = {} as Flow;
  const files = scratch();
  const documents = () => api<StoredDocument[]>(served.url, '/documents');
  const blend = async () => (await documents()).find((d) => d.id === 'terrace-step') as StoredDocument<BlendDocument>;
  /** Everything done so far is kept by the server. The page says so from its next frame on. */
  const idle = async () => {
    await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
    await page.waitForFunction(() => document.querySelector('.saved')?.textContent === 'Saved');
  };
  const stageReady = () =>
    page.waitForFunction(
      () => {
        const c = document.querySelector('[data-testid=stage]') as HTMLCanvasElement & { pebbleStage?: { ready: boolean } };
        return c?.pebbleStage?.ready;
      },
      undefined,
      { timeout: 30_000 },
    );

  const openBlend = async () => {
    // Pixels are what a machine without a graphics card spends its time on.
    await page.setViewportSize({ width: 1100, height: 690 });
    await page.goto(`${served.url}/blend/terrace-step`);
    await stageReady();
  };

  inBrowser(async (flow) => {
    ({ served, page, browser } = flow);
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
    await until(async () => (await page.locator('.pebble b').allTextContents()).join() === 'Cushion moss', 10);
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
    await page.waitForSelector('.pebble b:text-is("Yard path")', { timeout: 30_000 });
    const made = (await documents()).find((d) => d.body.name === 'Yard path')!.body;
    expect(made.kind === 'surface' && [made.sizeM, Object.keys(made.maps).sort()]).toEqual([1.5, ['baseColor', 'height', 'normal', 'roughness']]);
  });

  it('blends: the stage draws, dragging compiles nothing, one gesture is one step, undo survives a reload', async () => {
    await page.goto(`${served.url}/blend/terrace-step`);
    await stageReady();
    await page.locator('[data-layer="Cushion moss"] .name').click();
    const before = (await blend()).version;
    const compiles = () =>
      page.evaluate(() => (document.querySelector('[data-testid=stage]') as HTMLCanvasElement & { pebbleStage: Stage }).pebbleStage.compiles);
    const had = await compiles();
    const lift = page.getByRole('spinbutton', { name: 'Lift in millimetres' });
    const box = (await lift.boundingBox())!;
    await page.mouse.move(box.x + 5, box.y + 8);
    await page.mouse.down();
    for (let i = 1; i <= 12; i++) await page.mouse.move(box.x + 5 + i * 3, box.y + 8);
    await page.mouse.up();
    await idle();
    expect(await compiles()).toBe(had);
    const after = await blend();
    expect(after.version).toBe(before + 1);
    expect(after.body.layers['moss'].seam.liftM).toBeCloseTo(0.004 + 36 * 0.0002, 5);
    await page.reload();
    await page.waitForFunction(() => !(document.querySelector('[aria-label=Undo]') as HTMLButtonElement)?.disabled);
    await page.keyboard.press('Control+z');
    await until(async () => (await blend()).body.layers['moss'].seam.liftM === 0.004);
    await page.keyboard.press('Control+Shift+z');
    await until(async () => Math.abs((await blend()).body.layers['moss'].seam.liftM - 0.0112) < 1e-6);
  });

  it('lets the section be dragged: the profile up and down lifts, the seam sideways softens', async () => {
    await openBlend();
    await page.locator('[data-layer="Cushion moss"] .name').click();
    /** Where a handle is once it has come to rest: the section that it sits on is worked out beside the page. */
    const resting = async (id: string) => {
      let box = (await page.getByTestId(id).boundingBox())!;
      await until(async () => {
        const last = box;
        await page.waitForTimeout(150);
        box = (await page.getByTestId(id).boundingBox())!;
        return box.x === last.x && box.y === last.y;
      });
      return box;
    };
    const drag = async (id: string, dx: number, dy: number) => {
      const box = await resting(id);
      await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
      await page.mouse.down();
      await page.mouse.move(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy, { steps: 5 });
      await page.mouse.up();
      await idle();
    };
    const seam = async () => (await blend()).body.layers['moss'].seam;
    const start = await seam();
    await page.getByTestId('lift-handle').waitFor();
    await drag('lift-handle', 0, -20);
    expect((await seam()).liftM).toBeGreaterThan(start.liftM);
    await drag('soft-handle', 64, 0);
    expect((await seam()).soft).toBeCloseTo(start.soft + 0.2, 1);
    await page.getByTestId('lift-handle').focus();
    const lifted = (await seam()).liftM;
    await page.keyboard.press('ArrowDown');
    await until(async () => Math.abs((await seam()).liftM - (lifted - 0.001)) < 1e-6);
    const cut = (await blend()).body.cut;
    await drag('cut-a', 30, 10);
    expect((await blend()).body.cut.ax).toBeGreaterThan(cut.ax);
  });

  it('shows each channel alone and the picture without the chosen layer', async () => {
    await openBlend();
    const still = () =>
      page.evaluate(async () => {
        const canvas = document.querySelector('[data-testid=stage]') as HTMLCanvasElement & { pebbleStage: { settled(): Promise<void> } };
        await canvas.pebbleStage.settled();
        // The frame reaches the page with its next own ones.
        for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
        const copy = Object.assign(document.createElement('canvas'), { width: 64, height: 40 });
        const context = copy.getContext('2d')!;
        context.drawImage(canvas, 0, 0, 64, 40);
        return [...context.getImageData(0, 0, 64, 40).data].join();
      });
    const differs = async (from: string) => {
      const now = await still();
      return now !== from && now;
    };
    const seen = new Set<string>();
    for (const name of ['Lit', 'Base colour', 'Normal', 'Roughness', 'Occlusion', 'Height', 'Layers']) {
      await page.getByRole('radio', { name, exact: true }).click();
      await page.waitForTimeout(50);
      seen.add(await still());
    }
    expect(seen.size).toBe(7);
    const withMoss = await still();
    await page.keyboard.down('v');
    await until(() => differs(withMoss));
    await page.keyboard.up('v');
    await until(async () => (await still()) === withMoss);
  }, 120_000);

  it('switches, duplicates, reorders and removes layers, each a named step', async () => {
    await openBlend();
    const order = () => page.locator('.layer .name').allTextContents();
    expect(await order()).toEqual(['Puddle', 'Fallen leaves', 'Cushion moss', 'Laterite clay', 'Terrace stone']);
    await page.getByRole('button', { name: 'Switch off Puddle' }).click();
    await until(async () => !(await blend()).body.layers['pool'].on);
    await page.getByRole('button', { name: 'More for Laterite clay' }).click();
    await page.getByRole('menuitem', { name: 'Duplicate' }).click();
    await page.waitForSelector('[data-layer="Laterite clay copy"]');
    await page.locator('[data-layer="Laterite clay copy"] .name').focus();
    await page.keyboard.press('Alt+ArrowUp');
    await page.waitForFunction(() => [...document.querySelectorAll('.layer .name')].findIndex((n) => n.textContent === 'Laterite clay copy') === 2);
    expect(await order()).toEqual(['Puddle', 'Fallen leaves', 'Laterite clay copy', 'Cushion moss', 'Laterite clay', 'Terrace stone']);
    await page.getByRole('button', { name: 'Steps of this document' }).click();
    const steps = await page.getByRole('menuitem').allTextContents();
    expect(steps[0]).toContain('Move Laterite clay copy up');
    expect(steps[1]).toContain('Duplicate Laterite clay');
    await page.getByRole('menuitem').nth(2).click();
    await until(async () => (await blend()).body.layers['pool'].on && Object.keys((await blend()).body.layers).length === 5);
  });

  it('edits a coverage as it is read: another cue, joined otherwise', async () => {
    await openBlend();
    await page.locator('[data-layer="Laterite clay"] .name').click();
    await page.getByRole('button', { name: 'Add a cue' }).click();
    await page.getByRole('menuitem', { name: /noise/ }).click();
    await page.getByLabel('How this cue joins').selectOption('butNot');
    await idle();
    const cues = Object.values((await blend()).body.layers['clay'].coverage);
    expect(cues.map((c) => c.join)).toEqual(['and', 'butNot']);
    expect((await page.locator('pb-sentence .line').first().textContent())!.replace(/\s+/g, ' ')).toMatch(/Laterite clay ?where ?vertex red above/);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await until(async () => Object.keys((await blend()).body.layers['clay'].coverage).length === 1);
  });

  it('reads a sentence that is typed, says where it cannot, and copies it to another layer', async () => {
    await openBlend();
    await page.locator('[data-layer="Laterite clay"] .name').click();
    const sentence = async () => (await page.locator('pb-sentence .cues').textContent())!.replace(/\s+/g, ' ').trim();
    await page.getByRole('button', { name: 'Sentence of Laterite clay' }).click();
    await page.getByRole('menuitem', { name: 'Write it as text' }).click();
    const text = page.getByRole('textbox', { name: 'The sentence as text' });
    expect(await text.inputValue()).toBe('where vertex red above 0.62 ±0.4');
    await text.fill('where slope under 20 metres');
    await text.press('Enter');
    await page.getByRole('alert').getByText('Character 22: expected "°", found "metres"', { exact: true }).waitFor();
    await text.fill('where slope under 20° ±6 but not noise above 0.5 ±0.1 at 400 mm (seed 9)');
    await text.press('Enter');
    await idle();
    expect(Object.values((await blend()).body.layers['clay'].coverage)).toEqual([
      makeCue('slope', { centre: 20, width: 12 }),
      makeCue('noise', { order: 2, join: 'butNot', centre: 0.5, width: 0.2, sizeM: 0.4, seed: 9 }),
    ]);
    expect(await sentence()).toContain('slope under');
    await page.keyboard.press('Control+z');
    await until(async () => Object.values((await blend()).body.layers['clay'].coverage)[0].kind === 'vertexColour');
  });

  it('shows a cue up close, and sets its centre by pointing at the stage', async () => {
    await openBlend();
    await page.locator('[data-layer="Cushion moss"] .name').click();
    await page.getByTestId('cue').first().locator('.cue').click();
    const card = page.getByRole('group', { name: 'Cue: slope' });
    // Its histogram is drawn once the specimen has been looked at.
    await card.getByRole('button', { name: 'Point at the stage' }).click();
    // The flat knows the slopes of the specimen; the card stands over part of the other pane.
    const flat = (await page.getByTestId('flat').boundingBox())!;
    const waiting = page.getByText('Click where slope shall be one half');
    await waiting.waitFor();
    let pressed = 0;
    const centre = await until(async () => {
      // As long as the stage asks for it, somebody would press again.
      if (Date.now() - pressed > 4000 && (await waiting.count())) {
        pressed = Date.now();
        await page.mouse.click(flat.x + flat.width * 0.25, flat.y + flat.height * 0.85);
      }
      const [slope] = Object.values((await blend()).body.layers['moss'].coverage);
      return slope.centre !== 9 && slope.centre;
    });
    // The patch rolls by no more than thirty degrees.
    expect(centre).toBeGreaterThan(0);
    expect(centre).toBeLessThan(30);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await until(async () => Object.values((await blend()).body.layers['moss'].coverage)[0].centre === 9);
  });

  it('accounts for a place, keeps it pinned, and says what changed there since', async () => {
    await openBlend();
    const stage = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
    await page.mouse.click(stage.x + stage.width * 0.47, stage.y + stage.height * 0.55);
    const card = page.getByRole('region', { name: 'Account of a place' });
    await card.waitFor();
    const rows = () => card.locator('tbody tr').filter({ has: page.locator('th') });
    expect(await rows().locator('th').allTextContents()).toEqual(['Puddle', 'Fallen leaves', 'Cushion moss', 'Laterite clay', 'Terrace stone']);
    const shares = async () => (await rows().locator('td:nth-child(2)').allTextContents()).map((t) => parseFloat(t));
    expect((await shares()).reduce((a, b) => a + b)).toBeGreaterThan(97);
    expect(await card.textContent()).toContain('roughness');
    await card.getByRole('button', { name: 'Pin this place' }).click();
    const most = (await shares()).reduce((best, v, i, all) => (v > all[best] ? i : best), 0);
    const name = ['Puddle', 'Fallen leaves', 'Cushion moss', 'Laterite clay', 'Terrace stone'][most];
    expect(name).not.toBe('Terrace stone');
    await page.getByRole('button', { name: `Switch off ${name}` }).click();
    await until(async () => (await rows().count()) === 4);
    await until(async () => (await card.locator('i').allTextContents()).some((t) => t.startsWith('+')));
    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: `Switch off ${name}` }).waitFor();
    await card.getByRole('button', { name: 'Close this account' }).click();
    await card.waitFor({ state: 'detached' });
  });

  it('compares with the picture without a layer, and says by how much they differ', async () => {
    await openBlend();
    await page.locator('[data-layer="Cushion moss"] .name').click();
    await page.getByRole('button', { name: 'compare …' }).click();
    await page.getByRole('menuitem', { name: 'without Cushion moss', exact: true }).click();
    const told = page.locator('pb-compare b');
    await told.waitFor({ timeout: 40_000 });
    const [most, mean] = (await told.textContent())!.match(/[\d.]+/g)!.map(Number);
    expect(most).toBeGreaterThan(20);
    expect(mean).toBeGreaterThan(0.2);
    expect(mean).toBeLessThan(most);
    const wipe = page.getByRole('slider', { name: /^Wipe/ });
    await wipe.focus();
    await page.keyboard.press('Shift+ArrowLeft');
    await until(async () => (await wipe.getAttribute('aria-valuenow')) === '40');
    await page.getByRole('button', { name: 'difference' }).click();
    await wipe.waitFor({ state: 'detached' });
    await page.locator('pb-compare').getByRole('button', { name: 'end' }).click();
    await told.waitFor({ state: 'detached' });
    // Nothing was changed by looking.
    expect((await blend()).body.layers['moss'].strength).toBe(1);
  });

  it('shows an edit of another window at once', async () => {
    await openBlend();
    const other = await openPage(browser, `${served.url}/blend/terrace-step`);
    await other.page.waitForSelector('[data-layer="Cushion moss"]');
    await other.page.getByRole('button', { name: 'Switch off Cushion moss' }).click();
    await page.getByRole('button', { name: 'Switch on Cushion moss' }).waitFor();
    await page.getByRole('button', { name: 'Switch on Cushion moss' }).click();
    await other.page.getByRole('button', { name: 'Switch off Cushion moss' }).waitFor();
    expect(other.errors).toEqual([]);
    await other.page.close();
  });

  it('packs occlusion, roughness and metallic into one texture and downloads a zip whose pixels are right', async () => {
    await page.goto(`${served.url}/pack`);
    await page.waitForSelector('.file pb-picture');
    // Roughness is inverted at its crossing; the base and normal files are left out.
    await page.getByRole('button', { name: 'Roughness feeds G of orm' }).click();
    await page.getByRole('menuitem', { name: /Invert/ }).click();
    await page.getByLabel('Side in pixels').selectOption('256');
    for (const file of ['terrace_step_base.png', 'terrace_step_nh.png', 'cushion_moss_base.png', 'cushion_moss_nh.png', 'terrace_step_orm.png'])
      await page.getByRole('checkbox', { name: file }).uncheck();
    await idle();
    const [download] = await Promise.all([
      page.waitForEvent('download', { timeout: 60_000 }),
      page.getByRole('button', { name: /^Pack 1 file/ }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('usual_packing.zip');
    const zip = unzipSync(readFileSync(await download.path()));
    expect(Object.keys(zip)).toEqual(['cushion_moss_orm.png']);
    const orm = await nodeCodec.decode(zip['cushion_moss_orm.png'], 'data');
    const made = generateSurface('cushion-moss', { seed: 27, size: 1024 }).maps;
    const small = (role: 'occlusion' | 'roughness') => resize(made[role], 256, 256).data;
    expect([...extractChannel(orm, 0).data]).toEqual([...small('occlusion')]);
    expect([...extractChannel(orm, 1).data]).toEqual([...small('roughness')].map((v) => 255 - v));
    expect(Math.max(...extractChannel(orm, 2).data)).toBe(0);
  }, 120_000);

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
    await idle();
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
