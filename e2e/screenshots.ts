// Takes the pictures that the README shows.
import type { JobView } from '@pebble/contracts';
import { generateSurface, makeImage } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { flipGreen } from '@pebble/usecases';
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { testCluster, until } from '../apps/server/spec/harness';
import { launch } from './browser';
import { DEMO_JOBS, ROOT, api, openPage, scratch, serveFresh } from './harness';
import { stageReady } from './on-stage';

const into = process.argv[2] ?? path.join(ROOT, 'docs/screenshots');
mkdirSync(into, { recursive: true });
const served = await serveFresh();
await until(
  async () =>
    (await api<JobView[]>(served.url, '/jobs')).length >= DEMO_JOBS && (await api<JobView[]>(served.url, '/jobs')).every((j) => j.status === 'done'),
);
const browser = await launch();
const [width, height] = (process.argv[3] ?? '1280x800').split('x').map(Number);
const { page } = await openPage(browser, served.url, { width, height }, true);
const shoot = (name: string, on: Page = page) => on.screenshot({ path: path.join(into, `${name}.png`) });
const theme = async (name: 'stone' | 'slate') => page.evaluate((t) => localStorage.setItem('pebble-theme', t), name);

async function surfaces(name: string): Promise<void> {
  await page.goto(`${served.url}/surfaces`);
  await page.getByRole('option', { name: /Fallen tea leaves/ }).click();
  await page.waitForFunction(() => document.querySelectorAll('pb-map-strip .wait').length === 0);
  await page
    .locator('pb-map-strip .pane')
    .nth(1)
    .hover({ position: { x: 90, y: 60 } });
  await page.waitForTimeout(500);
  await shoot(name);
}
async function specimen(name: string): Promise<void> {
  await page.goto(`${served.url}/surfaces`);
  await page.getByRole('button', { name: /^Specimens/ }).click();
  await page.getByRole('button', { name: 'Density' }).click();
  await page.locator('pb-specimen-tray .finding').first().waitFor();
  await page.waitForTimeout(1500);
  const box = (await page.getByTestId('specimen-form').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.48, box.y + box.height * 0.6);
  await page.locator('.reading').waitFor();
  await page.waitForTimeout(800);
  await shoot(name);
}
async function variations(name: string): Promise<void> {
  await page.getByRole('option', { name: /Weathered copper/ }).click();
  await page.getByRole('button', { name: 'Fifty variations' }).click();
  await page.waitForFunction(() => document.querySelectorAll('pb-variations canvas').length === 50);
  await page.getByRole('option', { name: /^Variation 7,/ }).click();
  await shoot(name);
  await page.getByRole('button', { name: 'Close' }).click();
}
async function light(name: string): Promise<void> {
  await page.goto(`${served.url}/blend/terrace-step`);
  await stageReady(page);
  await page.getByLabel('Specimen', { exact: true }).selectOption('marker-stone');
  await page.getByLabel('Sky', { exact: true }).selectOption('low-sun');
  await page.getByRole('button', { name: 'light …' }).click();
  await page.getByLabel('Displaced').check();
  await page.waitForTimeout(2500);
  await shoot(name);
  await page.getByLabel('Normals alone').check();
  await page.getByLabel('Sky', { exact: true }).selectOption('overcast');
  await page.getByLabel('Specimen', { exact: true }).selectOption('patch');
}
async function blend(name: string, layer = 'Cushion moss', id = 'terrace-step', then = async () => undefined as void): Promise<void> {
  await page.goto(`${served.url}/blend/${id}`);
  await stageReady(page);
  await page.locator(`[data-layer="${layer}"] .name`).click();
  const flat = (await page.getByTestId('flat').boundingBox())!;
  await page.mouse.move(flat.x + flat.width * 0.55, flat.y + flat.height * 0.45);
  await page.evaluate(() =>
    (document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: { settled(): Promise<void> } }).pebbleStage.settled(),
  );
  await page.waitForTimeout(1500);
  await then();
  await shoot(name);
}
/** The sky over the still takes a while; then a place of it is asked about. */
async function account(): Promise<void> {
  await page.waitForTimeout(12_000);
  const stage = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  await page.mouse.click(stage.x + stage.width * 0.47, stage.y + stage.height * 0.6);
  await page.waitForSelector('pb-account-card');
  await page.waitForTimeout(1500);
}
/** A stroke of clay over the path of leaves. */
async function brush(): Promise<void> {
  await page.keyboard.press('b');
  await page.waitForFunction(() => document.querySelector('pb-brush-card')?.textContent?.includes('Drag on it to paint'));
  const stage = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  const at = (x: number, y: number) => [stage.x + stage.width * x, stage.y + stage.height * y] as const;
  await page.mouse.move(...at(0.36, 0.52));
  await page.mouse.down();
  for (let i = 0; i <= 24; i++) await page.mouse.move(...at(0.36 + i * 0.011, 0.52 - 0.1 * Math.sin(i / 6)));
  await page.mouse.up();
  await page.waitForTimeout(2500);
}
/** The still with a blend on each slot. */
async function asset(): Promise<void> {
  await page.getByLabel('Specimen', { exact: true }).selectOption({ label: 'Copper still, whole' });
  await page.waitForSelector('pb-asset');
  await page.getByRole('button', { name: 'slots …' }).click();
  await page.waitForTimeout(14_000);
}
/** A master with a step chosen, looked at as it gives or where it reaches. */
async function master(name: string, id: string, card: string, looked: string, tab = 'Operation'): Promise<void> {
  await page.goto(`${served.url}/master/${id}`);
  await stageReady(page);
  await page.locator(`#card-${card}`).click();
  await page.keyboard.press(looked);
  await page.getByRole('tab', { name: tab }).click();
  await page.evaluate(() =>
    (document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: { settled(): Promise<void> } }).pebbleStage.settled(),
  );
  await page.waitForTimeout(4000);
  await shoot(name);
}
/** A variant of a master on the stage, and what can be left out of another. */
async function variant(name: string): Promise<void> {
  await page.goto(`${served.url}/master/leaf-scatter`);
  await stageReady(page);
  await page.getByLabel('Name of the operation').waitFor();
  await page.getByRole('tab', { name: 'Parameters' }).click();
  await page.getByRole('button', { name: 'Variant after' }).click();
  await page.waitForTimeout(4000);
  await shoot(name);
}
async function steam(name: string): Promise<void> {
  await page.goto(`${served.url}/master/steam-swirl?asset=still-at-work`);
  await stageReady(page);
  await page.waitForTimeout(9000);
  await page.getByRole('button', { name: 'code', exact: true }).click();
  await page.locator('#card-wound').click();
  await page.getByLabel('Seconds of the loop').fill('1.4');
  await page.waitForTimeout(3000);
  await shoot(name);
}
async function pack(name: string): Promise<void> {
  await page.goto(`${served.url}/pack`);
  await page.waitForFunction(() => document.querySelectorAll('.big pb-picture').length === 3);
  await page.waitForTimeout(2500);
  await shoot(name);
}
/** A few files as they come from several hands: one named for what it does not hold, one packed, one photograph. */
async function importing(name: string): Promise<void> {
  const { dir, remove } = scratch();
  const { maps } = generateSurface('laterite-clay', { seed: 77, size: 256 });
  const wall = generateSurface('terrace-stone', { seed: 78, size: 256 }).maps;
  const parts = [wall.occlusion, wall.roughness, wall.metallic];
  const packed = makeImage({
    width: 256,
    height: 256,
    channels: 3,
    data: Uint8Array.from({ length: 256 * 256 * 3 }, (_, i) => parts[i % 3].data[Math.floor(i / 3)]),
  });
  const files = [];
  for (const [file, map] of [
    ['yard_path_baseColor.png', maps.baseColor],
    ['yard_path_nrm.png', flipGreen(maps.normal)],
    ['yard_path_scan3.png', maps.height],
    ['shed_wall_orm.png', packed],
    ['shed_wall_roughness.png', wall.normal],
  ] as const) {
    files.push(path.join(dir, file));
    writeFileSync(files.at(-1)!, await nodeCodec.encode(map));
  }
  await page.goto(`${served.url}/surfaces`);
  await page.getByTestId('pick-files').setInputFiles(files);
  await page.waitForSelector('pb-import-form table');
  await page.waitForTimeout(600);
  await shoot(name);
  remove();
}

