import type { MasterDocument } from '@pebble/core';
import {
  MasterMaterials,
  NO_CONTEXT,
  cardsOf,
  emitGlsl,
  insertStep,
  layCards,
  linkTo,
  lowerMaster,
  makeMaster,
  makeOperation,
  makeRandom,
  optimise,
  valueOf,
} from '@pebble/core';
import { launch } from '../e2e/browser';
import { openGpuPage } from '../e2e/gpu/open-page';
import { median, ms, often, table, timed, times } from './measure';

const NOTHING = NO_CONTEXT;
declare const pebbleGraphs: { names: string[]; turn(which: number): Promise<{ made: number[]; hand: number[]; apart: number }> };

/** A graph as people build them: chains that branch and meet, all of it reaching the outputs. */
export function built(size: number): MasterDocument {
  const next = makeRandom(size);
  const d = makeMaster('Built');
  const two = ['add', 'multiply', 'mix', 'max', 'smoothstep'];
  for (let i = 0; i < size; i++) {
    const op = makeOperation(i % 8 === 0 ? 'noise2d' : two[Math.floor(next() * two.length)], i + 1);
    if (i % 8 !== 0) {
      const ports = op.step === 'smoothstep' ? ['in', 'high'] : op.step === 'mix' ? ['bg', 'fg', 'mix'] : ['in1', 'in2'];
      // The first input is always the one before, so that nothing lies about.
      ports.forEach((port, k) => (op.inputs[port] = linkTo(`n${k ? i - 1 - Math.floor(next() * Math.min(i, 9)) : i - 1}`)));
    } else if (i) op.inputs['period'] = linkTo(`n${i - 1}`);
    d.operations[`n${i}`] = op;
  }
  d.outputs.roughness = linkTo(`n${size - 1}`);
  d.outputs.baseColor = linkTo(`n${size - 2}`);
  return d;
}

export async function master(): Promise<void> {
  const rows: [string, string][] = [];
  for (const [size, compile, lay] of [
    [60, 30, 500],
    [300, 150, 1500],
  ] as const) {
    const d = built(size);
    const glsl = () => emitGlsl(optimise(lowerMaster(d, NOTHING).far.outputs, { hoist: true }).outputs, 'live');
    for (let i = 0; i < often(20); i++) glsl();
    rows.push([`${size} operations to GLSL (reach ≤ ${compile} ms)`, ms(await timed(31, glsl))]);
    const graph = cardsOf(d);
    rows.push([`${size} cards laid anew (reach ≤ ${lay} ms)`, ms(await timed(15, () => layCards(graph)))]);
    const places = layCards(graph);
    const more = JSON.parse(JSON.stringify(d)) as MasterDocument;
    insertStep(more, { operation: `n${size >> 1}`, port: Object.keys(more.operations[`n${size >> 1}`].inputs)[0] }, 'clamp', 'new');
    const after = cardsOf(more);
    rows.push([`${size} cards after one was put between`, ms(await timed(31, () => layCards(after, places)))]);
    const materials = new MasterMaterials();
    materials.of(d, NOTHING);
    let turned = 0;
    const turn = () => {
      d.operations['n2'].inputs['in2'] = valueOf((turned += 0.001));
      return materials.of(d, NOTHING).values;
    };
    turn();
    const before = materials.lowered;
    rows.push([`a number turned among ${size} operations: key and values`, ms(await timed(101, turn))]);
    if (materials.lowered !== before) throw new Error('A number that was turned lowered the graph anew');
  }
  table('Masters on the processor (medians)', rows);
  await shaders();
}

/** Code that is made of a graph against the same written by hand. */
async function shaders(): Promise<void> {
  const browser = await launch();
  const opened = await openGpuPage(browser, 'bench/graph-page.ts');
  const names = await opened.page.evaluate(() => pebbleGraphs.names);
  const ratios: number[] = [];
  const rows: [string, string][] = [];
  for (let which = 0; which < names.length; which++) {
    const own: number[] = [];
    let apart = 0;
    const [made, hand]: [number[], number[]] = [[], []];
    for (let i = 0; i < often(7); i++) {
      const turn = await opened.page.evaluate((w) => pebbleGraphs.turn(w), which);
      made.push(...turn.made);
      hand.push(...turn.hand);
      own.push(median(turn.made) / median(turn.hand));
      apart = Math.max(apart, turn.apart);
    }
    ratios.push(median(own));
    rows.push([`${names[which]} (${ms(median(made))} to ${ms(median(hand))}, ${apart} of 255 apart)`, times(median(own))]);
  }
  opened.close();
  await browser.close();
  rows.push(['median (reach ≤ 1.1×)', times(median(ratios))]);
  table('Generated code to code written by hand, 640 × 400 (seven turns of five frames, by turns, software rasteriser)', rows);
}
