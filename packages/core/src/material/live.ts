import type { DagNode, GlslProgram, Hoisted, Price } from '../compile';
import { emitGlsl, optimise, priceOf } from '../compile';
import type { MaterialRole } from '../surface';
import { EXTRA_ROLES, MATERIAL_ROLES } from '../surface';
import type { Drawn, Material, MaterialGraph } from './material';

/** What the stage draws a material by. */
export interface LiveProgram {
  glsl: GlslProgram;
  hoisted: readonly Hoisted[];
  /** The graph that it is the program of, from which pictures ahead of it are worked out; null where they would show it otherwise than it is. */
  graph: MaterialGraph['outputs'] | null;
  /** Solid where it does not say. */
  drawn?: Drawn;
}

/**
 * The program by which the stage shows a material.
 * @param unitsBeside texture units that the stage takes for itself
 * @throws CompileError `too-many-units`
 */
export function liveProgram({ far, drawn }: Material, parallax: boolean, unitsBeside: number): LiveProgram {
  const { outputs, hoisted } = optimise(far.outputs, { hoist: true });
  return {
    glsl: emitGlsl(outputs, 'live', unitsBeside, parallax),
    hoisted,
    graph: EXTRA_ROLES.some((name) => name !== 'specular' && far.outputs[name]) ? null : far.outputs,
    drawn,
  };
}

/** Roles that a material gives: the usual six, and those that something brings. */
export const givenRoles = ({ outputs, specularFed }: Pick<MaterialGraph, 'outputs' | 'specularFed'>): MaterialRole[] =>
  MATERIAL_ROLES.filter((role) => outputs[role] && (role !== 'specular' || specularFed));

/**
 * What a material gives. What the stage draws beside that costs nothing where it is not looked at, and a target does not draw it:
 * the hue of what is seen, and the specular level where no map feeds it.
 */
export const givenOutputs = ({ outputs, specularFed }: Pick<MaterialGraph, 'outputs' | 'specularFed'>): Record<string, DagNode> =>
  Object.fromEntries(Object.entries(outputs).filter(([name]) => name !== 'identity' && (name !== 'specular' || specularFed)));

/** What a material costs at every pixel. */
export const materialPrice = ({ far, values }: Material): Price => priceOf(optimise(givenOutputs(far), { hoist: true }).outputs, values);

/** What its height alone does, which parallax works out again. */
export const heightPrice = ({ far, values }: Material): Price => priceOf(optimise({ height: far.outputs.height }, { hoist: true }).outputs, values);
