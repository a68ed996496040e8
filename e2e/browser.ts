import type { Browser } from 'playwright-core';
import { chromium } from 'playwright-core';

/** Debian's Chromium without the network chatter; no GL flags, so that the page itself is composited as usual. */
export const launch = (): Promise<Browser> =>
  chromium.launch({
    executablePath: process.env['CHROME_BIN'] ?? '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-dev-shm-usage',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--no-first-run',
    ],
  });
