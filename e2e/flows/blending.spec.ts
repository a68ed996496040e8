import type { StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { makeCue } from '@pebble/core';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api, openPage, saved } from '../harness';
import { stageAnother, stageReady, stageResting, stageShown } from '../on-stage';

type Stage = { compiles: number };

describe('blending', () => {
  let { served, page, browser } = {} as Flow;
  const blend = () => api<StoredDocument<BlendDocument>>(served.url, '/documents/terrace-step');

  // Pixels are what a machine without a graphics card spends its time on.
  inBrowser(
    async (flow) => {
      ({ served, page, browser } = flow);
      await page.goto(`${served.url}/blend/terrace-step`);
      await stageReady(page);
    },
    { size: { width: 1100, height: 690 } },
  );

  it('blends: the stage draws, dragging compiles nothing, one gesture is one step, undo survives a reload', async () => {
    await page.locator('[data-layer="Cushion moss"] .name').click();
    const before = await blend();
    // Other specs of this flow drag it, too.
    const from = before.body.layers['moss'].seam.liftM;
    const compiles = () =>
      page.evaluate(() => (document.querySelector('[data-testid=stage]') as HTMLCanvasElement & { pebbleStage: Stage }).pebbleStage.compiles);
    const had = await compiles();
    const lift = page.getByRole('spinbutton', { name: 'Lift in millimetres' });
    const box = (await lift.boundingBox())!;
    await page.mouse.move(box.x + 5, box.y + 8);
    await page.mouse.down();
    for (let i = 1; i <= 12; i++) await page.mouse.move(box.x + 5 + i * 3, box.y + 8);
    await page.mouse.up();
    await saved(page);
    expect(await compiles()).toBe(had);
    const after = await blend();
    expect(after.version).toBe(before.version + 1);
    expect(after.body.layers['moss'].seam.liftM).toBeCloseTo(from + 36 * 0.0002, 5);
    await page.reload();
    await page.waitForFunction(() => !(document.querySelector('[aria-label=Undo]') as HTMLButtonElement)?.disabled);
    await page.keyboard.press('Control+z');
    await until(async () => (await blend()).body.layers['moss'].seam.liftM === from);
    await page.keyboard.press('Control+Shift+z');
    await until(async () => Math.abs((await blend()).body.layers['moss'].seam.liftM - from - 0.0072) < 1e-6);
    await stageReady(page);
  });

  it('lets the section be dragged: the profile up and down lifts, the seam sideways softens', async () => {
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
      await saved(page);
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
    await page.getByRole('radio', { name: 'Lit', exact: true }).click();
  });

  it('switches, duplicates, reorders and removes layers, each a named step', async () => {
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
    await page.locator('[data-layer="Laterite clay"] .name').click();
    await page.getByRole('button', { name: 'Add a cue' }).click();
    await page.getByRole('menuitem', { name: /noise/ }).click();
    await page.getByLabel('How this cue joins').selectOption('butNot');
    await saved(page);
    const cues = Object.values((await blend()).body.layers['clay'].coverage);
    expect(cues.map((c) => c.join)).toEqual(['and', 'butNot']);
    expect((await page.locator('pb-sentence .line').first().textContent())!.replace(/\s+/g, ' ')).toMatch(/Laterite clay ?where ?vertex red above/);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await until(async () => Object.keys((await blend()).body.layers['clay'].coverage).length === 1);
  });

  it('shows where each weathering would bring a layer, and what it costs, before one is taken', async () => {
    await page.locator('[data-layer="Cushion moss"] .name').click();
    await page.getByRole('button', { name: 'Add a cue' }).click();
    await page.getByRole('menuitem', { name: 'weathering', exact: true }).click();
    // The list that opened last, over the one of cues.
    const items = page.locator('.mat-mdc-menu-panel').last().locator('[role=menuitem]');
    await items.nth(2).waitFor();
    // Those that occur on this mesh have pictures of their own; where two would bring nothing, theirs are alike.
    const seen = await until(async () => {
      const pictures = await items.locator('pb-picture canvas').evaluateAll((all) =>
        (all as HTMLCanvasElement[]).map((canvas) => {
          const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
          const values = Array.from(data);
          return {
            spread: Math.max(...values.filter((_, i) => i % 4 === 0)) - Math.min(...values.filter((_, i) => i % 4 === 0)),
            key: values.join(),
          };
        }),
      );
      // One that is still on its way stands for a moment as another did.
      const there = pictures.filter((p) => p.spread > 8);
      return there.length >= 4 && there;
    });
    expect(new Set(seen.map((p) => p.key)).size).toBeGreaterThanOrEqual(3);
    const prices = await until(async () => {
      const all = (await items.locator('.tag').allInnerTexts()).map((t) => t.trim());
      return all.length > 2 && all.every((t) => /[+−]?\d+ (samples?|ops)/.test(t)) && all;
    });
    // The price told is the price paid.
    const meter = async () => Number(/(\d+)\/\d+ ops/.exec((await page.locator('.meter').textContent()) ?? '')?.[1]);
    const before = await meter();
    const ops = Number(/\+(\d+) ops/.exec(prices[0])?.[1]);
    expect(ops).toBeGreaterThan(0);
    await items.first().click();
    await saved(page);
    await until(async () => (await meter()) === before + ops);
    await page.keyboard.press('Control+z');
    await until(async () => (await meter()) === before);
  });

  it('reads a sentence that is typed, says where it cannot, and copies it to another layer', async () => {
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
    await saved(page);
    expect(Object.values((await blend()).body.layers['clay'].coverage)).toEqual([
      makeCue('slope', { centre: 20, width: 12 }),
      makeCue('noise', { order: 2, join: 'butNot', centre: 0.5, width: 0.2, sizeM: 0.4, seed: 9 }),
    ]);
    expect(await sentence()).toContain('slope under');
    await page.keyboard.press('Control+z');
    await until(async () => Object.values((await blend()).body.layers['clay'].coverage)[0].kind === 'vertexColour');
  });

  it('shows a cue up close, and sets its centre by pointing at the stage', async () => {
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
    await card.waitFor({ state: 'detached' });
  });

  it('accounts for a place, keeps it pinned, and says what changed there since', async () => {
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

  it('shares the pointer and clicked places between specimen, flat and section', async () => {
    const specimen = page.getByRole('application', { name: /^Specimen/ });
    const flat = page.getByTestId('flat');
    const on = (pane: typeof flat, what: string) => pane.locator(`pb-marks ${what}`);
    const middle = async (pane: typeof flat, x = 0.5, y = 0.5) => {
      const box = (await pane.boundingBox())!;
      return [box.x + box.width * x, box.y + box.height * y] as const;
    };
    // The cut lies on the specimen as it does on the flat.
    await on(specimen, '.line').waitFor();
    await page.mouse.move(...(await middle(flat)));
    await on(specimen, '.pointer').waitFor();
    expect(await on(flat, '.pointer').count()).toBe(0);
    await page.mouse.move(...(await middle(specimen, 0.5, 0.52)));
    await on(flat, '.pointer').waitFor();
    await on(specimen, '.pointer').waitFor({ state: 'detached' });
    const section = page.getByTestId('section');
    await page.mouse.move(...(await middle(section)));
    await on(specimen, '.pointer').waitFor();
    // A place that is clicked has its number on both until its account is closed.
    await page.getByTestId('flat').click({ position: { x: 60, y: 120 } });
    await page.getByRole('region', { name: 'Account of a place' }).waitFor();
    await on(flat, '.place').waitFor();
    await on(specimen, '.place').waitFor();
    expect(await on(flat, 'text').textContent()).toBe('1');
    await page.keyboard.press('Escape');
    await on(flat, '.place').waitFor({ state: 'detached' });
    await on(specimen, '.place').waitFor({ state: 'detached' });
  });

  it('compares with the picture without a layer, and says by how much they differ', async () => {
    await page.locator('[data-layer="Cushion moss"] .name').click();
    await page.getByRole('button', { name: 'compare …' }).click();
    await page.getByRole('menuitem', { name: 'without Cushion moss', exact: true }).click();
    const told = page.locator('pb-compare b');
    await told.waitFor();
    const [most, mean] = (await told.textContent())!.match(/[\d.]+/g)!.map(Number);
    expect(most).toBeGreaterThan(20);
    expect(mean).toBeGreaterThan(0.2);
    expect(mean).toBeLessThan(most);
    const wipe = page.getByRole('slider', { name: /^Wipe/ });
    const stands = async () => Number(await wipe.getAttribute('aria-valuenow'));
    // It begins over the specimen, which lies left of the middle of the stage.
    const begins = await stands();
    expect(begins).toBeGreaterThan(20);
    expect(begins).toBeLessThan(45);
    await wipe.focus();
    await page.keyboard.press('Shift+ArrowLeft');
    await until(async () => Math.abs((await stands()) - begins + 10) <= 1);
    await page.getByRole('button', { name: 'difference' }).click();
    await wipe.waitFor({ state: 'detached' });
    await page.locator('pb-compare').getByRole('button', { name: 'end' }).click();
    await told.waitFor({ state: 'detached' });
    // Nothing was changed by looking.
    expect((await blend()).body.layers['moss'].strength).toBe(1);
  });

  it('tries a texture as decal, on cards, as a cookie and as the sky, and somebody for scale; ended, all is as it was', async () => {
    const light = page.getByRole('button', { name: 'light …' });
    // The card lies over the flat.
    const pane = page.getByRole('application', { name: /^Specimen/ });
    await light.click();
    await page.getByRole('tab', { name: 'Try a texture' }).click();
    // With the card as it will be when all is ended: its shadow reaches into the pane.
    const before = await stageResting(page, pane);
    await page.getByRole('button', { name: 'Try a texture' }).click();
    const seen = [await stageAnother(page, before.picture, pane)];
    for (const way of ['Particle cards', 'Light cookie', 'Sky']) {
      await page.getByRole('radio', { name: new RegExp(`^${way}`) }).check();
      await page.getByText('Reading it …').waitFor({ state: 'detached' });
      seen.push(await stageAnother(page, seen.at(-1)!.picture, pane));
    }
    // Each is a picture of its own, and no material was built for it.
    expect(new Set(seen.map((s) => s.picture)).size).toBe(4);
    expect(new Set(seen.map((s) => s.compiles))).toEqual(new Set([before.compiles]));
    await page.getByRole('radio', { name: /^Particle cards/ }).check();
    await page.getByText(/^each pixel \d+\.\d times, at most \d+; 1 sample each$/).waitFor();
    await page.getByRole('button', { name: 'Stop trying' }).click();
    await until(async () => (await stageShown(page, pane)).picture === before.picture);
    await page.getByRole('tab', { name: 'Light' }).click();
    const alone = await stageResting(page, pane);
    await page.getByLabel('Somebody of 1.75 m beside it').check();
    await stageAnother(page, alone.picture, pane);
    await page.getByLabel('Somebody of 1.75 m beside it').uncheck();
    await until(async () => (await stageShown(page, pane)).picture === alone.picture);
    await light.click();
  });

  it('shows an edit of another window at once', async () => {
    const other = await openPage(browser, `${served.url}/blend/terrace-step`);
    await other.page.waitForSelector('[data-layer="Cushion moss"]');
    await other.page.getByRole('button', { name: 'Switch off Cushion moss' }).click();
    await page.getByRole('button', { name: 'Switch on Cushion moss' }).waitFor();
    await page.getByRole('button', { name: 'Switch on Cushion moss' }).click();
    await other.page.getByRole('button', { name: 'Switch off Cushion moss' }).waitFor();
    expect(other.errors).toEqual([]);
    await other.page.close();
  });
});
