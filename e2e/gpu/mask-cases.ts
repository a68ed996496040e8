// Runs in the browser: masks that are painted while the stage shows them.
import type { BlendDocument, BlendSurface, PackedPicture, PackedSurface } from '@pebble/core';
import {
  DEFAULT_BRUSH,
  MaskPainter,
  SKIES,
  computeLight,
  emitGlsl,
  evaluate,
  flatDomain,
  lowerBlend,
  makeCue,
  makeFlat,
  makeImage,
  makeSpecimen,
  makeStack,
  optimise,
  sourcesOfPacked,
  stackValues,
  stageOutputs,
} from '@pebble/core';
import { BlendStage, LIGHT_UNITS, packMask } from '@pebble/stage';
import { lookOf, pixels, settled } from './stage-page.js';

const SIZE = 128;
type Made = { blend: BlendDocument; surfaces: Record<string, BlendSurface>; packed: Record<string, PackedSurface> };

/** Two painted masks, one of which is painted on: largest and 99 in 100 differences to the processor in 1/255, and textures made for it. */
export async function paintedMask({ blend, surfaces, packed }: Made): Promise<{ p99: number; changed: number; textures: number; compiles: number }> {
  const layers = structuredClone(blend.layers);
  layers['b'].coverage = { m: makeCue('painted', { picture: 'one' }) };
  layers['c'].coverage = { m: makeCue('painted', { picture: 'two' }) };
  const stack = makeStack({ ...blend, layers }, surfaces);
  const painter = new MaskPainter(SIZE, SIZE, new Uint8Array(SIZE * SIZE));
  const shownAs = (): PackedPicture => packMask(makeImage({ width: SIZE, height: SIZE, channels: 1, data: painter.bytes() }), 0, SIZE);
  const empty = shownAs();
  const slotsOf = (one: PackedPicture) => ({ surfaces: stack.slots.map((id) => packed[id]), masks: [one, empty], ids: [] });

  const canvas = Object.assign(document.createElement('canvas'), { width: SIZE, height: SIZE });
  const stage = new BlendStage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = { specimen: { x: 0, y: 0, width: 0, height: 0 }, flat: { x: 0, y: 0, width: 1, height: 1 } };
  stage.look = lookOf({ channel: 'roughness', bounds: [stack.lo, stack.hi] });
  stage.setSpecimen(makeSpecimen('patch', 2.4), makeFlat(1, SIZE));
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise(stageOutputs(lowered), { hoist: true });
  const glsl = emitGlsl(outputs, 'live', LIGHT_UNITS);
  const show = async (one: PackedPicture) => {
    const done = settled(stage);
    stage.setProgram(glsl, hoisted, stackValues(stack), slotsOf(one));
    await done;
    return pixels(stage.gl, SIZE, SIZE).slice();
  };
  const before = await show(empty);
  let textures = 0;
  const make = stage.gl.createTexture.bind(stage.gl);
  stage.gl.createTexture = () => (textures++, make());
  painter.begin({ ...DEFAULT_BRUSH, radiusM: 0.4 }, 'add', 2.4);
  painter.to({ u: 0.2, v: 0.2, pressure: 1 });
  await show(shownAs());
  painter.to({ u: 0.7, v: 0.4, pressure: 0.8 });
  painter.end();
  const last = shownAs();
  const after = await show(last);
  stage.dispose();

  const cpu = evaluate(
    { r: lowered.channels.roughness },
    { domain: flatDomain(SIZE, SIZE, 2.4), values: stackValues(stack), sources: sourcesOfPacked(slotsOf(last)) },
  )['r'][0];
  const at = (i: number) => ((SIZE - 1 - Math.floor(i / SIZE)) * SIZE + (i % SIZE)) * 4;
  const off = Array.from(cpu, (v, i) => Math.abs(after[at(i)] - v * 255)).sort((a, b) => a - b);
  return {
    p99: off[Math.floor(off.length * 0.99)],
    changed: Array.from(cpu, (_, i) => Number(after[at(i)] !== before[at(i)])).reduce((a, b) => a + b, 0) / cpu.length,
    textures,
    compiles: stage.compiles,
  };
}
