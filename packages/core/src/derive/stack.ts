import type { Image } from '../image';
import { SEAM, seamError } from '../recognise';
import type { Field } from './field';
import { fieldOf, imageOf } from './field';
import type { StepContext, StepDefinition, StepKind } from './steps';
import { STEPS } from './steps';

/** One step of the stack that a map keeps. Values that are not there are the usual ones. */
export interface Step {
  order: number;
  kind: StepKind;
  on: boolean;
  values: Record<string, number>;
}

export interface Derived {
  image: Image;
  /** What the steps had to say, a sentence each. */
  notes: string[];
  /** Relief in metres that the map came out with, when a step found one. */
  reliefM: number | null;
}

/** All values of a step: given ones held within their range, the usual ones else. */
export function valuesOf(kind: StepKind, given: Readonly<Record<string, number>>): Record<string, number> {
  const known: StepDefinition['values'] = STEPS[kind].values;
  return Object.fromEntries(Object.entries(known).map(([name, v]) => [name, Math.min(v.hi, Math.max(v.lo, given[name] ?? v.usual))]));
}

/**
 * A map through a stack of steps, in order; steps that are off are passed over. The result has the depth of the source,
 * 16 bits when a step makes finer values or the source is float.
 * @throws Error from `report` to stop between steps
 */
export function derive(
  source: Image,
  steps: readonly Step[],
  facts: StepContext['facts'],
  report: (done: number, note: string) => void = () => undefined,
): Derived {
  const used = steps.filter((s) => s.on).sort((a, b) => a.order - b.order);
  let field: Field = fieldOf(source);
  let deep = source.depth !== 8;
  let reliefM: number | null = null;
  const notes: string[] = [];
  // The file is asked, once and only when a step wants to know; a border that was repaired tiles.
  let tiles: boolean | null = null;
  const context = {
    facts,
    get tiles(): boolean {
      return (tiles ??= seamError(source) <= SEAM);
    },
  };
  used.forEach(({ kind, values }, i) => {
    const definition: StepDefinition = STEPS[kind];
    report(i / used.length, definition.label);
    const made = definition.run(field, valuesOf(kind, values), context);
    const result = 'field' in made ? made : { field: made };
    field = result.field;
    if (result.note) notes.push(result.note);
    if (result.reliefM !== undefined) {
      reliefM = result.reliefM;
      context.facts = { ...context.facts, reliefM: result.reliefM, mid: 0.5 };
    }
    deep ||= definition.deep === true;
    if (kind === 'border') tiles = true;
  });
  return { image: imageOf(field, deep ? 16 : 8), notes, reliefM };
}
