// Masters written down: operations, parameters and variants in short.
import type { MasterDocument, MasterOperation, MasterVariant, ParameterContent, Source } from '@pebble/core';
import { identifierOf, makeOperation } from '@pebble/core';

type Steps = Record<string, [step: string, inputs?: Record<string, Source>, over?: Partial<MasterOperation>]>;
/** Operations in the order in which they are written. */
export const steps = (list: Steps): MasterDocument['operations'] =>
  Object.fromEntries(Object.entries(list).map(([id, [step, inputs = {}, over = {}]], i) => [id, makeOperation(step, i + 1, { inputs, ...over })]));
export const follows = (parameter: string): Source => ({ from: 'parameter', parameter });
export const reads = (published: string): Source => ({ from: 'published', published });

type Parameters = Record<string, [name: string, group: string | null, holds: ParameterContent, help: string]>;
export const parameters = (list: Parameters): MasterDocument['parameters'] =>
  Object.fromEntries(Object.entries(list).map(([id, [name, group, holds, help]], i) => [id, { order: i + 1, name, group, holds, help }]));
export const number = (value: number, low: number, high: number, unit = ''): ParameterContent => ({
  kind: 'number',
  value: [value],
  low,
  high,
  unit,
});
export const colour = (value: string): ParameterContent => ({ kind: 'colour', value });

type Sets = Record<string, number | string>;
/**
 * Variants in the order in which they are written: what they set, by parameter (a number, or a colour as `#rrggbb`).
 * @throws RangeError where there is no such parameter
 */
export function variants(parameters: MasterDocument['parameters'], list: Record<string, Sets>): MasterDocument['variants'] {
  const value = (id: string, to: number | string): MasterVariant['values'][string] => {
    const parameter = parameters[id];
    if (!parameter) throw new RangeError(`There is no parameter ${id}`);
    const { holds, name } = parameter;
    return {
      name,
      holds:
        holds.kind === 'number'
          ? { ...holds, value: [Number(to)] }
          : { ...holds, ...(holds.kind === 'colour' ? { value: String(to) } : { surface: String(to) }) },
    };
  };
  return Object.fromEntries(
    Object.entries(list).map(([name, sets], i) => [
      identifierOf(name),
      { order: i + 1, name, values: Object.fromEntries(Object.entries(sets).map(([id, to]) => [id, value(id, to)])), switches: {} },
    ]),
  );
}
