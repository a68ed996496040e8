import { openGpuPage } from '../e2e/gpu/open-page';
import { launch } from '../e2e/browser';
import { median, ms, table, times } from './measure';

declare const pebble: { frameTime(w: number, h: number): Promise<{ ms: number[] }> };
declare const pebbleStock: { frameTime(w: number, h: number, textures: number): Promise<number[]> };

/** The blend on the specimen against the same mesh with the renderer's stock physical material and as many textures. */
export async function frames(): Promise<void> {
  const browser = await launch();
  const ours = await openGpuPage(browser);
  const stock = await openGpuPage(browser, 'bench/stock-page.ts');
  const [w, h] = [760, 372];
  const a: number[] = [];
  const b: number[] = [];
  for (let i = 0; i < 3; i++) {
    a.push(...(await ours.page.evaluate(([x, y]) => pebble.frameTime(x, y), [w, h] as const)).ms);
    b.push(...(await stock.page.evaluate(([x, y]) => pebbleStock.frameTime(x, y, 6), [w, h] as const)));
  }
  ours.close();
  stock.close();
  await browser.close();
  table(`Frame time at ${w} × ${h}, full scale (21 frames each, software rasteriser)`, [
    ['three-layer blend with its light', ms(median(a))],
    ['stock physical material, six textures and an environment', ms(median(b))],
    ['blend to stock (reach < 2.5×)', times(median(a) / median(b))],
  ]);
}
