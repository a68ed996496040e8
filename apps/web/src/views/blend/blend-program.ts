import type { GlslProgram, Hoisted, Price, Stack } from '@pebble/core';
import { emitGlsl, lowerBlend, optimise, priceOf, stageOutputs } from '@pebble/core';
import { LIGHT_UNITS } from '@pebble/stage';

export interface BlendProgram {
  glsl: GlslProgram;
  hoisted: readonly Hoisted[];
  /** What it is the program of, as of the last change of shape. */
  stack: Stack;
  price: Price;
  /** Of the height alone, which parallax works out again. */
  heightPrice: Price;
}

/** The program by which the stage shows a stack. */
export function programOf(stack: Stack, parallax: boolean): BlendProgram {
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise(stageOutputs(lowered), { hoist: true });
  return {
    glsl: emitGlsl(outputs, 'live', LIGHT_UNITS, parallax),
    hoisted,
    stack,
    price: priceOf(optimise(lowered.channels, { hoist: true }).outputs),
    heightPrice: priceOf(optimise({ height: lowered.channels.height }, { hoist: true }).outputs),
  };
}
