import type { StoredDocument } from '@pebble/contracts';
import { makeMaster } from '@pebble/core';
import { opId } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api } from '../harness';

describe('a program that is too large', () => {
  let { served, page } = {} as Flow;
  inBrowser((flow) => ({ served, page } = flow), { demo: false });

  it('marks the operation from which on the graphics driver takes its program no more', async () => {
    // Three hundred formulas with fifteen vectors each: more than a fragment shader has room for.
    const link = (operation: string) => ({ from: 'link', operation, port: 'out' });
    const step = (order: number, kind: string, inputs: object, settings: object) => ({
      order,
      step: kind,
      name: '',
      inputs,
      settings,
      bypassed: false,
      frame: null,
      note: '',
    });
    const own = Array.from({ length: 15 }, (_, i) => `a${i}`);
    const text = `${['g', ...own].map((name) => `in vec4 ${name};`).join('')}${own.map((name) => `fract(g*${name})`).join('+')}`;
    const numbers = Object.fromEntries(own.map((name, i) => [name, { from: 'value', value: [i, 1, 2, 3] }]));
    const many = 300;
    const operations = {
      c: step(1, 'geomcolor', {}, {}),
      ...Object.fromEntries(
        Array.from({ length: many }, (_, i) => [`f${i}`, step(i + 2, 'formula', { ...numbers, g: link(i ? `f${i - 1}` : 'c') }, { text })]),
      ),
      pick: step(900, 'extract', { in: link(`f${many - 1}`) }, { channel: 0 }),
    };
    const body = { ...makeMaster('Too much'), operations, outputs: { roughness: link('pick') } };
    const made = await api<StoredDocument>(served.url, '/documents', { body, label: 'New', opId: opId() });
    await page.goto(`${served.url}/master/${made.id}`);
    await page.getByText(/The graphics driver refused the picture’s program/).waitFor();
    await page.locator('.wrong').first().waitFor();
    expect(await page.locator('.wrong').count()).toBe(1);
    expect(await page.locator('.wrong').getAttribute('aria-label')).toMatch(/From here on the graphics driver/);
  });
});
