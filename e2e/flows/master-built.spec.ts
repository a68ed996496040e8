import type { MasterDocument } from '@pebble/core';
import { MasterMaterials, identifierOf } from '@pebble/core';
import type { Page } from 'playwright-core';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, saved } from '../harness';
import { storedMaster } from '../on-master';
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
    // On a busy machine a key may come before the field has the focus.
    await this.page.waitForFunction(() => document.activeElement?.closest('[data-testid=search]'));
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

describe('a master from nothing', () => {
  let { served, page } = {} as Flow;
  inBrowser((flow) => ({ served, page } = flow));
  const stored = (name: string) => storedMaster(served.url, name);

  const lowered = async (d: MasterDocument) => {
    const roles = new Set(['baseColor', 'normal', 'roughness', 'occlusion', 'metallic', 'height', 'id'] as const);
    const surfaces = Object.fromEntries(
      (await allDocuments(served.url)).filter((s) => s.kind === 'surface').map((s) => [s.id, { sizeM: 1, reliefM: 0.05, mid: 0.5, roles }]),
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

  it('is built by keyboard alone, in no more than 250 actions', async () => {
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
    await saved(page);
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
    await saved(page);
    const built = await stored('New master');
    await isAssetBase(built);
    expect(hands.count).toBeLessThanOrEqual(250);
  });

  it('is built by mouse, in no more than 150 actions', async () => {
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
      await page.getByTestId('graph').getByRole('group', { name }).first().click();
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
      await saved(page);
      return stored(name);
    }
    /** The operation of a kind that is fed by one of another kind. */
    async function fedBy(step: string, from: string): Promise<string> {
      const { operations } = await savedAs('By mouse');
      const feeds = (s: { from: string; operation?: string }) => s.from === 'link' && operations[s.operation ?? '']?.step === from;
      return Object.entries(operations).find(([, o]) => o.step === step && Object.values(o.inputs).some(feeds))![0];
    }
  });
});
