// What happens to people's work when something breaks under it.
import type { StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import type { Page } from 'playwright-core';
import { until } from '../../apps/server/spec/harness';
import { inBrowser } from '../flow';
import type { Served } from '../harness';
import { api, saved } from '../harness';
import { stagePixel, stageReady } from '../on-stage';

interface Mortal {
  pebbleStage: { worker: Worker };
}

describe('kept safe', () => {
  let page: Page;
  let served: Served;
  inBrowser((flow) => {
    ({ page, served } = flow);
  });
  const blend = () => api<StoredDocument<BlendDocument>>(served.url, '/documents/terrace-step');

  it('a stage whose worker ends says so, is started again, and shows what it showed', async () => {
    await page.goto(`${served.url}/blend/terrace-step`);
    await stageReady(page);
    const before = await stagePixel(page, 0.5, 0.5);
    await page.evaluate(() => (document.querySelector('[data-testid=stage]') as unknown as Mortal).pebbleStage.worker.terminate());
    const said = page.getByText('The stage stopped, and is started again');
    await said.waitFor();
    await said.waitFor({ state: 'detached' });
    await stageReady(page);
    const after = await stagePixel(page, 0.5, 0.5);
    for (let c = 0; c < 3; c++) expect(Math.abs(after[c] - before[c])).toBeLessThanOrEqual(4);
    // It goes on as before: what is edited is shown.
    await page.getByRole('radio', { name: 'Height' }).click();
    await until(async () => (await stagePixel(page, 0.5, 0.5)).some((v, c) => Math.abs(v - before[c]) > 12));
    await page.getByRole('radio', { name: 'Lit' }).click();
  });
  it('an edit is sent though the browser has no room to keep it', async () => {
    await page.evaluate(() => {
      let size = 1 << 20;
      for (let n = 0; size > 0;)
        try {
          localStorage.setItem(`filling-${n++}`, 'x'.repeat(size));
        } catch {
          size >>= 1;
        }
    });
    const name = page.getByLabel('Name of the blend');
    await name.fill('Kept without room');
    await name.press('Enter');
    await until(async () => (await blend()).body.name === 'Kept without room');
    await saved(page);
    await page.evaluate(() => Object.keys(localStorage).forEach((k) => k.startsWith('filling-') && localStorage.removeItem(k)));
  });
  it('an edit at which the server fails once is there all the same', async () => {
    let failures = 0;
    await page.route('**/api/documents/terrace-step/edits', (route) =>
      failures++
        ? route.continue()
        : route.fulfill({ status: 500, contentType: 'application/problem+json', body: '{"code":"unexpected","detail":"broken"}' }),
    );
    const name = page.getByLabel('Name of the blend');
    await name.fill('Kept over a failure');
    await name.press('Enter');
    await page.getByText('Offline, 1 edit kept').waitFor();
    await until(async () => (await blend()).body.name === 'Kept over a failure');
    expect(failures).toBeGreaterThan(1);
    await page.unroute('**/api/documents/terrace-step/edits');
  });
  it('what has a name is gone back to: kept, compared and restored, and the way back is kept as well', async () => {
    const sheet = page.getByRole('dialog', { name: 'Named versions' });
    const line = (name: string) => sheet.locator('li').filter({ has: page.getByRole('button', { name: new RegExp(`^${name} `) }) });
    const before = (await blend()).body.name;
    await page.keyboard.press('Control+s');
    await sheet.waitFor();
    await page.keyboard.type('Tuesday');
    await page.keyboard.press('Enter');
    await line('Tuesday').waitFor();
    await page.keyboard.press('Escape');
    await sheet.waitFor({ state: 'detached' });

    const name = page.getByLabel('Name of the blend');
    await name.fill('After Tuesday');
    await name.press('Enter');
    await saved(page);
    await until(async () => (await blend()).body.name === 'After Tuesday');
    // By mouse, from the steps of the document.
    await page.getByRole('button', { name: 'Steps of this document' }).click();
    await page.getByRole('menuitem', { name: /Named versions/ }).click();
    await line('Tuesday')
      .getByRole('button', { name: /^Tuesday / })
      .click();
    const differences = sheet.locator('.differences');
    await differences.getByText('After Tuesday').waitFor();
    expect((await differences.innerText()).split('\n').map((t) => t.trim())).toEqual(['changed since', 'After Tuesday', 'blend']);
    await line('Tuesday').getByRole('button', { name: 'go back …' }).click();
    await line('Tuesday').getByRole('button', { name: 'Go back', exact: true }).click();
    await until(async () => (await blend()).body.name === before);
    await differences.getByText('Nothing is otherwise now').waitFor();
    await line('Before going back to Tuesday').waitFor();
    await line('Tuesday').getByRole('button', { name: 'Let go of Tuesday', exact: true }).click();
    await until(async () => (await line('Tuesday').count()) === 0);
    await page.keyboard.press('Escape');
    expect(await name.inputValue()).toBe(before);
    // Another window's way back is heard here, and the stage can compare with what a version holds.
    await page.getByRole('button', { name: 'compare …' }).click();
    await page.getByRole('menuitem', { name: 'named: Before going back to Tuesday' }).click();
    await page.getByText('named: Before going back to Tuesday').waitFor();
    await page.getByRole('button', { name: 'end', exact: true }).click();
  });
});
