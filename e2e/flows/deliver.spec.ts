import type { AssetDocument, ProjectDocument, RecipeDocument } from '@pebble/core';
import { openBundle, zippedBundle } from '@pebble/formats/bundle';
import { readFileSync, writeFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { until } from '../../apps/server/spec/harness';
import { memoryPorts } from '../../packages/usecases/src/testing/memory';
import { smallProject } from '../../packages/usecases/src/testing/project';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api } from '../harness';

describe('delivering', () => {
  let served: Flow['served'];
  let page: Page;
  let browser: Flow['browser'];
  inBrowser(
    async (flow) => {
      ({ served, page, browser } = flow);
      const ports = memoryPorts();
      const all = await smallProject(ports);
      const form = new FormData();
      for (const [hash, bytes] of ports.kept) form.append('files', new Blob([bytes as Uint8Array<ArrayBuffer>]), `${hash}.bin`);
      await fetch(`${served.url}/api/uploads`, { method: 'POST', body: form });
      for (const [id, body] of Object.entries(all)) {
        if (['project', 'desktop', 'handheld'].includes(id)) continue;
        await api(served.url, '/documents', { id, body, label: 'Make it', opId: crypto.randomUUID() });
      }
      await edit<ProjectDocument>('project', (d) => (d.exportSize = 64));
      await page.goto(`${served.url}/deliver`);
      await page.locator('pb-preflight-list h3', { hasText: 'clean' }).waitFor();
    },
    { demo: false },
  );
  const edit = async <T extends object>(id: string, change: (d: T) => void): Promise<void> => {
    const { body, version } = await api<{ body: T; version: number }>(served.url, `/documents/${id}`);
    const next = structuredClone(body);
    change(next);
    const patch = (from: object, to: object) => [
      ...Object.keys(to).map((k) => ({ op: k in from ? 'replace' : 'add', path: `/${k}`, value: (to as Record<string, unknown>)[k] })),
      ...Object.keys(from).flatMap((k) => (k in to ? [] : [{ op: 'remove', path: `/${k}` }])),
    ];
    await api(served.url, `/documents/${id}/edits`, {
      opId: crypto.randomUUID(),
      baseVersion: version,
      label: 'Change it',
      patch: patch(body, next),
      inverse: patch(next, body),
    });
  };
  const findings = (of: Page) => of.locator('pb-preflight-list li');
  const summary = () => page.locator('pb-preflight-list h3').innerText();

  it('hands over for two devices in one action: a bundle, a proof, and both pictures beside each other', async () => {
    const targets = page.getByRole('group', { name: 'Targets' });
    if ((await targets.getByRole('button', { name: 'Desktop' }).getAttribute('aria-pressed')) !== 'true')
      await targets.getByRole('button', { name: 'Desktop' }).click();
    if ((await targets.getByRole('button', { name: 'Handheld' }).getAttribute('aria-pressed')) !== 'true')
      await targets.getByRole('button', { name: 'Handheld' }).click();
    await page.getByRole('checkbox', { name: 'handheld/gate.glb' }).waitFor();
    await page.getByRole('checkbox', { name: 'desktop/packed/lime_plaster_height.tiff' }).uncheck();
    await page.getByRole('button', { name: /^Deliver \d+ files/ }).click();
    await page.getByTestId('bundle').waitFor();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('bundle').click()]);
    const file = await download.path();
    const bundle = await openBundle(zippedBundle(new Uint8Array(readFileSync(file))));
    expect(await bundle.check()).toEqual([]);
    expect(Object.keys(bundle.manifest.targets).sort()).toEqual(['desktop', 'handheld']);
    expect(bundle.manifest.files.some((f) => f.path === 'desktop/packed/lime_plaster_height.tiff')).toBeFalse();
    const proof = page.getByTestId('proof');
    await proof.waitFor();
    const told = /(\d+) of (\d+)/.exec(await proof.innerText());
    expect(told?.[1]).toBe(told?.[2] ?? 'none');
    expect(Number(told?.[2])).toBeGreaterThan(2);
    // The stand-in shows what it loaded; the difference is a number, and follows when all are turned.
    const difference = page.getByTestId('difference');
    await difference.waitFor();
    const mean = async () => Number(/mean ([\d.]+)/.exec(await difference.innerText())?.[1]);
    expect(await mean()).toBeLessThan(4);
    await page.getByRole('application', { name: /All panes/ }).focus();
    await page.keyboard.press('ArrowLeft');
    await difference.waitFor({ state: 'detached' });
    await difference.waitFor();
    expect(await mean()).toBeLessThan(4);
    // What the frame draws is a picture, and no even grey.
    const colours = await page
      .frameLocator('iframe')
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => {
        const copy = Object.assign(document.createElement('canvas'), { width: 40, height: 40 });
        const context = copy.getContext('2d')!;
        context.drawImage(canvas, 0, 0, 40, 40);
        return new Set(new Uint32Array(context.getImageData(0, 0, 40, 40).data.buffer)).size;
      });
    expect(colours).toBeGreaterThan(60);
    // A second time nothing is made.
    await page.getByRole('button', { name: /^Deliver \d+ files/ }).click();
    await page.getByText(/^0 of \d+ files were made/).waitFor();
  });

  it('finds what is wrong as it is edited, mends it with one click, and asks a reason for what is doubtful', async () => {
    await edit<RecipeDocument>('usual', (d) => (d.files['orm'].channels.a = { from: 'constant', value: 1 }));
    const finding = findings(page).filter({ hasText: 'alpha is 1 everywhere' });
    await finding.waitFor();
    expect(await summary()).toContain('not yet');
    expect(await page.getByRole('button', { name: /^Deliver \d+ files/ }).isDisabled()).toBeTrue();
    await finding.getByRole('button', { name: 'Leave alpha out' }).click();
    await finding.waitFor({ state: 'detached' });
    expect(await summary()).toContain('clean');
    const { body } = await until(async () => {
      const found = await api<{ body: RecipeDocument }>(served.url, '/documents/usual');
      return !found.body.files['orm'].channels.a && found;
    });
    expect(Object.keys(body.files['orm'].channels).sort()).toEqual(['b', 'g', 'r']);
    await edit<AssetDocument>('asset', (d) => (d.slots['s2'].side = 48));
    const odd = findings(page).filter({ hasText: 'gate_beam_orm.ktx2 is 48 × 48' }).first();
    await odd.waitFor();
    await odd.getByRole('button', { name: 'Accept …' }).click();
    await odd.getByRole('textbox', { name: 'Why it may leave so' }).fill('a sign, seen from afar');
    await page.keyboard.press('Enter');
    await odd.getByText('accepted: a sign, seen from afar').waitFor();
    await odd.getByRole('button', { name: 'Take back' }).click();
    await odd.getByRole('button', { name: 'Accept …' }).waitFor();
    await edit<AssetDocument>('asset', (d) => delete d.slots['s2'].side);
    await page.locator('pb-preflight-list h3', { hasText: 'clean' }).waitFor();
  });

  it('loads a bundle by itself in the stand-in, and says what is wrong with a file that is none', async () => {
    const alone = await browser.newPage();
    await alone.goto(`${served.url}/target/`);
    const broken = `${process.env['TMPDIR'] ?? '/tmp'}/no-bundle-${process.pid}.zip`;
    writeFileSync(broken, 'PK no zip');
    await alone.setInputFiles('#file', broken);
    await alone.getByText(/no ZIP that can be read/).waitFor();
    const list = await api<{ kind: string; status: string; result: { manifest: string } }[]>(served.url, '/jobs');
    let done = list.find((j) => j.kind === 'deliver' && j.status === 'done');
    if (!done) {
      const { id } = await api<{ id: string }>(served.url, '/deliveries', { targets: ['desktop'], skip: [] });
      done = await until(async () => {
        const job = await api<NonNullable<typeof done>>(served.url, `/jobs/${id}`);
        return job.status === 'done' && job;
      });
    }
    const zip = await fetch(`${served.url}/api/deliveries/${done.result.manifest}/bundle.zip`);
    const bytes = Buffer.from(await zip.arrayBuffer());
    writeFileSync(broken, bytes);
    await alone.setInputFiles('#file', broken);
    await alone.getByText(/^Gate: 2 slots/).waitFor();
    await alone.getByText('Everything was taken as it came.').waitFor();
    // One bit of a texture turned: that file is refused, and the rest is shown.
    const name = 'desktop/textures/gate_beam_orm.ktx2';
    // The manifest names it before its own place does.
    const at = bytes.indexOf(name, bytes.indexOf(name) + 1);
    bytes[at + 4000] ^= 1;
    writeFileSync(broken, bytes);
    await alone.setInputFiles('#file', broken);
    await alone.locator('li.refused', { hasText: 'gate_beam_orm.ktx2' }).first().waitFor();
    await alone.getByText(/^Gate: 2 slots/).waitFor();
    await alone.close();
  });
});
