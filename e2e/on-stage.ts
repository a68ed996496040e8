// What flows do with the stage of the blend view.
import type { Orbit, SpecimenName } from '@pebble/core';
import { Bvh, SPECIMEN_MODELS, clipMatrix, eyeOf, numbered, partOf, rayThrough } from '@pebble/core';
import { vec4 } from 'gl-matrix';
import type { Locator, Page } from 'playwright-core';
import { until } from '../apps/server/spec/harness';

interface OnPage {
  pebbleStage?: { ready: boolean; looked: string; compiles: number; settled(): Promise<void> };
}

/** Once the stage shows the blend itself. */
export const stageReady = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => (document.querySelector('[data-testid=stage]') as OnPage | null)?.pebbleStage?.ready);

/** What the stage shows, once it has come to rest, and how many programs that took. @param of the part that is looked at */
export async function stageShown(page: Page, of: Locator = page.getByTestId('stage')): Promise<{ picture: string; compiles: number }> {
  const compiles = await page.evaluate(async () => {
    const stage = (document.querySelector('[data-testid=stage]') as OnPage).pebbleStage!;
    // What was asked goes over with the next turn of the page, and is on show some turns after it was drawn.
    for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
    await stage.settled();
    for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
    return stage.compiles;
  });
  const picture = await of.screenshot();
  return { picture: picture.toString('base64'), compiles };
}
/** What the stage has drawn, without anything that lies over it, once nothing finer is on its way: a digest of its pixels. */
export async function stageDrawn(page: Page): Promise<string> {
  await stageResting(page);
  return page.evaluate(async () => {
    const canvas = document.querySelector('[data-testid=stage]') as HTMLCanvasElement;
    const copy = new OffscreenCanvas(canvas.width, canvas.height).getContext('2d')!;
    copy.drawImage(canvas, 0, 0);
    const digest = await crypto.subtle.digest('SHA-256', copy.getImageData(0, 0, canvas.width, canvas.height).data);
    return [...new Uint8Array(digest)].map((v) => v.toString(16).padStart(2, '0')).join('');
  });
}
/** What it shows once that is another picture: what a worker drew comes to the screen in its own time. */
export const stageAnother = (page: Page, than: string, of?: Locator) =>
  until(async () => {
    const now = await stageShown(page, of);
    return now.picture !== than && now;
  });

/** What it shows once nothing finer is on its way: twice the same, a second apart. */
export const stageResting = (page: Page, of?: Locator) =>
  until(async () => {
    const now = await stageShown(page, of);
    await page.waitForTimeout(1000);
    return (await stageShown(page, of)).picture === now.picture && now;
  });

/** A place on the page, by shares of the picture of the specimen. */
export const atSpecimen = async (page: Page, x: number, y: number): Promise<[number, number]> => {
  const box = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  return [box.x + box.width * x, box.y + box.height * y];
};

/** rgba of a place of the specimen's picture once the stage is at rest. */
export const stagePixel = async (page: Page, x: number, y: number): Promise<number[]> => {
  await page.evaluate(async () => {
    await (document.querySelector('[data-testid=stage]') as OnPage).pebbleStage?.settled();
    for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
  });
  const box = (await page.getByTestId('stage').boundingBox())!;
  const [px, py] = await atSpecimen(page, x, y);
  return page.evaluate(
    ([sx, sy]) => {
      const canvas = document.querySelector('[data-testid=stage]') as HTMLCanvasElement;
      const copy = Object.assign(document.createElement('canvas'), { width: canvas.width, height: canvas.height });
      const context = copy.getContext('2d')!;
      context.drawImage(canvas, 0, 0);
      return [...context.getImageData(Math.round(sx * canvas.width), Math.round(sy * canvas.height), 1, 1).data];
    },
    [(px - box.x) / box.width, (py - box.y) / box.height],
  );
};

/** How far around a place the same part must be seen, in shares of the picture. */
const AROUND = 0.008;
/**
 * A place of the picture, in shares of it, at which a part of one of our own specimens is seen, with as much of that part
 * around it as there can be: wherever somebody framed it. @throws Error where none of it is seen
 */
export async function seenPart(page: Page, name: SpecimenName, part: string): Promise<[number, number]> {
  const parts = SPECIMEN_MODELS[name](1).lods[0];
  const mesh = numbered(parts.map((p) => p.mesh));
  const wanted = parts.findIndex((p) => p.name === part);
  const box = (await page.getByRole('application', { name: /^Specimen/ }).boundingBox())!;
  const aspect = box.width / box.height;
  const { orbit } = JSON.parse(await page.evaluate(() => (document.querySelector('[data-testid=stage]') as OnPage).pebbleStage!.looked)) as {
    orbit: Orbit;
  };
  const [tree, matrix, eye] = [new Bvh(mesh), clipMatrix(orbit, aspect), [...eyeOf(orbit)] as [number, number, number]];
  const seen = (x: number, y: number) => {
    const met = tree.first(eye, rayThrough(orbit, aspect, x, y));
    return met !== null && partOf(mesh, mesh.index[met.triangle * 3]) === wanted;
  };
  const found: { at: [number, number]; around: number }[] = [];
  for (let t = 0; t < mesh.index.length; t += 3 * 7) {
    if (partOf(mesh, mesh.index[t]) !== wanted) continue;
    const middle = [0, 1, 2].map((c) => [0, 1, 2].reduce((sum, k) => sum + mesh.position[mesh.index[t + k] * 3 + c] / 3, 0));
    const [cx, cy, , w] = vec4.transformMat4(vec4.create(), [middle[0], middle[1], middle[2], 1], matrix);
    const [x, y] = [(cx / w + 1) / 2, (1 - cy / w) / 2];
    if (!seen(x, y)) continue;
    let around = 0;
    for (const r of [1, 2, 4, 8]) for (let k = 0; k < 8; k++) around += Number(seen(x + AROUND * r * Math.cos(k), y + AROUND * r * Math.sin(k)));
    found.push({ at: [x, y], around });
  }
  found.sort((a, b) => b.around - a.around);
  // Bars may lie over some of it.
  const free = await page.evaluate(
    (points) =>
      points.findIndex(([x, y]) =>
        document.elementFromPoint(x, y)?.closest('[role=application]')?.getAttribute('aria-label')?.startsWith('Specimen'),
      ),
    found.map(({ at }) => [box.x + box.width * at[0], box.y + box.height * at[1]]),
  );
  if (free < 0) throw new Error(`${part} of ${name} is not seen`);
  return found[free].at;
}
