// Runs in the browser: a picture that rests, against the same drawn many times as large.
import { computeLight, makeFlat, SKIES, NO_SLOTS } from '@pebble/core';
import { Stage } from '@pebble/stage';
import { halves, plain } from './piece-cases';
import { PANE, bare, lookOf, pixels } from './stage-page';

const SIDE = 48;
/** Pixels of the large picture along one of the small. */
const TIMES = 8;
/** How long the mean may take. */
const PATIENCE_MS = 20_000;

const orbit = { yaw: 0.31, pitch: Math.PI / 2 - 1e-3, distance: 6, target: [0, 0, 0] as [number, number, number], field: 0.45 };

async function picture(side: number, smooth: boolean): Promise<Uint8Array> {
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = PANE;
  stage.look = lookOf({ channel: 'baseColor', orbit, smooth });
  stage.setSpecimen(halves(), makeFlat(1, 2));
  stage.setOthers(
    [[0, 6]],
    [{ key: 'other', program: bare(plain([0, 1, 0])), values: {}, slots: NO_SLOTS, spans: [[6, 6]], perMetre: 1, parallax: false, colours: null }],
  );
  await new Promise<void>((resolve) => {
    stage.onFrame = ({ scale, pending }) => scale === 1 && !pending && resolve();
    stage.setProgram({ program: bare(plain([1, 0, 0])), values: {}, slots: NO_SLOTS });
    stage.draw();
  });
  const { smooth: mean } = stage as unknown as { smooth: { count: number } };
  for (const began = performance.now(); smooth && mean.count < 4; await new Promise((r) => setTimeout(r, 20)))
    if (performance.now() - began > PATIENCE_MS) throw new Error(`Only ${mean.count} pictures are in the mean`);
  const all = pixels(stage.gl, side, side);
  stage.dispose();
  return all;
}

/** How far pictures are from the large one, brought down: as they are drawn, and smoothed; and where the large one is even. */
export async function smoothed(): Promise<{ plain: number; smooth: number; even: number }> {
  const large = await picture(SIDE * TIMES, false);
  const [rough, fine] = [await picture(SIDE, false), await picture(SIDE, true)];
  let [ofPlain, ofSmooth, even] = [0, 0, 0];
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++)
      for (let c = 0; c < 3; c++) {
        let [sum, least, most] = [0, 255, 0];
        for (let j = 0; j < TIMES; j++)
          for (let i = 0; i < TIMES; i++) {
            const v = large[((y * TIMES + j) * SIDE * TIMES + x * TIMES + i) * 4 + c];
            [sum, least, most] = [sum + v, Math.min(least, v), Math.max(most, v)];
          }
        const at = (y * SIDE + x) * 4 + c;
        if (least === most) even = Math.max(even, Math.abs(fine[at] - least));
        else {
          ofPlain += Math.abs(rough[at] - sum / TIMES ** 2);
          ofSmooth += Math.abs(fine[at] - sum / TIMES ** 2);
        }
      }
  return { plain: ofPlain, smooth: ofSmooth, even };
}
