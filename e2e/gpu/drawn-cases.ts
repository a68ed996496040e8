// Runs in the browser: how materials go over what is behind them, and what light that enters them does.
import type { DrawnAs } from '@pebble/core';
import { Builder, NO_SLOTS, SKIES, computeLight, emitGlsl, frameOrbit, makeFlat, makeSpecimen } from '@pebble/core';
import { LIGHT_UNITS, Stage } from '@pebble/stage';
import { PANE, bare, lookOf, pixels, settled } from './stage-page.js';

const SIDE = 48;
export interface DrawnCases {
  /** Red, green and blue in the middle of a card, of nothing behind it, and of what is drawn as it is told. */
  solid: number[];
  behind: number[];
  glass: number[];
  additive: number[];
  kept: number[];
  cut: number[];
  /** Pixels that differ between no light entering and all of it, where it may not, and where it may. */
  opaque: number;
  through: number;
}

export async function drawnCases(): Promise<DrawnCases> {
  const canvas = Object.assign(document.createElement('canvas'), { width: SIDE, height: SIDE });
  const stage = new Stage(canvas, computeLight(SKIES.noon, 32, 16, 64));
  stage.panes = PANE;
  stage.look = lookOf({ orbit: { ...frameOrbit(2), target: [0, 0.5, 0], yaw: 0.3, pitch: 0, distance: 2.6 }, exposure: 0.35 });
  stage.setSpecimen(makeSpecimen('upright-card', 1), makeFlat(1, 2));
  const b = new Builder();
  const base = {
    baseColor: b.constant(0.5, 0.3, 0.2),
    normal: b.constant(0, 0, 1),
    roughness: b.constant(0.6),
    occlusion: b.constant(1),
    metallic: b.constant(0),
    height: b.constant(0),
    specular: b.constant(0.5),
    identity: b.constant(1, 1, 1),
  };
  const show = async (as: DrawnAs, values: Record<string, number[]>, more: object): Promise<Uint8Array> => {
    const done = settled(stage);
    const program = { ...bare(emitGlsl({ ...base, ...more }, 'live', LIGHT_UNITS)), drawn: { as, cut: 0.5 } };
    stage.setProgram({ program, values, slots: NO_SLOTS });
    await done;
    return pixels(stage.gl, SIDE, SIDE);
  };
  const at = (picture: Uint8Array, x: number, y: number) => [...picture.slice((y * SIDE + x) * 4, (y * SIDE + x) * 4 + 3)];
  const middle = (picture: Uint8Array) => at(picture, SIDE / 2, SIDE / 2);
  const seen = { opacity: b.value('cover'), emissive: b.multiply(b.constant(0.05, 0.02, 0.01), b.value('glow')) };
  const solid = await show('solid', { cover: [1], glow: [1] }, seen);
  const [glass, additive] = [await show('glass', { cover: [0.25], glow: [1] }, seen), await show('additive', { cover: [0.25], glow: [1] }, seen)];
  const [kept, cut] = [await show('cut-out', { cover: [0.6], glow: [1] }, seen), await show('cut-out', { cover: [0.4], glow: [1] }, seen)];
  const apart = (p: Uint8Array, q: Uint8Array) => p.reduce((n, v, i) => n + Number(v !== q[i]), 0);
  // What is opaque is under a mask of 0: the amount is multiplied by it.
  const enters = (mask: number) => ({ subsurface: b.multiply(b.value('amount'), b.constant(mask)) });
  const pair = async (mask: number) =>
    [await show('solid', { amount: [0] }, enters(mask)), await show('solid', { amount: [1] }, enters(mask))] as const;
  // From behind as well: light that enters comes round a ball.
  stage.look = lookOf({ orbit: { ...frameOrbit(2), target: [0, 0, 0], distance: 2.2 }, exposure: 0.35 });
  stage.setSpecimen(makeSpecimen('sphere', 2), makeFlat(1, 2));
  const [opaque, through] = [apart(...(await pair(0))), apart(...(await pair(1)))];
  stage.dispose();
  return {
    solid: middle(solid),
    behind: at(solid, 0, 0),
    glass: middle(glass),
    additive: middle(additive),
    kept: middle(kept),
    cut: middle(cut),
    opaque,
    through,
  };
}
