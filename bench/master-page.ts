import type { MasterDocument } from '@pebble/core';
import { launch } from '../e2e/browser';
import { serve } from '../e2e/harness';
import { stageReady } from '../e2e/on-stage';
import { testDatabase } from '../apps/server/spec/harness';
import { median, ms, often, table } from './measure';

interface Frame {
  ahead: boolean;
  pending: boolean;
}
interface OnPage {
  pebbleStage: { onFrame(frame: Frame): void; compiles: number };
}
const MOVES = 60;

/** A graph of sixty whose structure changes until it is seen, and one of three hundred that is moved. */
export async function masterPage(built: (size: number) => MasterDocument): Promise<void> {
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
  const [sixty, many] = [await post(built(60)), await post(built(300))];
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${served.url}/master/${sixty}`);
  await stageReady(page);
  await page.waitForTimeout(4000);
  const [first, whole]: [number[], number[]] = [[], []];
  for (let i = 0; i < often(9, 2); i++) {
    await page.locator(`#card-n${57 - i * 4}`).dispatchEvent('click');
    await page.getByTestId('graph').focus();
    await page.waitForTimeout(1500);
    const took = page.evaluate(
      () =>
        new Promise<{ first: number; whole: number }>((resolve) => {
          const stage = (document.querySelector('[data-testid=stage]') as unknown as OnPage).pebbleStage;
          const [before, onFrame] = [stage.compiles, stage.onFrame.bind(stage)];
          let [began, seen] = [0, 0];
          addEventListener('keydown', () => (began = performance.now()), { once: true, capture: true });
          stage.onFrame = (frame) => {
            onFrame(frame);
            const built = !frame.pending && stage.compiles > before;
            if (began && !seen && (frame.ahead || built)) seen = performance.now() - began;
            if (!built || !began) return;
            stage.onFrame = onFrame;
            resolve({ first: seen, whole: performance.now() - began });
          };
        }),
    );
    await page.waitForTimeout(200);
    await page.keyboard.press('b');
    const times = await took;
    first.push(times.first);
    whole.push(times.whole);
  }
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
  table('Masters on the page (software rasteriser)', [
    ['sixty operations, one bypassed: until its picture is seen (reach ≤ 400 ms)', ms(median(first))],
    ['… until its own program draws it', ms(median(whole))],
    ['three hundred moved: processor of the main thread a move (reach < 33 ms)', ms(moved)],
  ]);
}
