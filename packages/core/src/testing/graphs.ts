import type { DagNode, Domain, Sources, Values } from '../compile';
import { evaluate, flatDomain, optimise } from '../compile';
import type { MasterDocument } from '../document';
import type { ExtraRole } from '../surface';
import { makeMaster } from '../document';
import { MasterMaterials, NO_CONTEXT } from '../graph';

/** A project in which there is nothing but the master. */
export const NOTHING = NO_CONTEXT;
/** For graphs that look up no picture: one that did would be wrong. */
export const noSources: Sources = () => {
  throw new Error('nothing is looked up');
};

export const graph = (operations: MasterDocument['operations'], outputs: MasterDocument['outputs'] = {}, over: Partial<MasterDocument> = {}) =>
  makeMaster('Test', { operations, outputs, ...over });

/** Planes of an output of a master, over the whole square, `side` texels wide. */
export function outputOf(
  d: MasterDocument,
  output: 'roughness' | 'baseColor' | 'height' | 'normal' | ExtraRole,
  side = 4,
  context = NOTHING,
  sources = noSources,
  { domain = flatDomain(side, side), values = {} }: { domain?: Domain; values?: Values } = {},
) {
  const material = new MasterMaterials().of(d, context);
  const { outputs } = material.far;
  return evaluate(optimise({ x: outputs[output] as DagNode }).outputs, { domain, values: { ...material.values, ...values }, sources })['x'];
}
