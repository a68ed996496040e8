// What every flow begins and ends with.
import type { Browser, Page } from 'playwright-core';
import { launch } from './browser';
import type { ServedFresh } from './harness';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { ROOT, openPage, serveDemo, serveFresh } from './harness';

/** A server with a database of its own, a browser, and a page on it. */
export interface Flow {
  served: ServedFresh;
  browser: Browser;
  page: Page;
}

/** The flow that is under way, and what its page said. */
let current: Partial<Flow> & { said: string[] } = { said: [] };
/** Lines of the server and the page that a failure shows. */
const LINES_SHOWN = 40;

/** A flow that fails shows what page and server said, and leaves its picture in `test-results`. */
jasmine.getEnv().addReporter({
  async specDone({ fullName, status }) {
    const { page, served, said } = current;
    if (status !== 'failed' || !page) return;
    const folder = path.join(ROOT, 'test-results');
    mkdirSync(folder, { recursive: true });
    const file = path.join(folder, `${fullName.replace(/[^a-z0-9]+/gi, '-').slice(0, 120)}.png`);
    const shot = await page.screenshot({ path: file, timeout: 10_000 }).then(
      () => file,
      (e: Error) => `no picture: ${e.message.split('\n')[0]}`,
    );
    const server = served?.output().trim().split('\n').slice(-LINES_SHOWN) ?? [];
    console.error([`\n${fullName}`, `  ${shot}`, '  The page said:', ...said.slice(-LINES_SHOWN), '  The server said:', ...server].join('\n    '));
  },
});

/** In the page: tells notices as they come up. */
const HEAR_NOTICES = `new MutationObserver(() => document.querySelectorAll('mat-snack-bar-container:not([data-told])').forEach((notice) => {
  notice.dataset.told = '';
  window.pebbleSaid(notice.textContent);
})).observe(document, { childList: true, subtree: true });`;

/**
 * Opens the application for all specs of the suite that calls this, and closes it after them. A spec fails for any error
 * that the page reports meanwhile.
 * @param open takes it over, and does what the specs begin with
 * @param demo whether the demo is there; else the project is empty
 */
export function inBrowser(open: (flow: Flow) => unknown, { demo = true, size = { width: 1280, height: 800 } } = {}): void {
  let flow: Partial<Flow> = {};
  let errors: string[] = [];
  beforeAll(async () => {
    flow = { browser: await launch() };
    flow.served = await (demo ? serveDemo() : serveFresh(['--no-demo']));
    ({ page: flow.page, errors } = await openPage(flow.browser as Browser, flow.served.url, size));
    flow.page.setDefaultTimeout(Number(process.env['PEBBLE_FLOW_MS'] ?? 90_000));
    const said: string[] = [];
    flow.page.on('console', (m) => said.push(`${m.type()}: ${m.text()}`));
    flow.page.on('pageerror', (e) => said.push(e.stack ?? e.message));
    // What it says to people is gone by the time at which somebody misses something.
    await flow.page.exposeFunction('pebbleSaid', (text: string) => said.push(`notice: ${text}`));
    await flow.page.evaluate(HEAR_NOTICES);
    await flow.page.addInitScript(HEAR_NOTICES);
    current = { ...flow, said };
    await open(flow as Flow);
  });
  afterAll(async () => {
    current = { said: [] };
    await flow.browser?.close();
    await flow.served?.end();
  });
  afterEach(() => expect(errors.splice(0)).toEqual([]));
}
