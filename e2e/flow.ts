// What every flow begins and ends with.
import type { Browser, Page } from 'playwright-core';
import { launch } from './browser';
import type { ServedFresh } from './harness';
import { openPage, serveDemo, serveFresh } from './harness';

/** A server with a database of its own, a browser, and a page on it. */
export interface Flow {
  served: ServedFresh;
  browser: Browser;
  page: Page;
}

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
    flow.page.setDefaultTimeout(20_000);
    await open(flow as Flow);
  }, 200_000);
  afterAll(async () => {
    await flow.browser?.close();
    await flow.served?.end();
  });
  afterEach(() => expect(errors.splice(0)).toEqual([]));
}
