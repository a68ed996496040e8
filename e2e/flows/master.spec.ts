import type { History } from '@pebble/contracts';
import { identifierOf } from '@pebble/core';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api, saved } from '../harness';
import { storedMaster } from '../on-master';
import { stageReady } from '../on-stage';

describe('a master', () => {
  let { served, page, browser } = {} as Flow;
  inBrowser((flow) => ({ served, page, browser } = flow));
  const stored = (name: string) => storedMaster(served.url, name);

  it('says by its plot what a step does to numbers, and where it leaves 0–1', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    await page.locator('#card-crack').click();
    await page.waitForFunction(() => / in, 0 … 1\.00 out$/.test(document.querySelector('pb-plot .said')?.textContent?.trim() ?? ''));
    expect(await page.locator('pb-plot .lead').innerText()).toBe('whole glaze against');
    // Against its own lower end, it falls.
    await page.getByLabel('What the curve runs along').selectOption({ label: 'low' });
    await until(async () => /in,/.test(await page.locator('pb-plot .said').innerText()));
    // An operation that leaves the box says so.
    await page.locator('#card-place').click();
    await until(async () => /leaves 0–1/.test(await page.locator('pb-plot .said').innerText()));
    expect(await page.getByTestId('plot').locator('canvas').count()).toBe(1);
  });

  it('moves the picture with a number without compiling, and compiles once for another step', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    const compiles = () =>
      page.evaluate(async () => {
        const stage = (document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: { settled(): Promise<void>; compiles: number } })
          .pebbleStage;
        await stage.settled();
        return stage.compiles;
      });
    await page.locator('#card-crack').click();
    await page.waitForTimeout(400);
    const before = await compiles();
    await page.getByRole('spinbutton', { name: 'crackle width' }).focus();
    for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowUp');
    // An input that nobody turned yet costs no program either.
    await page.getByRole('spinbutton', { name: 'low' }).focus();
    await page.keyboard.press('ArrowUp');
    await saved(page);
    expect(await compiles()).toBe(before);
    await page.getByTestId('graph').focus();
    await page.keyboard.press('b');
    await until(async () => (await compiles()) === before + 1);
    const history = await api<History>(served.url, '/documents/glazed-tile/history');
    expect(history.steps.at(-1)?.label).toBe('Bypass whole glaze');
    await page.keyboard.press('b');
  });

  it('duplicates a layer with its parameters in one step, lists what was renamed, and takes it back in one', async () => {
    await page.goto(`${served.url}/master/asset-base`);
    await stageReady(page);
    await page.locator('#card-dented').waitFor();
    const before = await stored('Asset base');
    await page.getByTestId('graph').focus();
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Control+d');
    await page.getByRole('region', { name: 'What was renamed' }).waitFor();
    await saved(page);
    const after = await stored('Asset base');
    expect(Object.keys(after.parameters).length).toBe(2 * Object.keys(before.parameters).length);
    const names = [...Object.values(after.parameters), ...Object.values(after.switches), ...Object.values(after.published)].map((p) =>
      identifierOf(p.name),
    );
    expect(new Set(names).size).toBe(names.length);
    const listed = await page.locator('.renames .before').allInnerTexts();
    expect(listed).toContain('wear edge');
    const box = page.getByLabel('New name of wear edge');
    expect(await box.inputValue()).toBe('wear edge 2');
    await box.fill('rub edge');
    await box.blur();
    await saved(page);
    expect(Object.values((await stored('Asset base')).parameters).some((p) => p.name === 'rub edge')).toBeTrue();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await until(async () => Object.keys((await stored('Asset base')).parameters).length === Object.keys(before.parameters).length);
    expect((await stored('Asset base')).operations).toEqual(before.operations);
  });

  it('keeps the last good picture and marks the card where something is wrong', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    await page.locator('#card-depth').click();
    await page.getByTestId('formula').locator('.cm-content').click();
    await page.keyboard.press('Control+a');
    await page.keyboard.type('clampp(whole, 0.0, 1.0)');
    await page.locator('#card-depth.wrong').waitFor();
    await until(async () => /no function clampp\. Did you mean clamp/.test(await page.locator('pb-operation-card .error').first().innerText()));
    await page.getByText(/The last good picture stays/).waitFor();
    await page.getByTestId('formula').locator('.cm-content').click();
    await page.keyboard.press('Control+a');
    await page.keyboard.type('clamp(whole * amount, 0.0, 1.0)');
    await page.locator('#card-depth:not(.wrong)').waitFor();
  });

  it('begins from a blend, whose numbers become parameters by one choice, and follows them', async () => {
    await page.goto(`${served.url}/master/terrace-ground`);
    await page.locator('#card-ground').click();
    await page.getByLabel('Make a parameter of a number of the blend').selectOption('layers.clay.seam.soft');
    await saved(page);
    const made = await stored('Terrace ground');
    const [id, parameter] = Object.entries(made.parameters).find(([, p]) => p.name === 'laterite clay soft')!;
    expect(parameter.holds).toEqual({ kind: 'number', value: [0.08], low: 0, high: 1, unit: '' });
    expect(made.operations['ground'].inputs['layers.clay.seam.soft']).toEqual({ from: 'parameter', parameter: id });
    await page.getByRole('tab', { name: 'Parameters' }).click();
    await page.getByLabel('Name of laterite clay soft').waitFor();
  });

  it('makes a parameter of a map by one click, and shows another map by it', async () => {
    await page.goto(`${served.url}/master/asset-base`);
    await page.locator('#card-ids').waitFor({ state: 'attached' });
    await page.getByTestId('graph').focus();
    await page.keyboard.press('f');
    await page.locator('#card-ids').click();
    await page.getByRole('button', { name: 'Make a parameter of map' }).click();
    await saved(page);
    const made = await stored('Asset base');
    const source = made.operations['ids'].inputs['map'];
    if (source.from !== 'parameter') throw new Error(`The map comes from a ${source.from}`);
    const { name, holds } = made.parameters[source.parameter];
    expect(holds).toEqual({ kind: 'map', surface: 'copper-still-ids', role: 'id' });
    await page.getByRole('tab', { name: 'Parameters' }).click();
    await page.getByLabel(name, { exact: true }).selectOption('');
    await page.getByRole('tab', { name: 'Operation' }).click();
    await page.getByText(/No map is chosen: it gives the neutral/).waitFor();
    for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z');
    await until(async () => !(await stored('Asset base')).operations['ids'].inputs['map']);
  });

  it('takes a number of the blend as a parameter by one click on its token in Blend, too', async () => {
    await page.goto(`${served.url}/blend/terrace-step`);
    await page.locator('[data-layer="Fallen leaves"] .name').click();
    await page.getByRole('button', { name: 'Make a parameter of lift in Terrace ground' }).click();
    await until(async () => Object.values((await stored('Terrace ground')).parameters).some((p) => p.name === 'fallen leaves lift'));
    const made = await stored('Terrace ground');
    const [id] = Object.entries(made.parameters).find(([, p]) => p.name === 'fallen leaves lift')!;
    expect(made.operations['ground'].inputs['layers.leaves.seam.liftM']).toEqual({ from: 'parameter', parameter: id });
    await page.getByRole('button', { name: 'lift follows fallen leaves lift in Terrace ground' }).waitFor();
    // A number of a cue, found where the sentence keeps it.
    await page
      .getByRole('button', { name: /^Make a parameter of .* in Terrace ground/ })
      .first()
      .click();
    await until(async () => Object.keys((await stored('Terrace ground')).parameters).length === Object.keys(made.parameters).length + 1);
    expect(Object.keys((await stored('Terrace ground')).operations['ground'].inputs).some((p) => p.startsWith('layers.leaves.coverage.'))).toBeTrue();
  });

  it('makes an operation of one’s own of several, is found by its name elsewhere, and is edited in one place', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    const before = await stored('Glazed tile');
    const one = (name: RegExp) => page.getByTestId('graph').getByRole('group', { name }).first().click();
    await one(/^whole glaze/);
    await page.keyboard.down('Control');
    await one(/^formula/);
    await page.keyboard.up('Control');
    await page.getByTestId('graph').focus();
    await page.keyboard.press('m');
    await page.getByText(/lie between what is chosen/).waitFor();
    await page.keyboard.down('Control');
    await one(/^extract/);
    await one(/^crackle cells/);
    await page.keyboard.up('Control');
    await page.getByTestId('graph').focus();
    await page.keyboard.press('m');
    await until(async () => Object.values((await stored('Glazed tile')).operations).some((op) => op.step === 'own'));
    const d = await stored('Glazed tile');
    const [key, op] = Object.entries(d.operations).find(([, o]) => o.step === 'own')!;
    expect(Object.keys(d.operations).length).toBe(Object.keys(before.operations).length - 3);
    // What it gives follows its master, open by a click, here and wherever else it is used.
    await page.getByRole('link', { name: /^Edit/ }).click();
    await page.waitForURL(new RegExp(String(op.settings['master'])));
    await page.getByRole('tab', { name: 'Parameters' }).click();
    await page.getByRole('link', { name: 'Glazed tile' }).waitFor();
    await page.getByLabel('What this master is for').fill('Cracks between cells');
    await page.getByLabel('What this master is for').blur();
    await saved(page);
    await page.goto(`${served.url}/master/asset-base`);
    await page.getByTestId('graph').focus();
    await page.keyboard.press('Tab');
    await page.getByTestId('search').waitFor();
    await page.keyboard.type(op.name);
    await page.getByRole('option', { name: /Cracks between cells/ }).waitFor();
    await page.keyboard.press('Escape');
    // One undo, and all is as it was; the master stays.
    await page.goto(`${served.url}/master/glazed-tile`);
    await page.locator(`#card-${key}`).waitFor();
    await page.keyboard.press('Control+z');
    await until(async () => Object.keys((await stored('Glazed tile')).operations).length === Object.keys(before.operations).length);
    expect((await stored('Glazed tile')).operations).toEqual(before.operations);
  });

  it('shows what a step gives after block compression, and by how much it is off', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    await page
      .getByTestId('graph')
      .getByRole('group', { name: /^whole glaze/ })
      .first()
      .click();
    await page.getByTestId('graph').focus();
    await page.keyboard.press('s');
    await page.keyboard.press('k');
    await page.getByText(/^BC4, 32 KiB: off by \d/).waitFor();
    const colours = await page.getByTestId('blocks').evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      return new Set(data.filter((_, i) => i % 4 === 0)).size;
    });
    expect(colours).toBeGreaterThan(8);
    await page.getByLabel('Texels a repetition').selectOption('512');
    await page.getByText(/^BC4, 128 KiB/).waitFor();
    await page.keyboard.press('w');
    await page.getByTestId('blocks').waitFor({ state: 'detached' });
  });

  it('follows what another window does to it', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await page.locator('#card-crack').waitFor();
    const context = await browser.newContext();
    const other = await context.newPage();
    await other.goto(`${served.url}/master/glazed-tile`);
    await other.locator('#card-crack').click();
    await other.getByTestId('graph').focus();
    await other.keyboard.press('Tab');
    await other.getByTestId('search').waitFor();
    await other.keyboard.type('invert');
    await other.keyboard.press('Enter');
    await page
      .getByTestId('graph')
      .getByRole('group', { name: /^invert/ })
      .waitFor();
    await context.close();
  });
});
