import type { JobView } from '@pebble/contracts';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { allDocuments, api } from '../harness';

describe('an empty project on a large screen', () => {
  let { served, page } = {} as Flow;
  inBrowser((flow) => ({ served, page } = flow), { demo: false, size: { width: 1920, height: 1080 } });

  it('teaches in every view what it is for, and scrolls nowhere', async () => {
    for (const [path, words] of [
      ['surfaces', 'A surface is a set of maps'],
      ['blend', 'A blend lays surfaces'],
      ['pack', 'A recipe says which channels'],
      ['deliver', 'No asset to show'],
    ] as const) {
      await page.goto(`${served.url}/${path}`);
      await page.getByRole('heading', { name: words }).waitFor();
      expect(await page.evaluate(() => document.documentElement.scrollHeight <= innerHeight && document.documentElement.scrollWidth <= innerWidth))
        .withContext(path)
        .toBeTrue();
    }
  });
  it('opens a blend without layers and a recipe without sources, and says what is missing', async () => {
    await page.goto(`${served.url}/blend`);
    await page.getByRole('button', { name: 'Start a blend' }).click();
    await page.getByText('Switch a layer on to see the cut').waitFor();
    await page.goto(`${served.url}/pack`);
    await page.getByRole('button', { name: 'Start a recipe' }).click();
    await page.getByText('New blend has no layer that is switched on').first().waitFor();
    expect(await page.getByRole('button', { name: /^Pack 1 file/ }).isDisabled()).toBeTrue();
    await page.getByRole('button', { name: 'Do not pack New blend' }).click();
    await page.getByText('Add something to pack').first().waitFor();
  });
  it('says of a wrong file what is wrong with it, and forgets it', async () => {
    await page.goto(`${served.url}/surfaces`);
    await page.getByTestId('pick-files').setInputFiles([
      { name: 'notes_normal.png', mimeType: 'image/png', buffer: Buffer.from('these are notes') },
      { name: 'none_height.png', mimeType: 'image/png', buffer: Buffer.alloc(0) },
    ]);
    await page.getByText('notes_normal.png: this is no image of a kind that is read').waitFor();
    await page.getByText('none_height.png: the file is empty').waitFor();
    expect(await page.getByRole('button', { name: 'Import', exact: true }).isDisabled()).toBeTrue();
    await page.getByRole('button', { name: 'Forget these files' }).click();
    await page.locator('pb-import-form').waitFor({ state: 'detached' });
  });
  it('loads the example by a button, with progress where it will appear, and cannot be asked twice', async () => {
    await page.goto(`${served.url}/surfaces`);
    await page.getByRole('button', { name: 'Load the Orrin Ridge example' }).click();
    await page.locator('.making').first().waitFor();
    await expectAsync(api(served.url, '/demo', {})).toBeRejectedWithError(/409.*under-way/);
    await page.locator('.pebble img').first().waitFor();
    await until(async () => (await api<JobView[]>(served.url, '/jobs')).every((j) => j.status === 'done'));
    // Nine that are drawn, the map that tells the slots of the still apart, and two that are finished, each stamped as well.
    expect((await allDocuments(served.url)).filter((d) => d.kind === 'surface').length).toBe(14);
  });
  it('picks surfaces in order into a blend', async () => {
    await page.goto(`${served.url}/surfaces`);
    await page.getByRole('option', { name: /Terrace stone/ }).click({ modifiers: ['Control'] });
    await page.getByRole('option', { name: /Cushion moss/ }).click({ modifiers: ['Control'] });
    await page.getByRole('button', { name: 'Blend 2 surfaces' }).click();
    await page.locator('[data-layer="Cushion moss"]').waitFor();
    expect(await page.locator('.layer .name').allTextContents()).toEqual(['Cushion moss', 'Terrace stone']);
    await page.getByTestId('lift-handle').waitFor();
  });
});