/** The demo, handed over for two devices. */
async function deliver(name: string): Promise<void> {
  await page.goto(`${served.url}/deliver`);
  await page.locator('pb-preflight-list h3', { hasText: 'clean' }).waitFor();
  await page.getByRole('button', { name: 'Desktop', exact: true }).click();
  await page.getByRole('checkbox', { name: 'desktop/still_at_work.glb' }).waitFor();
  await page.getByRole('button', { name: /^Deliver \d+ files/ }).click();
  await page.getByTestId('proof').waitFor({ timeout: 600_000 });
  await page.getByTestId('difference').waitFor();
  await page.waitForTimeout(1000);
  await shoot(name);
}

/** The hillside under the brush. @param key one looks at it from elsewhere */
async function paint(name: string, key?: string): Promise<void> {
  await page.goto(`${served.url}/paint/hillside-ground`);
  await stageReady(page);
  await page.getByTestId('tiles-over').waitFor();
  await page.getByRole('radio', { name: /^Paint Gravel path/ }).click();
  await page.getByText('Drag on it to paint, beside it to turn it.').waitFor();
  if (key) await page.keyboard.press(key);
  const box = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.52, box.y + box.height * 0.56);
  await page.waitForTimeout(5000);
  await shoot(name);
}

/** The still that is stamped, a patch at hand over it. */
async function stamps(name: string): Promise<void> {
  await page.goto(`${served.url}/paint/finished-still`);
  await stageReady(page);
  await page.getByText('free at runtime').waitFor();
  await page.getByRole('radio', { name: 'Lime plaster' }).click();
  const box = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.6);
  await page.waitForTimeout(4000);
  await shoot(name);
}

await specimen('specimen');
await surfaces('surfaces');
await variations('variations');
await blend('blend');
await blend('blend-still', 'Verdigris', 'copper-still', account);
await master('master', 'glazed-tile', 'crack', 's');
await master('master-probe', 'asset-base', 'dust', 'o', 'Outline');
await variant('master-variant');
await steam('master-motion');
await pack('pack');
await deliver('deliver');
await importing('import');
await light('light');
await blend('slots', 'Copper', 'copper-still', asset);
await blend('brush', 'Laterite clay', 'terrace-step', brush);
await theme('slate');
await blend('blend-slate', 'Fallen leaves', 'path');
await paint('paint-near', 'Shift+Digit1');
await theme('stone');
await paint('paint');
await stamps('stamps');
await browser.close();
await served.end();
await (await testCluster()).stop();
process.exit(0);
