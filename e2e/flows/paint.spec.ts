import type { History } from '@pebble/contracts';
import type { Cue, DocumentOf } from '@pebble/core';
import { until } from '../../apps/server/spec/harness';
import type { Flow } from '../flow';
import { inBrowser } from '../flow';
import { api, saved } from '../harness';
import { atSpecimen, stageDrawn, stageReady, stageResting } from '../on-stage';

type Blend = DocumentOf<'blend'>;
const GROUND = 'hillside-ground';

describe('Paint', () => {
  let { served, page } = {} as Flow;
  inBrowser(async (flow) => {
    ({ served, page } = flow);
    await page.goto(`${served.url}/paint/${GROUND}`);
    await stageReady(page);
  });

  const stored = async () => api<{ version: number; body: Blend }>(served.url, `/documents/${GROUND}`);
  const label = async () => (await api<History>(served.url, `/documents/${GROUND}/history`)).undo;
  const cueOf = async (layer: string, which: (cue: Cue) => boolean) => Object.values((await stored()).body.layers[layer].coverage).find(which);
  const pictureOf = async (layer: string) => {
    const cue = await cueOf(layer, (c) => c.kind === 'painted');
    return cue?.kind === 'painted' ? cue.picture : null;
  };
  const ready = () => page.getByText('Drag on it to paint, beside it to turn it.').waitFor();
  const take = async (name: RegExp) => {
    await page.getByRole('radio', { name }).click();
    await ready();
  };
  const drag = async (from: [number, number], to: [number, number], steps = 10, pause = 0) => {
    await page.mouse.move(...(await atSpecimen(page, ...from)));
    await page.mouse.down();
    for (let k = 1; k <= steps; k++) {
      const along = (a: number, b: number) => a + ((b - a) * k) / steps;
      await page.mouse.move(...(await atSpecimen(page, along(from[0], to[0]), along(from[1], to[1]))));
      if (pause) await page.waitForTimeout(pause);
    }
  };
  /** Bytes of a mask, white to black, as a mean. */
  const mean = (picture: string | null) =>
    page.evaluate(async (hash) => {
      const image = await createImageBitmap(await (await fetch(`/api/blobs/${hash}`)).blob());
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
      context.drawImage(image, 0, 0);
      const { data } = context.getImageData(0, 0, image.width, image.height);
      let sum = 0;
      for (let i = 0; i < data.length; i += 4) sum += data[i];
      return sum / (data.length / 4);
    }, picture);

  it('has the first mask that lies on the mesh at hand', async () => {
    await page.getByRole('radio', { name: /^Paint Fallen leaves/, checked: true }).waitFor();
    await ready();
  });
  it('lays a stroke on the terrain itself, a step that can be undone, with the picture by what was painted', async () => {
    await take(/^Paint Gravel path/);
    const before = await pictureOf('path');
    const was = await mean(before);
    await drag([0.47, 0.55], [0.57, 0.6]);
    await page.mouse.up();
    await until(async () => (await label()) === 'Gravel path: paint its mask');
    const after = await pictureOf('path');
    expect(after).not.toBe(before);
    expect(await mean(after)).toBeGreaterThan(was + 0.1);
    await saved(page);
    await page.getByRole('button', { name: 'Undo' }).click();
    await until(async () => (await pictureOf('path')) === before);
    await ready();
  });
  it('is painted with a pen by how hard it presses; what it painted before it went out of reach stays', async () => {
    await take(/^Paint Gravel path/);
    const session = await page.context().newCDPSession(page);
    await page.evaluate(() => addEventListener('pointerdown', (e) => Object.assign(window, { pen: e.pointerId }), true));
    const pen = async (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', x: number, y: number, force: number) => {
      const [px, py] = await atSpecimen(page, x, y);
      const pressed = { button: 'left', buttons: 1, clickCount: 1 } as const;
      await session.send('Input.dispatchMouseEvent', { type, x: px, y: py, pointerType: 'pen', force, ...pressed });
    };
    /** What a stroke brings with a pressure, undone again. */
    const brought = async (force: number, end: () => Promise<unknown>) => {
      const [before, steps] = [await pictureOf('path'), (await stored()).version];
      await pen('mousePressed', 0.49, 0.5, force);
      for (let k = 1; k <= 8; k++) await pen('mouseMoved', 0.49 + 0.005 * k, 0.5, force);
      await end();
      await until(async () => (await stored()).version > steps);
      expect(await label()).toBe('Gravel path: paint its mask');
      const more = (await mean(await pictureOf('path'))) - (await mean(before));
      await saved(page);
      await page.getByRole('button', { name: 'Undo' }).click();
      await until(async () => (await pictureOf('path')) === before);
      await ready();
      return more;
    };
    const released = () => pen('mouseReleased', 0.53, 0.5, 0);
    const hard = await brought(1, released);
    const soft = await brought(0.3, released);
    expect(hard).toBeGreaterThan(0.05);
    expect(soft).toBeGreaterThan(0.1 * hard);
    expect(soft).toBeLessThan(0.6 * hard);
    // Out of reach in the middle of a stroke: the browser cancels the pointer.
    const cut = await brought(1, async () => {
      await page.waitForTimeout(500);
      await page.evaluate(() =>
        dispatchEvent(new PointerEvent('pointercancel', { pointerId: (window as never as { pen: number }).pen, pointerType: 'pen' })),
      );
    });
    expect(Math.abs(cut - hard)).toBeLessThan(0.1 * hard);
    await released();
    await session.detach();
  });
  it('paints only where a sentence says, and says what it cannot read', async () => {
    await take(/^Paint Gravel path/);
    const field = page.getByRole('textbox', { name: /^Only where/ });
    await field.fill('slope over the moon');
    await field.press('Enter');
    await page.getByRole('alert').waitFor();
    await field.fill('altitude above 5000 m');
    await field.press('Enter');
    await page.getByRole('button', { name: 'everywhere' }).waitFor();
    const before = await pictureOf('path');
    const version = (await stored()).version;
    await drag([0.47, 0.5], [0.52, 0.52]);
    await page.mouse.up();
    // No place is as high: whatever is kept of it is what was there.
    await page.waitForTimeout(300);
    await saved(page);
    expect(await mean(await pictureOf('path'))).toBe(await mean(before));
    expect((await stored()).version - version).toBeLessThanOrEqual(1);
    await page.getByRole('button', { name: 'everywhere' }).click();
    await ready();
  });
  it('brings a stroke back that a reload cut off, as far as it was kept', async () => {
    await take(/^Paint Gravel path/);
    const before = await mean(await pictureOf('path'));
    await drag([0.5, 0.4], [0.56, 0.45], 14, 60);
    await page.waitForFunction(() => sessionStorage.getItem('pebble-open-mask') !== null);
    await page.reload();
    await page.mouse.up();
    await until(async () => (await label()) === 'Gravel path: paint its mask, as far as it was kept');
    expect(await mean(await pictureOf('path'))).toBeGreaterThan(before + 0.05);
    await stageReady(page);
  });
  it('paints over a rule: nothing changes until then, and erasing takes the layer away there', async () => {
    await page.getByRole('button', { name: 'New mask for Cushion moss' }).click();
    await page.getByRole('menuitem', { name: /^Paint over its rule, on the mesh/ }).click();
    await until(async () => (await cueOf('moss', (c) => c.join === 'corrected')) !== undefined && (await pictureOf('moss')) !== null);
    await ready();
    const even = await mean(await pictureOf('moss'));
    expect(even).toBe(128);
    await page.getByRole('radio', { name: 'erase' }).click();
    await drag([0.47, 0.72], [0.55, 0.74]);
    await page.mouse.up();
    await until(async () => (await label()) === 'Cushion moss: erase from its mask');
    expect(await mean(await pictureOf('moss'))).toBeLessThan(even);
    await page.getByRole('radio', { name: 'add', exact: true }).click();
  });
  it('adds a layer to a ground in use without changing a pixel, and says where it arrived', async () => {
    const before = await stageDrawn(page);
    await page.getByRole('button', { name: 'Layer', exact: true }).click();
    await page.getByRole('menuitem', { name: /^Lime plaster/ }).click();
    await page.getByText(/Lime plaster is there at weight zero: on Orrin Ridge hillside/).waitFor();
    await page.getByRole('radio', { name: /^Paint Lime plaster/ }).waitFor();
    await ready();
    expect(await stageDrawn(page)).toBe(before);
    expect(await label()).toBe('Add Lime plaster at weight zero');
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('radio', { name: /^Paint Lime plaster/ }).waitFor({ state: 'detached' });
  });
  it('counts what tiles draw, and relieves those that draw too much: one step, undone at once', async () => {
    // They are counted anew after what was done before.
    await page.locator('button:enabled', { hasText: 'Resolve' }).waitFor();
    const over = Number((await page.getByTestId('tiles-over').innerText()).split(' ')[0]);
    expect(over).toBeGreaterThan(0);
    await page.getByRole('button', { name: 'Resolve' }).click();
    await page.getByTestId('tiles-fine').waitFor();
    expect(await label()).toMatch(/^Resolve \d+ tiles$/);
    expect(await page.getByRole('list', { name: 'What was resolved' }).innerText()).toMatch(/without .+: \d+\.\d\d % changed/);
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByTestId('tiles-over').waitFor();
    expect(Number((await page.getByTestId('tiles-over').innerText()).split(' ')[0])).toBe(over);
  });
  it('shows tiles by their layers on the stage, and stands near, some way off and over all of it by keys', async () => {
    const plain = await stageResting(page);
    await page.getByRole('button', { name: 'on the stage' }).click();
    const heat = await stageResting(page);
    expect(heat.picture).not.toBe(plain.picture);
    await page.getByRole('button', { name: 'on the stage' }).click();
    const seen = new Set<string>();
    for (const key of ['Shift+Digit1', 'Shift+Digit2', 'Shift+Digit3']) {
      await page.keyboard.press(key);
      seen.add((await stageResting(page)).picture);
    }
    expect(seen.size).toBe(3);
  });
});
