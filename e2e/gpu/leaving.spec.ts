import type { Browser, Page } from 'playwright-core';
import { launch } from '../browser';
import { openGpuPage } from './open-page';

interface Read {
  name: string;
  errors: unknown[];
  warnings: unknown[];
  p99: number | null;
  worst: number | null;
  varies: number;
}
declare const pebble: { read(): Promise<Read[]> };

describe('MaterialX', () => {
  let browser: Browser;
  let page: Page;
  let close = () => undefined as void;
  beforeAll(async () => {
    browser = await launch();
    ({ page, close } = await openGpuPage(browser, 'e2e/gpu/materialx-page.ts'));
  });
  afterAll(async () => {
    close();
    await browser.close();
  });

  it('is read by an independent reader that checks every node, and drawn by it as the processor has it', async () => {
    const list = await page.evaluate(() => pebble.read());
    expect(list.length).toBe(3);
    for (const { name, errors, warnings, worst, varies } of list) {
      expect([errors, warnings]).withContext(name).toEqual([[], []]);
      expect(varies).withContext(name).toBeGreaterThan(0.2);
      expect(worst).withContext(name).toBeLessThan(2e-4);
    }
  });
});
