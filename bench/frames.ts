import { openGpuPage } from '../e2e/gpu/open-page';
import { launch } from '../e2e/browser';
import { median, ms, often, table, times } from './measure';

interface Timed {
  ms: number[];
  triangles: number;
  filled: number;
}
declare const pebble: { frameTime(w: number, h: number, layers?: number, metres?: number | null): Promise<Timed> };
declare const pebbleStock: { frameTime(w: number, h: number, textures: number): Promise<number[]> };

/** A blend of three layers looks into twelve; more than ten the stock material takes only with further lobes of light. */
const STOCK_MAPS = 10;

/** The blend on the specimen against the same mesh with the renderer's stock physical material and as many textures. */
export async function frames(): Promise<void> {
  const browser = await launch();
  const ours = await openGpuPage(browser);
  const stock = await openGpuPage(browser, 'bench/stock-page.ts');
  const [w, h] = [760, 372];
  const a: number[] = [];
  const b: number[] = [];
  const ratios: number[] = [];
  for (let i = 0; i < often(9); i++) {
    const mine = (await ours.page.evaluate(([x, y]) => pebble.frameTime(x, y), [w, h] as const)).ms;
    const theirs = await stock.page.evaluate(([x, y, n]) => pebbleStock.frameTime(x, y, n), [w, h, STOCK_MAPS] as const);
    a.push(...mine);
    b.push(...theirs);
    ratios.push(median(mine) / median(theirs));
  }
  const many = { eight: [] as number[], sixteen: [] as number[], ratios: [] as number[] };
  for (let i = 0; i < often(5); i++) {
    const [eight, sixteen] = [
      await ours.page.evaluate(() => pebble.frameTime(640, 400, 8)),
      await ours.page.evaluate(() => pebble.frameTime(640, 400, 16)),
    ];
    many.eight.push(...eight.ms);
    many.sixteen.push(...sixteen.ms);
    many.ratios.push(median(sixteen.ms) / median(eight.ms));
  }
  const ground = await onGround((metres) => ours.page.evaluate((m) => pebble.frameTime(1280, 400, 3, m), metres));
  ours.close();
  stock.close();
  await browser.close();
  table(`Frame time at ${w} × ${h}, full scale (nine turns of seven frames each, by turns, software rasteriser)`, [
    ['three-layer blend with its light', ms(median(a))],
    [`stock physical material, ${STOCK_MAPS} textures and an environment`, ms(median(b))],
    ['blend to stock (reach < 2.5×)', `${times(median(ratios))} (${times(Math.min(...ratios))} to ${times(Math.max(...ratios))})`],
  ]);
  table('Frame time at 640 × 400 by layers (five turns of seven frames each, by turns)', [
    ['eight layers', ms(median(many.eight))],
    ['sixteen layers', ms(median(many.sixteen))],
    ['sixteen to eight (reach ≤ 2.2×)', `${times(median(many.ratios))} (${times(Math.min(...many.ratios))} to ${times(Math.max(...many.ratios))})`],
  ]);
  table('Frame time at 1280 × 400 of one blend on the patch and on the hillside (two turns of seven frames each, by turns)', ground);
}

/** Metres from which the hillside is looked at. */
const METRES = [3, 30, 600];
/** The same blend on the hillside, from near and far, against that on the patch. */
async function onGround(time: (metres: number | null) => Promise<Timed>): Promise<[string, string][]> {
  const patch: number[] = [];
  const told = METRES.map(() => ({ ms: [] as number[], ratios: [] as number[], say: '' }));
  let flat = { filled: 0 };
  for (let i = 0; i < often(2); i++) {
    const before = (flat = await time(null)) as Timed;
    patch.push(...before.ms);
    for (const [k, metres] of METRES.entries()) {
      const { ms: mine, triangles, filled } = await time(metres);
      told[k].ms.push(...mine);
      told[k].ratios.push(median(mine) / median(before.ms));
      told[k].say = `from ${metres} m: ${triangles.toLocaleString('en')} triangles over ${Math.round(100 * filled)} % of it`;
    }
  }
  return [
    [`on the patch, which lies over ${Math.round(100 * flat.filled)} % of the picture`, ms(median(patch))],
    ...told.map(({ say, ms: own, ratios }): [string, string] => [
      `on the hillside ${say} (reach ≤ 2×)`,
      `${ms(median(own))}, ${times(median(ratios))}`,
    ]),
  ];
}
