// What flows do with the stage of the blend view.
import type { Page } from 'playwright-core';

interface OnPage {
  pebbleStage?: { ready: boolean; settled(): Promise<void> };
}

/** Once the stage shows the blend itself. */
export const stageReady = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => (document.querySelector('[data-testid=stage]') as OnPage | null)?.pebbleStage?.ready);

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
