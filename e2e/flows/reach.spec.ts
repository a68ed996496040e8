// What everybody reaches: by eye, by keyboard, by whatever reads a page aloud.
import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { createRequire } from 'node:module';
import type { Page } from 'playwright-core';
import { inBrowser } from '../flow';
import type { Served } from '../harness';
import { stageReady } from '../on-stage';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

describe('within reach', () => {
  let page: Page;
  let served: Served;
  inBrowser((flow) => {
    ({ page, served } = flow);
  });

  /** Critical and serious findings of the page as it stands, as text. */
  const findings = async (): Promise<string[]> => {
    await page.evaluate(AXE);
    return page.evaluate(async () => {
      const { axe } = window as unknown as {
        axe: { run: (of: Document, o: object) => Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }> };
      };
      const { violations } = await axe.run(document, { resultTypes: ['violations'] });
      return violations
        .filter((v) => v.impact === 'critical' || v.impact === 'serious')
        .flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 220)}`));
    });
  };
  const settled = async (view: string, what: string) => {
    await page.goto(`${served.url}/${view}`);
    await page.locator(what).first().waitFor();
    await page.waitForTimeout(1500);
  };

  for (const [view, what] of [
    ['surfaces', 'pb-wall'],
    ['blend/terrace-step', 'pb-strata .layer'],
    ['master/steam-swirl', '[data-testid=graph]'],
    ['pack', 'pb-pack table'],
    ['deliver', 'pb-deliver .row'],
  ])
    it(`nothing critical or serious keeps anybody out of ${view}`, async () => {
      await settled(view, what);
      expect(await findings()).toEqual([]);
    });
  it('nothing does in the sheets of keys and of search', async () => {
    await page.keyboard.press('Shift+Slash');
    await page.getByRole('dialog', { name: 'Keys' }).waitFor();
    expect(await findings()).toEqual([]);
    await page.keyboard.press('Escape');
    await page.getByRole('dialog', { name: 'Keys' }).waitFor({ state: 'detached' });
    await page.keyboard.press('Control+k');
    await page.getByTestId('find').waitFor();
    expect(await findings()).toEqual([]);
    await page.keyboard.press('Escape');
  });
  /** Cards and dialogs, each opened as people do and left by Escape. */
  const opened: [what: string, view: string, at: string, open: () => Promise<unknown>, shows: string][] = [
    ['the card of a cue', 'blend/terrace-step', 'pb-strata .layer', () => cueCard(), 'pb-cue-card'],
    ['the look of a layer', 'blend/terrace-step', 'pb-strata .layer', () => button('look …'), 'pb-layer-card'],
    ['the brush', 'blend/terrace-step', 'pb-strata .layer', () => page.keyboard.press('b'), 'pb-brush-card'],
    ['light', 'blend/terrace-step', 'pb-strata .layer', () => button('light …'), '.popover.light'],
    ['making a surface', 'blend/terrace-step', 'pb-strata .layer', () => button('make a surface …'), 'pb-bake-card .popover'],
    ['the account of a place', 'blend/terrace-step', 'pb-strata .layer', () => account(), 'pb-account-card'],
    ['the menu of a layer', 'blend/terrace-step', 'pb-strata .layer', () => button('More for Cushion moss'), '.mat-mdc-menu-panel'],
    ['new layers', 'blend/terrace-step', 'pb-strata .layer', () => button('Layer', true), '.mat-mdc-menu-panel'],
    ['cues', 'blend/terrace-step', 'pb-strata .layer', () => button('Add a cue'), '.mat-mdc-menu-panel'],
    ['slots of an asset', 'blend/copper-still?asset=whole-still', 'pb-asset', () => button('slots …'), 'pb-asset .popover'],
    ['the set-up of the project', 'pack', 'pb-pack table', () => button('Orrin Ridge'), '.setup'],
    ['named versions', 'pack', 'pb-pack table', () => page.keyboard.press('Control+s'), 'pb-versions'],
    ['routes', 'pack', 'pb-pack table', () => button('Roughness feeds G of orm'), 'pb-crossing-card'],
    ['kinds of file', 'pack', 'pb-pack table', () => page.getByRole('combobox', { name: 'Kind of file' }).first().focus(), 'select.as'],
    ['the quarry', 'surfaces', 'pb-wall', () => button('Quarry'), 'pb-quarry'],
    ['variations', 'surfaces', 'pb-wall', () => variations(), 'pb-variations'],
    ['specimens', 'surfaces', 'pb-wall', () => button(/^Specimens/), 'pb-specimen-tray'],
    ['the question of an import', 'surfaces', 'pb-wall', () => question(), 'pb-import-form'],
    ['simplify', 'master/steam-swirl', '[data-testid=graph]', () => button('simplify'), '.popover.beside'],
    ['the code', 'master/steam-swirl', '[data-testid=graph]', () => button('code'), '.popover.beside'],
  ];
  const button = (name: string | RegExp, exact = false) => page.getByRole('button', { name, exact }).first().click();
  const account = async () => {
    // A place is asked about once the stage has what lies there.
    await stageReady(page);
    await page.getByTestId('flat').click();
  };
  const cueCard = async () => {
    await page.locator('[data-layer="Cushion moss"] .name').click();
    await page.getByTestId('cue').first().locator('.cue').click();
  };
  const variations = async () => {
    await page.getByRole('option', { name: /Weathered copper/ }).click();
    await button('Fifty variations');
  };
  const question = async () => {
    const grey = await sharp({ create: { width: 32, height: 32, channels: 3, background: '#808080' } })
      .png()
      .toBuffer();
    await page.getByTestId('pick-files').setInputFiles([
      { name: 'wall_basecolor.png', mimeType: 'image/png', buffer: grey },
      { name: 'IMG_0042.png', mimeType: 'image/png', buffer: grey },
    ]);
  };
  for (const [what, view, at, open, shows] of opened)
    it(`nothing critical or serious keeps anybody out of ${what}`, async () => {
      await settled(view, at);
      await open();
      await page.locator(shows).first().waitFor();
      await page.waitForTimeout(400);
      expect(await findings()).toEqual([]);
    });
  it('documents, layers, actions and words are found from anywhere, and a layer is chosen where it lies', async () => {
    await settled('surfaces', 'pb-wall');
    const find = async (text: string) => {
      await page.keyboard.press('Control+k');
      await page.getByTestId('find').fill(text);
      await page.locator('#found-0').waitFor();
      return page.locator('#found [role=option]').allInnerTexts();
    };
    const found = await find('moss');
    expect(found.some((t) => /Cushion moss\s+layer\s+in Terrace step/.test(t)))
      .withContext(found.join('|'))
      .toBeTrue();
    await page.locator('#found [role=option]', { hasText: 'in Terrace step' }).click();
    await page.locator('.layer.on', { hasText: 'Cushion moss' }).waitFor();
    expect(page.url()).toContain('/blend/terrace-step');
    expect((await find('lift')).join()).toContain('millimetres');
    await page.keyboard.press('Escape');
    await find('go to pack');
    await page.keyboard.press('Enter');
    await page.locator('pb-pack').waitFor();
  });
  it('a key is changed, kept over a reload, refused where it is taken, and put back', async () => {
    await settled('blend/terrace-step', 'pb-strata .layer');
    const sheet = page.getByRole('dialog', { name: 'Keys' });
    const brush = () => sheet.getByRole('button', { name: /^Key of “Brush on or off”/ });
    await page.keyboard.press('Shift+Slash');
    await brush().click();
    await page.keyboard.press('v');
    await sheet.getByText('V is “Without the chosen layer” already.').waitFor();
    await brush().click();
    await page.keyboard.press('n');
    await page.waitForFunction(() => document.querySelector('pb-keys .key.own')?.textContent?.trim() === 'N');
    await page.reload();
    await page.locator('pb-strata .layer').first().waitFor();
    expect(await page.getByRole('button', { name: /^brush/ }).innerText()).toMatch(/brush\s+N/);
    await page.locator('pb-strata .layer').first().click();
    await page.keyboard.press('b');
    expect(await page.locator('pb-brush-card').count()).toBe(0);
    await page.keyboard.press('n');
    await page.locator('pb-brush-card').waitFor();
    await page.keyboard.press('n');
    await page.keyboard.press('Shift+Slash');
    await sheet.getByRole('button', { name: 'as it was' }).click();
    await sheet.getByRole('button', { name: 'Close' }).click();
    await page.keyboard.press('b');
    await page.locator('pb-brush-card').waitFor();
    await page.keyboard.press('b');
  });
  it('nothing lies over anything else at 150 % and at 1100 pixels', async () => {
    // At 150 % a window of 1280 × 800 has room for 853 × 533.
    for (const [width, height] of [
      [1100, 700],
      [853, 533],
    ])
      for (const [view, what] of [
        ['surfaces', 'pb-wall'],
        ['blend/terrace-step', 'pb-strata .layer'],
        ['pack', 'pb-pack table'],
        ['deliver', 'pb-deliver .row'],
      ]) {
        await page.setViewportSize({ width, height });
        await settled(view, what);
        const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
        expect(wide).withContext(`${view} at ${width}`).toBeLessThanOrEqual(0);
        const over = await page.evaluate(() => {
          const boxes = [...document.querySelectorAll('header.bar > *')]
            .filter((e) => (e as HTMLElement).offsetWidth)
            .map((e) => e.getBoundingClientRect());
          return boxes.some((a, i) =>
            boxes.some((b, j) => j > i && a.right > b.left + 1 && b.right > a.left + 1 && a.bottom > b.top && b.bottom > a.top),
          );
        });
        expect(over).withContext(`bar of ${view} at ${width}`).toBeFalse();
      }
    await page.setViewportSize({ width: 1280, height: 800 });
  });
});
