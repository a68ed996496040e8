import { build } from 'esbuild';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import path from 'node:path';
import type { Browser, Page } from 'playwright-core';

const ROOT = process.env['PEBBLE_ROOT'] ?? process.cwd();

/** Serves the page that runs core's cases; given to the bench as well. */
export async function openGpuPage(browser: Browser, entry = 'e2e/gpu/page.ts'): Promise<{ page: Page; close: () => void }> {
  const paths = JSON.parse(readFileSync(path.join(ROOT, 'tsconfig.base.json'), 'utf8')).compilerOptions.paths as Record<string, [string]>;
  const alias = Object.fromEntries(
    Object.entries(paths)
      .sort(([a], [b]) => b.length - a.length)
      .map(([k, [v]]) => [k, path.join(ROOT, v)]),
  );
  const { outputFiles } = await build({
    entryPoints: [path.join(ROOT, entry)],
    bundle: true,
    write: false,
    format: 'iife',
    target: 'es2022',
    alias,
    absWorkingDir: ROOT,
    logLevel: 'error',
  });
  const server = createServer((request, response) => {
    const script = request.url === '/page.js';
    response.setHeader('content-type', script ? 'text/javascript' : 'text/html');
    response.end(script ? outputFiles[0].text : '<!doctype html><title>parity</title><script src="/page.js"></script>');
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const page = await browser.newPage();
  page.on('pageerror', (error) => console.error(error));
  await page.goto(`http://127.0.0.1:${(server.address() as { port: number }).port}/`);
  return { page, close: () => server.close() };
}
