import { mkdirSync } from 'node:fs';
import { launch } from './browser';
import { openPage, serveDemo } from './harness';
import { stageReady } from './on-stage';
mkdirSync('/tmp/looks', { recursive: true });
const served = await serveDemo();
const browser = await launch();
const [w, h] = (process.argv[2] ?? '1280x800').split('x').map(Number);
const { page } = await openPage(browser, served.url, { width: w, height: h });
page.on('console', (m) => (m.type() === 'error' || m.type() === 'warning') && console.log('CONSOLE', m.text().slice(0, 400)));
page.on('pageerror', (e) => console.log('PAGEERROR', e.message.slice(0, 600)));
const shoot = (name: string) => page.screenshot({ path: `/tmp/looks/${name}.png` });
for (const id of ['glazed-tile', 'terrace-ground', 'asset-base']) {
  await page.goto(`${served.url}/master/${id}`);
  try {
    await page.waitForFunction(() => document.querySelectorAll('.op').length > 2, undefined, { timeout: 20000 });
    await stageReady(page);
  } catch (e) {
    console.log(id, String(e).slice(0, 300));
  }
  await page.waitForTimeout(2500);
  await shoot(id);
}
await page.goto(`${served.url}/master/glazed-tile`);
await stageReady(page);
await page.waitForTimeout(1500);
await page.locator('#card-crack').click();
await page.waitForTimeout(1500);
await shoot('crack');
await page.keyboard.press('s');
await page.waitForTimeout(1500);
await shoot('step');
await page.keyboard.press('o');
await page.waitForTimeout(2500);
await shoot('probe');
await page.keyboard.press('Tab');
await page.waitForTimeout(300);
await page.keyboard.type('darken edges');
await page.waitForTimeout(800);
await shoot('search');
await page.keyboard.press('Escape');
await page.getByRole('tab', { name: 'Parameters' }).click();
await page.waitForTimeout(600);
await shoot('parameters');
await page.getByRole('tab', { name: 'Outline' }).click();
await page.waitForTimeout(400);
await shoot('outline');
await browser.close();
await served.stop();
process.exit(0);
