import type { History, StoredDocument } from '@pebble/contracts';
import type { MasterDocument } from '@pebble/core';
import { MasterMaterials, identifierOf } from '@pebble/core';
import type { Page } from 'playwright-core';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api } from '../harness';
import { stageReady } from '../on-stage';

/** Does things one at a time, and counts them: a key, a click, a text that is typed, a choice in a list. */
class Hands {
  count = 0;
  constructor(private readonly page: Page) {}
  async keys(...keys: string[]): Promise<void> {
    for (const key of keys) {
      this.count++;
      await this.page.keyboard.press(key);
    }
  }
  async type(text: string): Promise<void> {
    this.count++;
    await this.page.keyboard.type(text);
  }
  /** Finds a step or something in the graph by its name. */
  async find(text: string): Promise<void> {
    await this.page.getByTestId('search').waitFor();
    await this.type(text);
    await this.keys('Enter');
    await this.page.getByTestId('search').waitFor({ state: 'detached' });
  }
  async add(text: string): Promise<void> {
    await this.keys('Tab');
    await this.find(text);
  }
  /** Links something of that name that is in the graph already: it comes right after the step itself. */
  async link(text: string): Promise<void> {
    await this.keys('Tab');
    await this.page.getByTestId('search').waitFor();
    await this.type(text);
    await this.page.locator('#hit-1', { hasText: 'link' }).waitFor();
    await this.keys('ArrowDown', 'Enter');
    await this.page.getByTestId('search').waitFor({ state: 'detached' });
  }
  async click(name: string | RegExp, role: 'button' | 'tab' | 'radio' | 'switch' = 'button'): Promise<void> {
    this.count++;
    await this.page
      .getByRole(role, { name, exact: typeof name === 'string' })
      .first()
      .click();
  }
  async choose(label: string, option: string): Promise<void> {
    this.count++;
    await this.page.getByLabel(label, { exact: true }).selectOption({ label: option });
  }
}

