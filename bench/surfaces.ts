import type { ListedDocument } from '@pebble/contracts';
import type { GeneratorName } from '@pebble/core';
import { GENERATORS } from '@pebble/core';
import { BandPool } from '@pebble/usecases/bands';
import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { testDatabase } from '../apps/server/spec/harness';
import { launch } from '../e2e/browser';
import { ROOT, serve } from '../e2e/harness';
import { inOwnProcess, median, ms, peakBeyond, table, times } from './measure';

const WAY = process.env['PEBBLE_BENCH_WAY'];
const RUNS = 3;
const pool = (threads: number) => new BandPool(path.join(ROOT, 'dist/node/band-worker.mjs'), threads);

/** One way of drawing all nine, in a process of its own. */
async function way(threads: number, size: number): Promise<void> {
  const bands = pool(threads);
  const names = Object.keys(GENERATORS) as GeneratorName[];
  const took: Record<string, number> = {};
  const peaks: number[] = [];
  for (const name of names) {
    await bands.generate({ name, seed: 4, size: 64 }, () => undefined);
    const each: number[] = [];
    for (let i = 0; i < (size > 1024 ? 1 : RUNS); i++) {
      const began = performance.now();
      peaks.push(await peakBeyond(() => bands.generate({ name, seed: 4 + i, size }, () => undefined)));
      each.push(performance.now() - began);
    }
    took[name] = median(each);
  }
  await bands.close();
  console.log(JSON.stringify({ took, peak: Math.max(...peaks) }));
}

/** All nine surfaces at 1024² and 2048², on one thread and on two. */
export async function surfaces(): Promise<void> {
  if (WAY) return way(Number(WAY.split('x')[0]), Number(WAY.split('x')[1]));
  type Result = { took: Record<string, number>; peak: number };
  const [one, two, large] = ['1x1024', '2x1024', '2x2048'].map((w) => inOwnProcess<Result>('surfaces', w));
  const rows = Object.keys(two.took).map((name) => [name, `${ms(one.took[name])} → ${ms(two.took[name])}, 2048² ${ms(large.took[name])}`] as const);
  const slowest = (r: Result) => Math.max(...Object.values(r.took));
  table('Drawing surfaces: 1024² on one thread → on two (medians of 3), 2048² on two', [
    ...rows,
    ['slowest at 1024² on two threads (reach < 3 s)', ms(slowest(two))],
    ['slowest at 2048² on two threads (reach < 10 s)', ms(slowest(large))],
    ['two threads against one, median of the nine', times(median(Object.keys(one.took).map((n) => one.took[n] / two.took[n])))],
    ['most memory beyond the program, 1024² and 2048²', `${two.peak.toFixed(0)} and ${large.peak.toFixed(0)} MiB`],
  ]);
}

const COUNT = 1000;
const SCROLLS = 60;

/** A wall of a thousand surfaces, scrolled by the wheel. */
export async function wall(): Promise<void> {
  const database = await testDatabase();
  const served = await serve([], { DATABASE_URL: database.url });
  const get = async <T>(at: string) => (await (await fetch(`${served.url}/api${at}`)).json()) as T;
  for (let i = 0; i < 200 && !(await get<unknown[]>('/documents')).length; i++) await new Promise((r) => setTimeout(r, 300));
  for (let i = 0; i < 200 && !(await get<{ status: string }[]>('/jobs')).every((j) => j.status === 'done'); i++)
    await new Promise((r) => setTimeout(r, 500));
  const { body } = await get<{ body: { kind: string; name: string } }>(
    `/documents/${(await get<ListedDocument[]>('/documents')).find((d) => d.kind === 'surface')!.id}`,
  );
  const add = (i: number) =>
    fetch(`${served.url}/api/documents`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ label: 'Copy', opId: randomUUID(), body: { ...body, name: `Copy ${i}` } }),
    });
  for (let i = 0; i < COUNT; i += 20) await Promise.all(Array.from({ length: 20 }, (_, k) => add(i + k)));
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${served.url}/surfaces`);
  await page.waitForFunction((n) => document.querySelector('.pill.on')?.textContent?.includes(String(n)), COUNT + 9);
  await page.waitForTimeout(3000);
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable', { timeDomain: 'threadTicks' });
  const script = async () => (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === 'ScriptDuration')!.value * 1000;
  const box = (await page.locator('pb-wall').boundingBox())!;
  await page.mouse.move(box.x + 400, box.y + 120);
  await page.evaluate(() => {
    const counted = { scrolls: 0, rows: 0 };
    Object.assign(window, { counted });
    document.querySelector('cdk-virtual-scroll-viewport')!.addEventListener('scroll', () => {
      counted.scrolls++;
      counted.rows = Math.max(counted.rows, document.querySelectorAll('pb-wall .row').length);
    });
  });
  const before = await script();
  for (let i = 0; i < SCROLLS; i++) {
    await page.mouse.wheel(0, 240);
    await page.waitForTimeout(25);
  }
  await page.waitForTimeout(600);
  const after = await script();
  const { scrolls, rows } = await page.evaluate(() => (window as unknown as { counted: { scrolls: number; rows: number } }).counted);
  // What came from the cache took no bytes over the wire.
  const fetched = await page.evaluate(() =>
    (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
      .filter((e) => e.initiatorType === 'img' && e.transferSize > 0)
      .map((e) => e.name),
  );
  await browser.close();
  await served.stop();
  await database.drop();
  table('A wall of a thousand surfaces', [
    ['script a scroll event (reach < 4 ms)', ms((after - before) / scrolls)],
    ['rows in the page at most (reach ≤ 60)', String(rows)],
    ['thumbnails fetched more than once', `${fetched.length - new Set(fetched).size} of ${fetched.length}`],
  ]);
}
