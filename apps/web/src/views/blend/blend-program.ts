import type { GlslProgram, Hoisted, Price, Stack } from '@pebble/core';
import { emitGlsl, lowerBlend, optimise, priceOf, stageOutputs } from '@pebble/core';
import { LIGHT_UNITS } from '@pebble/stage';

export interface BlendProgram {
  glsl: GlslProgram;
  hoisted: readonly Hoisted[];
  /** What it is the program of, as of the last change of shape. */
  stack: Stack;
}

/** The program by which the stage shows a stack. */
export function programOf(stack: Stack, parallax: boolean): BlendProgram {
  const { outputs, hoisted } = optimise(stageOutputs(lowerBlend(stack, { far: true })), { hoist: true });
  return { glsl: emitGlsl(outputs, 'live', LIGHT_UNITS, parallax), hoisted, stack };
}

/** What a stack costs at every pixel. */
export const stackPrice = (stack: Stack): Price => priceOf(optimise(lowerBlend(stack, { far: true }).channels, { hoist: true }).outputs);

/** What its height alone does, which parallax works out again. */
export const heightPrice = (stack: Stack): Price =>
  priceOf(optimise({ height: lowerBlend(stack, { far: true }).channels.height }, { hoist: true }).outputs);
