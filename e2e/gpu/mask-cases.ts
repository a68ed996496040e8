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
} from '@pebble/core';
import type { StageLook } from '@pebble/stage';
import { Stage, LIGHT_UNITS, packMask } from '@pebble/stage';
import { bare, lookOf, pixels, settled, stageOutputs } from './stage-page.js';

const SIZE = 128;
type Made = { blend: BlendDocument; surfaces: Record<string, BlendSurface>; packed: Record<string, PackedSurface> };

/**
 * Two painted masks, one of which is painted on, then both of another size: differences to the processor that 99 in 100
 * pixels stay within, in 1/255, and textures made for strokes and for the other size.
 */
export async function paintedMask({
  blend,
  surfaces,
  packed,
}: Made): Promise<{ p99: number; coarse: number; changed: number; textures: number; others: number; compiles: number }> {
  const layers = structuredClone(blend.layers);
  layers['b'].coverage = { m: makeCue('painted', { picture: 'one' }) };
  layers['c'].coverage = { m: makeCue('painted', { picture: 'two' }) };
  const stack = makeStack({ ...blend, layers }, surfaces);
  const painter = new MaskPainter(SIZE, SIZE, new Uint8Array(SIZE * SIZE));
  const shownAs = (size = SIZE): PackedPicture => packMask(makeImage({ width: SIZE, height: SIZE, channels: 1, data: painter.bytes() }), 0, size);
  const empty = shownAs();
  const slotsOf = (one: PackedPicture, two = empty) => ({ surfaces: stack.slots.map((id) => packed[id]), masks: [one, two], ids: [] });

  const canvas = Object.assign(document.createElement('canvas'), { width: SIZE, height: SIZE });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = { specimen: { x: 0, y: 0, width: 0, height: 0 }, flat: { x: 0, y: 0, width: 1, height: 1 } };
  stage.look = lookOf({ channel: 'roughness', bounds: [stack.lo, stack.hi] });
  stage.setSpecimen(makeSpecimen('patch', 2.4), makeFlat(1, SIZE));
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise(stageOutputs(lowered), { hoist: true });
  const glsl = emitGlsl(outputs, 'live', LIGHT_UNITS);
  const show = async (one: PackedPicture, two?: PackedPicture) => {
    const done = settled(stage);
    stage.setProgram({ program: bare(glsl, hoisted), values: stackValues(stack), slots: slotsOf(one, two) });
    await done;
    return pixels(stage.gl, SIZE, SIZE).slice();
  };
  const before = await show(empty);
  // What it prepares while nothing else is to be done has textures of its own.
  while (!stage['ahead'].able) await new Promise((resolve) => setTimeout(resolve, 50));
  const seen = () => stage['ahead'].lookOn(...stage['painter'].sight(stage['painter'].aheadSize, stage.look as StageLook));
  while (!seen()) await new Promise((resolve) => setTimeout(resolve, 5));
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
  const strokes = textures;
  const half = shownAs(SIZE / 2);
  const smaller = await show(half, half);
  stage.dispose();

  const at = (i: number) => ((SIZE - 1 - Math.floor(i / SIZE)) * SIZE + (i % SIZE)) * 4;
  const expected = (one: PackedPicture, two?: PackedPicture) =>
    evaluate(
      { r: lowered.channels.roughness },
      { domain: flatDomain(SIZE, SIZE, 2.4), values: stackValues(stack), sources: sourcesOfPacked(slotsOf(one, two)) },
    )['r'][0];
  const p99 = (shown: Uint8Array, cpu: Float32Array) =>
    Array.from(cpu, (v, i) => Math.abs(shown[at(i)] - v * 255)).sort((a, b) => a - b)[Math.floor(cpu.length * 0.99)];
  return {
    p99: p99(after, expected(last)),
    coarse: p99(smaller, expected(half, half)),
    changed: Array.from({ length: SIZE * SIZE }, (_, i) => Number(after[at(i)] !== before[at(i)])).reduce((a, b) => a + b, 0) / SIZE ** 2,
    textures: strokes,
    others: textures - strokes,
    compiles: stage.compiles,
  };
}
