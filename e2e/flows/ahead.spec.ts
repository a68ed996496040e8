import type { StoredDocument } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import type { Request } from 'playwright-core';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api, saved } from '../harness';
import { stageReady } from '../on-stage';

interface Frame {
  ahead: boolean;
  pending: boolean;
}

describe('a picture ahead of its program', () => {
  let { served, page } = {} as Flow;
  // Pixels are what a machine without a graphics card spends its time on.
  inBrowser((flow) => ({ served, page } = flow), { size: { width: 1100, height: 690 } });

  /** Opens a blend and gives the frames that came since. */
  const open = async () => {
    await page.goto(`${served.url}/blend/terrace-step`);
    await stageReady(page);
    await page.evaluate(() => {
      const { pebbleStage } = document.querySelector('[data-testid=stage]') as unknown as { pebbleStage: { onFrame(frame: Frame): void } };
      const { onFrame } = pebbleStage;
      const seen: Frame[] = ((window as unknown as { frames: Frame[] }).frames = []);
      pebbleStage.onFrame = (frame) => (seen.push(frame), onFrame(frame));
    });
    return () => page.evaluate(() => (window as unknown as { frames: Frame[] }).frames);
  };

  it('shows another structure', async () => {
    const frames = await open();
    const switches = page.locator('pb-strata [aria-label^="Switch"]');
    let structures = 0;
    // Every click gives a structure that was not there yet; the stage makes itself ready after its first picture.
    await until(async () => {
      const bit = Math.log2(++structures & -structures);
      await switches.nth(bit).click();
      await page.waitForTimeout(1000);
      return (await frames()).some((f) => f.ahead);
    });
    expect((await frames()).filter((f) => f.ahead).every((f) => f.pending)).toBeTrue();
    await until(async () => (await frames()).at(-1)?.pending === false);
    for (; structures > 0; structures--) await page.keyboard.press('Control+z');
    await saved(page);
  });

  it('shows a layer of a surface whose maps are not there yet, and the section cuts it', async () => {
    const fetched: string[] = [];
    const note = (request: Request) => fetched.push(request.url().split('/').at(-1) as string);
    page.on('request', note);
    const frames = await open();
    const { body } = await api<StoredDocument<SurfaceDocument>>(served.url, '/documents/roof-tile');
    const { blob: whole, coarse } = body.maps.baseColor!.stage;
    await until(async () => (await frames()).some((f) => !f.pending));
    await page.waitForTimeout(2500);
    await page.getByRole('button', { name: 'Layer', exact: true }).click();
    await page.getByRole('menuitem', { name: 'Roof tile' }).click();
    await until(async () => (await frames()).some((f) => f.ahead));
    await page.getByRole('button', { name: /^Lift of Glazed roof tile/ }).waitFor();
    await until(async () => (await frames()).at(-1)?.pending === false && fetched.includes(whole));
    page.off('request', note);
    expect(fetched).toContain(coarse!.blob);
    expect(fetched.indexOf(coarse!.blob)).toBeLessThan(fetched.indexOf(whole));
    await page.keyboard.press('Control+z');
    await saved(page);
  });
});
