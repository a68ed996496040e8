import type { AssetDocument, MasterDocument } from '@pebble/core';
import { MasterMaterials, NO_CONTEXT, evaluate, flatDomain, linkTo, makeMaster, makeOperation, optimise, valueOf } from '@pebble/core';
import { readFile } from 'node:fs/promises';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, saved } from '../harness';
import { storedMaster } from '../on-master';
import { stageAnother, stageReady, stageShown } from '../on-stage';

describe('a master in motion', () => {
  let { served, page } = {} as Flow;
  inBrowser((flow) => ({ served, page } = flow));
  const stored = (name: string) => storedMaster(served.url, name);
  interface Told {
    onFrame: (report: unknown) => void;
  }
  const shown = () => stageShown(page);
  const another = (than: string) => stageAnother(page, than);
  /** Frames that are drawn in a second. */
  const frames = () =>
    page.evaluate(async () => {
      const { pebbleStage: stage } = document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: Told };
      const before = stage.onFrame;
      let count = 0;
      stage.onFrame = (report) => {
        count++;
        before(report);
      };
      await new Promise((resolve) => setTimeout(resolve, 1000));
      stage.onFrame = before;
      return count;
    });

  it('plays, pauses and is scrubbed: the same moment is the same picture, and the end of the loop is its beginning', async () => {
    await page.goto(`${served.url}/master/steam-swirl`);
    await stageReady(page);
    const time = page.getByLabel('Seconds of the loop');
    await time.waitFor();
    const start = await shown();
    await time.fill('1.5');
    const later = await another(start.picture);
    expect(later.compiles).toBe(start.compiles);
    await time.fill('0');
    await until(async () => (await shown()).picture === start.picture);
    await page.getByRole('button', { name: /^play/ }).click();
    await until(async () => Number(await time.inputValue()) > 0.2);
    // On a busy machine the first frame of a new program takes its time.
    expect(await until(async () => (await frames()) > 1)).toBeTrue();
    await page.keyboard.press('y');
    await page.getByRole('button', { name: /^play/ }).waitFor();
    const paused = await time.inputValue();
    await page.waitForTimeout(300);
    expect(await time.inputValue()).toBe(paused);
    // A loop of nothing is the shortest there is.
    await page.getByRole('spinbutton', { name: 'Loop' }).focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type('0');
    await page.keyboard.press('Enter');
    await saved(page);
    expect((await stored('Steam swirl')).loopS).toBe(0.1);
    await page.keyboard.press('Control+z');
    await until(async () => (await stored('Steam swirl')).loopS === 4);
  });

  it('draws nothing while nothing moves, whatever the clock does', async () => {
    await page.goto(`${served.url}/master/beeswax-blocks`);
    await stageReady(page);
    await page.getByRole('button', { name: 'Time', exact: true }).click();
    await page.getByRole('button', { name: /^play/ }).click();
    await shown();
    // Pictures of the steps may still come in, and one frame with them.
    await page.waitForTimeout(1500);
    expect(await frames()).toBe(0);
  });

  it('is drawn as it is told at once: solid, cut out, cut elsewhere, taken back', async () => {
    await page.goto(`${served.url}/master/cistern-gauge`);
    await stageReady(page);
    await page.locator('[id="card->opacity"]').click();
    const cut = await shown();
    const how = page.getByLabel('How it goes over what is behind it');
    expect(await how.inputValue()).toBe('cut-out');
    await how.selectOption('solid');
    const solid = await another(cut.picture);
    await how.selectOption('additive');
    await another(solid.picture);
    await page.getByText(/Added to what is behind, times opacity\. Drawn once wherever it is seen/).waitFor();
    for (const before of [solid, cut]) {
      await saved(page);
      await page.keyboard.press('Control+z');
      await until(async () => (await shown()).picture === before.picture);
    }
    // Opacity is 0 or 1 here: cut at nothing, all of it is there.
    const at = page.getByRole('spinbutton', { name: 'Opacity below which it is not drawn' });
    await at.focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type('0');
    await page.keyboard.press('Enter');
    await another(cut.picture);
    await saved(page);
    await page.keyboard.press('Control+z');
    await until(async () => (await shown()).picture === cut.picture);
  });

  it('tries a number out by hand and by a wave without changing anything, until it is kept', async () => {
    await page.goto(`${served.url}/master/cistern-gauge`);
    await stageReady(page);
    const before = await shown();
    await page.getByLabel('Number that is tried out').selectOption({ label: 'level' });
    await page.getByLabel('Try level').fill('0.2');
    const low = await another(before.picture);
    expect(low.compiles).toBe(before.compiles);
    expect((await stored('Cistern gauge')).parameters['level'].holds).toEqual(jasmine.objectContaining({ value: [0.75] }));
    await page.getByLabel('How it is tried out').selectOption('wave');
    // On a busy machine the first frame of a new program takes its time.
    expect(await until(async () => (await frames()) > 1)).toBeTrue();
    await page.getByLabel('How it is tried out').selectOption('hand');
    await page.getByLabel('Try level').fill('0.4');
    await page.getByRole('button', { name: 'keep' }).click();
    await saved(page);
    const holds = (await stored('Cistern gauge')).parameters['level'].holds as { value: number[] };
    expect(holds.value[0]).toBeCloseTo(0.4, 2);
    await page.keyboard.press('Control+z');
    await until(async () => ((await stored('Cistern gauge')).parameters['level'].holds as { value: number[] }).value[0] === 0.75);
  });

  it('has variants: gone through by keys without a compile, set, inherited again, and kept when a parameter goes', async () => {
    await page.goto(`${served.url}/master/leaf-scatter`);
    await stageReady(page);
    // What feeds the first output is chosen as it opens, and shown.
    await page.getByLabel('Name of the operation').waitFor();
    await page.getByRole('tab', { name: 'Parameters' }).click();
    const which = page.getByLabel('Variant that is looked at');
    const base = await shown();
    const pictures = [base.picture];
    for (let i = 0; i < 4; i++) {
      await page.getByTestId('graph').focus();
      await page.keyboard.press('.');
      const now = await another(pictures[pictures.length - 1]);
      expect(now.compiles).toBe(base.compiles);
      pictures.push(now.picture);
    }
    expect(new Set(pictures).size).toBe(5);
    await page.keyboard.press('.');
    await until(async () => (await which.inputValue()) === '');
    await page.keyboard.press(',');
    await page.keyboard.press(',');
    const called = page.getByLabel('Name of the variant');
    await until(async () => (await called.count()) === 1 && (await called.inputValue()) === 'Small and many');
    // What is turned now is set in this one alone.
    await page.getByRole('spinbutton', { name: 'thickness', exact: true }).first().focus();
    await page.keyboard.press('ArrowUp');
    const small = async () => Object.values((await stored('Leaf scatter')).variants).find((v) => v.name === 'Small and many')!;
    await until(async () => 'thick' in (await small()).values);
    const [after, variant] = [await stored('Leaf scatter'), await small()];
    expect((variant.values['thick'].holds as { value: number[] }).value[0]).toBeGreaterThan(0.004);
    expect((after.parameters['thick'].holds as { value: number[] }).value[0]).toBe(0.004);
    await page.getByRole('button', { name: 'Let thickness inherit again' }).click();
    await until(async () => !('thick' in (await small()).values));
    // A parameter that goes leaves its value behind, by which it can come back.
    await page.getByRole('button', { name: 'More of cells' }).click();
    await page.getByRole('button', { name: 'back to a constant' }).click();
    await page.getByText('was removed: its value is kept').waitFor();
    await page.getByRole('button', { name: 'Bring cells back' }).click();
    await until(async () => 'cells' in (await stored('Leaf scatter')).parameters);
    const before = async () => (await stored('Leaf scatter')).operations['strewn'].inputs['cells'].from === 'parameter';
    for (let i = 0; i < 2; i++) {
      await saved(page);
      await page.keyboard.press('Control+z');
    }
    await until(before);
  });

  it('dresses slots of an asset, each in a variant of its own', async () => {
    const asset = async () =>
      (await allDocuments(served.url)).find((d) => d.kind === 'asset' && d.body.name === 'Copper still, whole')!.body as AssetDocument;
    const { id } = (await allDocuments(served.url)).find((d) => d.kind === 'asset' && d.body.name === 'Copper still, whole')!;
    await page.goto(`${served.url}/blend/black-iron?asset=${id}`);
    await stageReady(page);
    const plain = await shown();
    await page.getByRole('button', { name: 'slots …' }).click();
    await page.getByLabel('Blend on copper').selectOption({ label: 'Asset base: Polished' });
    await page.getByLabel('Blend on pipe').selectOption({ label: 'Asset base: In the shed' });
    await saved(page);
    const slots = Object.values((await asset()).slots);
    expect(slots.map((s) => [s.slot, s.blend, s.variant !== undefined])).toEqual([
      ['copper', 'asset-base', true],
      ['pipe', 'asset-base', true],
      ['iron', 'black-iron', false],
    ]);
    await another(plain.picture);
    // One click opens the master as what sits there.
    await page.getByRole('button', { name: /^pipe Asset base: In the shed/ }).click();
    await page.waitForURL(/\/master\/asset-base\?.*variant=/);
    await stageReady(page);
    await page.getByRole('tab', { name: 'Parameters' }).click();
    expect(await page.getByLabel('Name of the variant').inputValue()).toBe('In the shed');
    // A variant that goes leaves what all inherit on its slot, and says so.
    await page.getByRole('button', { name: 'remove', exact: true }).click();
    await page.getByRole('button', { name: 'slots …' }).click();
    await page.locator('pb-asset td').first().waitFor();
    await page.keyboard.press('Control+z');
    await until(async () => Object.keys((await stored('Asset base')).variants).length === 4);
  });

  it('is built from nothing as its guide page says: steam on an additive card, whose loop closes', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    const graph = page.getByTestId('graph');
    const add = async (to: string, text: string) => {
      await page.getByTitle(`Input ${to}`, { exact: true }).click();
      await graph.focus();
      await search(text);
    };
    const search = async (text: string) => {
      await page.keyboard.press('Tab');
      await page.waitForFunction(() => document.activeElement?.closest('[data-testid=search]'));
      await page.keyboard.type(text);
      await page.locator('#hit-0').waitFor();
      await page.keyboard.press('Enter');
      await page.getByTestId('search').waitFor({ state: 'detached' });
      await page.locator('pb-operation-card .title').waitFor();
    };
    const set = async (name: string, value: string) => {
      await page.getByRole('spinbutton', { name, exact: true }).focus();
      await page.keyboard.press('Enter');
      await page.keyboard.type(value);
      await page.keyboard.press('Enter');
    };
    const output = (name: string) => page.getByRole('button', { name, exact: true }).click();
    await page.getByRole('button', { name: 'Masters' }).click();
    await page.getByRole('menuitem', { name: 'New master from nothing' }).click();
    await page.locator('.pill', { hasText: /^0 operations/ }).waitFor();
    await page.getByLabel('Specimen', { exact: true }).selectOption('upright-card');
    await output('opacity');
    await page.getByLabel('How it goes over what is behind it').selectOption('additive');
    await graph.focus();
    await search('multiply');
    await page.getByRole('button', { name: 'Make a parameter of in2' }).click();
    await add('in1', 'multiply');
    await add('in1', 'smoothstep');
    await set('low', '0.38');
    await set('high', '0.8');
    await add('in', 'fractal2d');
    await set('period', '4');
    await set('octaves', '2');
    await add('texcoord', 'multiply');
    await set('in2', '4');
    await add('in1', 'polar');
    for (const [name, value] of Object.entries({ around: '2', spin: '0.25', flow: '-0.25', twist: '0.8', distortion: '0.16' }))
      await set(name, value);
    // Back to the multiply of wisps and of how near the middle is.
    for (let i = 0; i < 4; i++) {
      await graph.focus();
      await page.keyboard.press('ArrowRight');
    }
    await add('in2', 'invert');
    await add('in', 'smoothstep');
    await set('low', '0.06');
    await set('high', '0.46');
    await add('in', 'distance');
    await add('in1', 'texcoord');
    await graph.focus();
    await page.keyboard.press('ArrowRight');
    await page.getByRole('button', { name: 'in2 as a colour' }).waitFor();
    await set('in2', '0.5');
    await output('emissive');
    await graph.focus();
    await search('glow');
    for (const [name, value] of [
      ['base colour', '0'],
      ['roughness', '1'],
    ]) {
      await output(name);
      await page.getByRole('button', { name: 'a number', exact: true }).click();
      if (name === 'roughness') await set(name, value);
      else for (const c of 'xyz') await set(`${name} ${c}`, value);
    }
    await saved(page);
    const made = await stored('New master');
    const material = new MasterMaterials().of(made, NO_CONTEXT);
    expect(material.problems).toEqual([]);
    expect([made.drawn, made.specimen]).toEqual(['additive', 'upright-card']);
    const side = 48;
    const at = (time: number) =>
      evaluate(optimise({ cover: material.far.outputs.opacity!, base: material.far.outputs.baseColor }).outputs, {
        domain: flatDomain(side, side),
        values: { ...material.values, time: [time] },
      });
    const [begin, middle, end] = [at(0), at(1.3), at(made.loopS)];
    begin['cover'][0].forEach((v, i) => expect(Math.abs(v - end['cover'][0][i])).toBeLessThan(2e-3));
    expect(begin['cover'][0].some((v, i) => Math.abs(v - middle['cover'][0][i]) > 0.05)).toBeTrue();
    expect(Math.max(...begin['cover'][0].subarray(0, side), ...begin['base'][0])).toBe(0);
    await page.getByRole('button', { name: /^play/ }).click();
    // On a busy machine the first frame of a new program takes its time.
    expect(await until(async () => (await frames()) > 1)).toBeTrue();
  });

  const wasteful: MasterDocument = makeMaster('Wasteful', {
    operations: {
      uv: makeOperation('texcoord', 1),
      n: makeOperation('noise2d', 2, { inputs: { texcoord: linkTo('uv') } }),
      again: makeOperation('noise2d', 3, { name: 'again', inputs: { texcoord: linkTo('uv') } }),
      one: makeOperation('multiply', 4, { name: 'times one', inputs: { in1: linkTo('again'), in2: valueOf(1) } }),
      sum: makeOperation('distance', 5, { inputs: { in1: linkTo('one'), in2: linkTo('place') } }),
      place: makeOperation('sin', 6, { inputs: { in: linkTo('n') } }),
    },
    outputs: { roughness: linkTo('sum') },
  });
  it('is simplified with proof, in one step that is taken back in one, and leaves as files', async () => {
    const response = await fetch(`${served.url}/api/documents`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ body: wasteful, label: 'New', opId: crypto.randomUUID() }),
    });
    const { id } = (await response.json()) as { id: string };
    await page.goto(`${served.url}/master/${id}`);
    await stageReady(page);
    await page.getByRole('button', { name: 'simplify', exact: true }).click();
    await page.getByText(/2 of 6 operations can go/).waitFor();
    expect(await page.getByText(/Largest difference over 4,096 random inputs/).innerText()).toMatch(/inputs: 0\. Over the specimen, 4,096 places: 0/);
    await page.getByRole('button', { name: 'Accept all 2' }).click();
    await page.getByText('Nothing can be left out').waitFor();
    await saved(page);
    expect(Object.keys((await stored('Wasteful')).operations).sort()).toEqual(['n', 'place', 'sum', 'uv']);
    await page.keyboard.press('Control+z');
    await until(async () => Object.keys((await stored('Wasteful')).operations).length === 6);
    await page.getByRole('button', { name: 'code', exact: true }).click();
    await page.locator('#card-place').click();
    await page.getByText(/^1 of \d+ lines are sin/).waitFor();
    expect(await page.locator('pb-code .own').innerText()).toContain('sin');
    const files: Record<string, RegExp> = {
      GLSL: /^#version 300 es\n\/\/ Wasteful/,
      MaterialX: /<materialx version="1.39"/,
      JSON: /"kind": "master"/,
    };
    for (const [name, holds] of Object.entries(files)) {
      const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name, exact: true }).click()]);
      expect(await readFile(await download.path(), 'utf8')).toMatch(holds);
      expect(download.suggestedFilename()).toMatch(/^wasteful\./);
    }
  });
});