describe('a master', () => {
  let { served, page, browser } = {} as Flow;
  inBrowser((flow) => ({ served, page, browser } = flow));

  const stored = async (name: string): Promise<MasterDocument> => {
    const all = await api<StoredDocument[]>(served.url, '/documents');
    return all.find((d) => d.kind === 'master' && d.body.name === name)?.body as MasterDocument;
  };
  const saved = () => page.waitForFunction(() => document.querySelector('.saved')?.textContent?.trim() === 'Saved');
  const lowered = async (d: MasterDocument) => {
    const roles = new Set(['baseColor', 'normal', 'roughness', 'occlusion', 'metallic', 'height', 'id'] as const);
    const surfaces = Object.fromEntries(
      (await api<StoredDocument[]>(served.url, '/documents'))
        .filter((s) => s.kind === 'surface')
        .map((s) => [s.id, { sizeM: 1, reliefM: 0.05, mid: 0.5, roles }]),
    );
    return new MasterMaterials().of(d, { surfaces: surfaces as never, blends: {}, masters: {} });
  };
  /** What an asset base has to have, however it was built. */
  const isAssetBase = async (d: MasterDocument) => {
    const material = await lowered(d);
    expect(material.problems).toEqual([]);
    const steps = Object.values(d.operations).map((o) => o.step);
    for (const step of ['surface', 'image', 'smoothstep', 'curvature', 'tint', 'ownnormal', 'crossover', 'switch'])
      expect(steps).withContext(step).toContain(step);
    expect(Object.keys(d.switches).length).toBe(2);
    expect(Object.keys(d.parameters).length).toBeGreaterThanOrEqual(5);
    const names = [...Object.values(d.parameters), ...Object.values(d.switches)].map((p) => identifierOf(p.name));
    expect(new Set(names).size).toBe(names.length);
    // Everything is used: nothing lies about.
    expect(material.reads.mesh.has('curvature')).toBeTrue();
    expect([...material.reads.roles.values()].some((r) => r.has('baseColor'))).toBeTrue();
    expect(material.reads.ids.size).toBe(1);
  };

  it('is built from nothing by keyboard alone, in no more than 250 actions', async () => {
    await page.goto(`${served.url}/master`);
    await page.getByRole('button', { name: 'Masters' }).waitFor();
    const hands = new Hands(page);
    await page.getByRole('button', { name: 'Masters' }).focus();
    await hands.keys('Enter');
    await page.getByRole('menuitem', { name: 'New master from nothing' }).focus();
    await hands.keys('Enter');
    await page.getByText('Begin at an output').waitFor();
    await page.getByTestId('graph').focus();
    // The surface: an own normal over it by a switch, dust over it by another.
    await hands.keys('Home');
    await hands.add('switch');
    await hands.keys('ArrowDown');
    await hands.add('ownnormal');
    await hands.add('switch');
    await hands.add('makesurface');
    await hands.add('tint');
    await hands.add('surface');
    await hands.keys('Enter');
    await hands.type('Weathered');
    await hands.keys('Escape');
    // Tints by ID.
    await hands.keys('ArrowRight', 'ArrowDown');
    await hands.add('mix');
    await hands.keys('c', 'p', 'ArrowDown', 'c', 'p', 'ArrowDown');
    await hands.add('smoothstep');
    await hands.add('distance');
    await hands.add('image');
    await hands.keys('Enter');
    await hands.type('Copper still, IDs');
    await hands.keys('Tab');
    await hands.type('ID');
    await hands.keys('Escape');
    await hands.add('texcoord');
    await hands.keys('Enter');
    await hands.type('uv1');
    await hands.keys('Escape', 'ArrowRight', 'ArrowRight', 'ArrowDown', 'c', 'ArrowRight', 'ArrowDown');
    await hands.type('0.12');
    await hands.keys('Enter', 'Escape', 'ArrowDown');
    await hands.type('0.08');
    await hands.keys('Enter', 'Escape', 'ArrowRight', 'ArrowRight', 'ArrowRight');
    // Wear: colour and roughness of what is rubbed.
    await hands.keys('ArrowDown');
    await hands.add('mix');
    await hands.add('separatesurface');
    await hands.link('tint');
    await hands.keys('ArrowRight', 'ArrowDown', 'c', 'p', 'ArrowDown');
    await hands.add('smoothstep');
    await hands.add('curvature');
    await hands.keys('ArrowRight', 'ArrowDown', 'p', 'ArrowDown');
    await hands.type('60');
    await hands.keys('Enter', 'Escape', 'ArrowRight', 'ArrowRight', 'ArrowDown', 'ArrowDown');
    await hands.type('0.4');
    await hands.keys('Enter', 'Escape', 'ArrowRight');
    // Dust where it looks up.
    await hands.keys('ArrowDown');
    await hands.add('crossover');
    await hands.link('makesurface');
    await hands.keys('ArrowDown');
    await saved();
    const half = await stored('New master');
    expect(Object.keys(half.operations).length).toBeGreaterThan(12);
    await hands.add('surface');
    await hands.keys('Enter');
    await hands.type('Laterite');
    await hands.keys('Escape', 'ArrowRight', 'ArrowDown');
    await hands.add('smoothstep');
    await hands.add('extract');
    await hands.add('normal');
    await hands.keys('ArrowRight', 'Enter');
    await hands.type('1');
    await hands.keys('Escape', 'ArrowRight', 'ArrowDown', 'p', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowDown');
    // The own normal, laid by the asset's own coordinates.
    await hands.add('image');
    await hands.keys('Enter');
    await hands.type('Lime');
    await hands.keys('Tab');
    await hands.type('Normal');
    await hands.keys('Escape');
    await hands.add('texcoord');
    await saved();
    const built = await stored('New master');
    await isAssetBase(built);
    expect(hands.count).toBeLessThanOrEqual(250);
  });

  it('is built from nothing by mouse, in no more than 150 actions', async () => {
    await page.goto(`${served.url}/master`);
    await stageReady(page);
    const hands = new Hands(page);
    await hands.click('Masters');
    hands.count++;
    await page.getByRole('menuitem', { name: 'New master from nothing' }).click();
    await page.getByText('Begin at an output').waitFor();
    hands.count++;
    await page.getByLabel('Name of the master').fill('By mouse');
    await page.getByLabel('Name of the master').blur();
    const add = async (text: string, hit = 0) => {
      await hands.click(/^add/);
      await page.getByTestId('search').waitFor();
      await hands.type(text);
      hands.count++;
      await page.locator(`#hit-${hit}`, hit ? { hasText: 'link' } : {}).click();
      await page.getByTestId('search').waitFor({ state: 'detached' });
    };
    const input = (name: string) => hands.click(name);
    const card = async (name: RegExp) => {
      hands.count++;
      await page.getByRole('treeitem', { name }).first().click();
    };
    await hands.click('surface');
    await add('switch');
    await input('on');
    await add('ownnormal');
    await add('switch');
    await add('makesurface');
    await add('tint');
    await add('surface');
    await hands.choose('surface', 'Weathered copper');
    await card(/^tint/);
    await input('colour');
    await add('mix');
    await hands.click('bg as a colour');
    await hands.click('Make a parameter of bg');
    await hands.click('fg as a colour');
    await hands.click('Make a parameter of fg');
    await input('mix');
    await add('smoothstep');
    await add('distance');
    await add('image');
    await hands.choose('map of', 'Copper still, IDs');
    await hands.choose('role', 'id');
    await add('texcoord');
    await hands.choose('set', 'uv1');
    await card(/^makesurface/);
    await input('baseColor');
    await add('mix');
    await add('separatesurface');
    await add('tint', 1);
    const wear = await fedBy('mix', 'separatesurface');
    hands.count++;
    await page.locator(`#card-${wear}`).click();
    await hands.click('fg as a colour');
    await hands.click('Make a parameter of fg');
    await input('mix');
    await add('smoothstep');
    await add('curvature');
    const rub = await fedBy('smoothstep', 'curvature');
    hands.count++;
    await page.locator(`#card-${rub}`).click();
    await hands.click('Make a parameter of low');
    const inner = await fedBy('switch', 'makesurface');
    hands.count++;
    await page.locator(`#card-${inner}`).click();
    await input('on');
    await add('crossover');
    await add('makesurface', 1);
    await input('above');
    await add('surface');
    await hands.choose('surface', 'Laterite clay');
    await card(/^crossover/);
    await input('coverage');
    await hands.click('Make a parameter of coverage');
    await card(/^ownnormal/);
    await input('normal');
    await add('image');
    await hands.choose('map of', 'Lime plaster');
    await hands.choose('role', 'normal');
    const built = await savedAs('By mouse');
    await isAssetBase(built);
    expect(hands.count).toBeLessThanOrEqual(150);

    async function savedAs(name: string): Promise<MasterDocument> {
      await saved();
      return stored(name);
    }
    /** The operation of a kind that is fed by one of another kind. */
    async function fedBy(step: string, from: string): Promise<string> {
      const { operations } = await savedAs('By mouse');
      const feeds = (s: { from: string; operation?: string }) => s.from === 'link' && operations[s.operation ?? '']?.step === from;
      return Object.entries(operations).find(([, o]) => o.step === step && Object.values(o.inputs).some(feeds))![0];
    }
  });

  it('says by its plot what a step does to numbers, and where it leaves 0–1', async () => {
    await page.goto(`${served.url}/master/glazed-tile`);
    await stageReady(page);
    await page.locator('#card-crack').click();
    await page.waitForFunction(() => /0–1/.test(document.querySelector('pb-plot .said')?.textContent ?? ''));
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
    await saved();
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
    const before = (await stored('Asset base')) as MasterDocument;
    await page.getByTestId('graph').focus();
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Control+d');
    await page.getByRole('region', { name: 'What was renamed' }).waitFor();
    await saved();
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
    await saved();
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
    await saved();
    const made = await stored('Terrace ground');
    const [id, parameter] = Object.entries(made.parameters).find(([, p]) => p.name === 'laterite clay soft')!;
    expect(parameter.holds).toEqual({ kind: 'number', value: [0.08], low: 0, high: 1, unit: '' });
    expect(made.operations['ground'].inputs['layers.clay.seam.soft']).toEqual({ from: 'parameter', parameter: id });
    await page.getByRole('tab', { name: 'Parameters' }).click();
    await page.getByLabel('Name of laterite clay soft').waitFor();
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
    const one = (name: RegExp) => page.getByRole('treeitem', { name }).first().click();
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
    await saved();
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
      .getByRole('treeitem', { name: /^whole glaze/ })
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
    await page.getByRole('treeitem', { name: /^invert/ }).waitFor();
    await context.close();
  });
});
