// Runs in the browser: a stage for cases, how it looks, what it shows.
import type { GlslProgram, Hoisted, LoweredBlend, MaterialGraph } from '@pebble/core';
import { Builder, NO_SLOTS, emitGlsl } from '@pebble/core';
import type { Stage, StageLook } from '@pebble/stage';
import { frameOrbit } from '@pebble/core';
import { LIGHT_UNITS } from '@pebble/stage';

/** The bytes of the picture on show, rows from the bottom. */
export function pixels(context: WebGL2RenderingContext, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height * 4);
  context.bindFramebuffer(context.FRAMEBUFFER, null);
  context.readPixels(0, 0, width, height, context.RGBA, context.UNSIGNED_BYTE, out);
  return out;
}

/** Resolves when the stage has drawn a frame at full size. */
export const settled = (stage: Stage) =>
  new Promise<void>((resolve) => {
    stage.onFrame = ({ scale }) => {
      if (scale === 1) resolve();
    };
  });

/** How a stage of these cases looks at things, but for what is said. */
export const lookOf = (over: Partial<StageLook>): StageLook => ({
  orbit: frameOrbit(2.4),
  flat: { u: 0.5, v: 0.5, span: 1 },
  channel: 'lit',
  turn: 0,
  exposure: 1,
  mapped: true,
  shadow: false,
  perMetre: 0,
  bounds: [0, 1],
  ...over,
});
/** The specimen alone fills the canvas. */
export const PANE = { specimen: { x: 0, y: 0, width: 1, height: 1 }, flat: { x: 0, y: 0, width: 0, height: 0 } };

/** Puts one plain material on the stage and waits for its picture. */
/** @param extras grey values of roles beside the usual six */
export async function showMaterial(
  stage: Stage,
  albedo: readonly number[],
  rough: number,
  metal: number,
  extras: Readonly<Record<string, number>> = {},
): Promise<void> {
  const b = new Builder();
  const outputs = {
    baseColor: b.constant(...albedo),
    normal: b.constant(0, 0, 1),
    roughness: b.value('rough'),
    occlusion: b.constant(1),
    metallic: b.value('metal'),
    height: b.constant(0),
    specular: b.constant(0.5),
    identity: b.constant(1, 1, 1),
    ...Object.fromEntries(Object.entries(extras).map(([role, v]) => [role, role === 'emissive' ? b.constant(v, v, v) : b.constant(v)])),
  };
  const done = settled(stage);
  stage.setProgram({ program: bare(emitGlsl(outputs, 'live', LIGHT_UNITS)), values: { rough: [rough], metal: [metal] }, slots: NO_SLOTS });
  await done;
}

/** What the stage draws of a blend, by the names that its shader knows. */
export const stageOutputs = ({ channels, extras, specular, identity }: LoweredBlend): MaterialGraph['outputs'] => ({
  ...channels,
  ...extras,
  specular,
  identity,
});
/** A program ahead of which nothing is worked out. */
export const bare = (glsl: GlslProgram, hoisted: readonly Hoisted[] = []) => ({ glsl, hoisted, graph: null });
