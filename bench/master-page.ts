import type { MasterDocument } from '@pebble/core';
import { launch } from '../e2e/browser';
import { serve } from '../e2e/harness';
import { testDatabase } from '../apps/server/spec/harness';
import { built } from './master';
import { ms, table } from './measure';

const MOVES = 60;

/** A graph of three hundred that is moved over the page. */
export async function masterPage(): Promise<void> {
  const database = await testDatabase();
  const served = await serve(['--no-demo'], { DATABASE_URL: database.url });
  const post = async (body: MasterDocument): Promise<string> => {
    const answer = await fetch(`${served.url}/api/documents`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ body, label: 'New', opId: crypto.randomUUID() }),
    });
    return ((await answer.json()) as { id: string }).id;
  };
  const many = await post(built(300));
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${served.url}/master/${many}`);
  await page.locator('#card-n299').waitFor({ state: 'attached' });
  await page.waitForTimeout(6000);
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable', { timeDomain: 'threadTicks' });
  const busy = async () => (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === 'TaskDuration')!.value * 1000;
  const box = (await page.getByTestId('graph').boundingBox())!;
  // Between cards, where the ground is.
  await page.mouse.move(box.x + 30, box.y + box.height - 90);
  await page.mouse.down();
  const before = await busy();
  for (let i = 1; i <= MOVES; i++) {
    await page.mouse.move(box.x + 30 + i * 5, box.y + box.height - 90 - i);
    await page.waitForTimeout(16);
  }
  const moved = ((await busy()) - before) / MOVES;
  await page.mouse.up();
  await browser.close();
  await served.stop();
  await database.drop();
  table('Masters on the page (software rasteriser)', [['three hundred moved: processor of the main thread a move (reach < 33 ms)', ms(moved)]]);
}
