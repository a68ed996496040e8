import type { History } from '@pebble/contracts';
import type { AssetDocument, DocumentOf } from '@pebble/core';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api } from '../harness';
import { atSpecimen, stageDrawn, stagePixel, stageReady } from '../on-stage';

type Surface = DocumentOf<'surface'>;
const ASSET = 'finished-still';
/** A place on the belly of the still, in shares of the picture of it. */
const BELLY = [0.48, 0.52] as const;

describe('Stamps', () => {
  let { served, page } = {} as Flow;
  inBrowser(async (flow) => {
    ({ served, page } = flow);
    await page.goto(`${served.url}/paint/${ASSET}`);
    await ready();
  });
  const ready = async () => {
    await stageReady(page);
    await page.getByText('free at runtime').waitFor();
    await until(async () => (await page.getByText(/^Reading the (maps|mesh)/).count()) === 0);
  };
  const surface = async (id: string) => (await api<{ body: Surface }>(served.url, `/documents/${id}`)).body;
  const stampsOf = async (id: string) => Object.values((await surface(id)).stamped?.stamps ?? {});
  const worn = async () => Object.values((await api<{ body: AssetDocument }>(served.url, `/documents/${ASSET}`)).body.slots).map((s) => s.blend);
  const count = async () => Number(/\d+/.exec((await page.getByTestId('stamps').textContent()) ?? '')?.[0]);
  const press = async (x: number, y: number) => {
    await page.mouse.move(...(await atSpecimen(page, x, y)));
    await page.mouse.down();
    await page.mouse.up();
  };
  const allKept = () => until(async () => !/to be kept|pressing/.test((await page.getByTestId('stamps').textContent()) ?? ''));
  /** All slots wear a surface. */
  const wears = async (id: string) => {
    const now = await api<{ version: number; body: AssetDocument }>(served.url, `/documents/${ASSET}`);
    const wear = (to: (slot: AssetDocument['slots'][string]) => string) =>
      Object.entries(now.body.slots).map(([k, slot]) => ({ op: 'replace', path: `/slots/${k}/blend`, value: to(slot) }));
    await api(served.url, `/documents/${ASSET}/edits`, {
      opId: crypto.randomUUID(),
      baseVersion: now.version,
      label: 'Back to what it was',
      patch: wear(() => id),
      inverse: wear((slot) => slot.blend),
    });
  };
  const apart = (a: readonly number[], b: readonly number[]) => Math.max(...[0, 1, 2].map((c) => Math.abs(a[c] - b[c])));

  /** The colour of the belly once it is another, twice the same. */
  const another = (than: readonly number[]) =>
    until(async () => {
      const now = await stagePixel(page, ...BELLY);
      return apart(now, than) > 12 && apart(now, await stagePixel(page, ...BELLY)) === 0 && now;
    });
  /** Once it is that again. */
  const again = (seen: readonly number[]) => until(async () => apart(await stagePixel(page, ...BELLY), seen) <= 3);

  it('are seen at once, pressed at full size when the hand rests, and what was seen is what is kept', async () => {
    await page.getByRole('radio', { name: 'Lime plaster' }).click();
    const [before, maps] = [await stagePixel(page, ...BELLY), (await surface('still-stamped')).maps];
    await press(...BELLY);
    await until(async () => (await count()) === 5);
    const seen = await another(before);
    await allKept();
    await until(async () => (await stampsOf('still-stamped')).length === 5);
    const made = await surface('still-stamped');
    for (const role of ['baseColor', 'normal', 'roughness', 'height'] as const) expect(made.maps[role]!.blob).not.toBe(maps[role]!.blob);
    expect(made.stamped!.made.stamps).toBe(5);
    await until(async () => (await page.getByTestId('stamps').textContent())?.trim() === '5 stamps');
    await again(seen);
    // After a reload it is the server's own maps that are seen.
    await page.reload();
    await ready();
    await again(seen);
  });
  it('are taken back: the last by undo, any by itself', async () => {
    expect((await api<History>(served.url, '/documents/still-stamped/history')).undo).toBe('1 stamp on Copper still, stamped');
    await page.getByRole('button', { name: 'Undo', disabled: false }).click();
    await until(async () => (await stampsOf('still-stamped')).length === 4 && (await count()) === 4);
    await page
      .getByRole('button', { name: /^Take away the stamp of Cushion moss/ })
      .first()
      .click();
    await until(async () => (await count()) === 3);
    await allKept();
    await until(async () => (await stampsOf('still-stamped')).length === 3);
    // One that the server does not have yet goes before any step.
    await press(...BELLY);
    await until(async () => (await count()) === 4);
    await page.keyboard.press('Control+z');
    await until(async () => (await count()) === 3);
    expect((await stampsOf('still-stamped')).length).toBe(3);
  });
  it('follow a drag, turned by chance, and a press beside the mesh turns it', async () => {
    for (const [name, value] of [
      [/^Turned by chance/, '90'],
      [/^Radii from one stamp/, '0.3'],
    ] as const) {
      await page.getByRole('spinbutton', { name }).press('Enter');
      await page.keyboard.type(value);
      await page.keyboard.press('Enter');
    }
    const before = await count();
    await page.mouse.move(...(await atSpecimen(page, 0.43, 0.5)));
    await page.mouse.down();
    // A quick hand: two reports of the pointer, and stamps as close as from a slow one.
    await page.mouse.move(...(await atSpecimen(page, 0.53, 0.5)));
    await page.mouse.up();
    await until(async () => (await count()) >= before + 3);
    await allKept();
    const turns = (
      await until(async () => {
        const all = await stampsOf('still-stamped');
        return all.length === (await count()) && all;
      })
    )
      .slice(before)
      .map((s) => s.turn);
    expect(new Set(turns.map((t) => t.toFixed(3))).size).toBe(turns.length);
    turns.forEach((t) => expect(Math.abs(t)).toBeLessThanOrEqual(Math.PI / 2));
    const laid = (await stampsOf('still-stamped')).sort((a, b) => a.order - b.order).slice(before);
    const steps = laid.slice(1).map((s, i) => Math.hypot(...s.at.map((v, c) => v - laid[i].at[c])));
    // Three tenths of a radius apart, and at most a little more.
    steps.forEach((step) => {
      expect(step).toBeGreaterThanOrEqual(0.3 * laid[0].radiusM - 1e-6);
      expect(step).toBeLessThan(0.6 * laid[0].radiusM);
    });
    const [there, drawn] = [await count(), await stageDrawn(page)];
    const [x, y] = await atSpecimen(page, 0.06, 0.5);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 60, y, { steps: 6 });
    await page.mouse.up();
    await until(async () => (await stageDrawn(page)) !== drawn);
    expect(await count()).toBe(there);
    await page.keyboard.press('f');
  });
  it('that a reload cut off go on', async () => {
    const before = await count();
    await press(0.47, 0.42);
    await until(async () => (await count()) === before + 1);
    await page.reload();
    await ready();
    await until(async () => (await stampsOf('still-stamped')).length === before + 1);
    await allKept();
  });
  it('go to the server when one leaves at once, and are there for whoever comes back', async () => {
    const before = await count();
    await press(0.49, 0.46);
    await until(async () => (await count()) === before + 1);
    await page.getByRole('link', { name: 'Pack' }).click();
    await page.waitForURL(/pack/);
    await until(async () => (await stampsOf('still-stamped')).length === before + 1);
    await page.goto(`${served.url}/paint/${ASSET}`);
    await ready();
    await allKept();
    expect(await count()).toBe(before + 1);
    expect((await stampsOf('still-stamped')).length).toBe(before + 1);
  });
  it('go into a surface of their own the first time, which all slots wear that wore the one below', async () => {
    await wears('still-finished');
    await until(async () => (await count()) === 0);
    await ready();
    const base = (await surface('still-finished')).maps;
    await press(...BELLY);
    await until(async () => new Set(await worn()).size === 1 && !(await worn()).includes('still-finished'));
    const [id] = await worn();
    expect(id).not.toBe('still-stamped');
    expect((await surface(id)).stamped).toEqual(jasmine.objectContaining({ on: 'still-finished', uvSet: 0 }) as never);
    expect((await surface('still-finished')).maps).toEqual(base);
    await allKept();
    await until(async () => (await count()) === 1);
  });
  it('of a surface that is deleted stay until they are taken away, which is asked first', async () => {
    const [id] = await worn();
    const [{ surface: pressed }] = await stampsOf(id);
    expect((await fetch(`${served.url}/api/documents/${pressed}`, { method: 'DELETE' })).ok).toBeTrue();
    await page.getByText('1 of its stamps are of a surface that was deleted').waitFor();
    await press(0.47, 0.42);
    await page.waitForTimeout(500);
    expect(await count()).toBe(1);
    await page.getByRole('button', { name: 'Take them away' }).click();
    await until(async () => (await stampsOf(id)).length === 0);
    await allKept();
  });
  it('lie beside normals that the mesh turns along its axes, and back', async () => {
    const normal = async () => (await surface('still-finished')).maps.normal!;
    await wears('still-finished');
    await page.goto(`${served.url}/surfaces?asset=${ASSET}`);
    await stageReady(page);
    const turn = page.getByRole('combobox', { name: 'Normals' });
    await turn.selectOption('object');
    await until(async () => (await normal()).space === 'object');
    await turn.getByRole('option', { name: 'normals along the object' }).waitFor({ state: 'attached' });
    await turn.selectOption('tangent');
    await until(async () => (await normal()).space === undefined);
    await page.goto(`${served.url}/paint/${ASSET}`);
    await ready();
  });
  it('are refused where nothing could take them, with the reason', async () => {
    await page.getByRole('button', { name: 'What is painted on' }).click();
    await page.getByRole('menuitem', { name: /^Copper still, whole/ }).click();
    await page.getByText(/wears no finished surface\. Bake a blend onto the mesh/).waitFor();
    await page.getByRole('link', { name: 'See it in Surfaces' }).waitFor();
  });
});
