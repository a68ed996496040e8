// Named values of a master: what a variant sets, what it inherits, and what it keeps of that which is gone.
import type { MasterDocument, MasterVariant, ParameterContent } from '../document';
import { inOrder, nextOrder } from '../order';
import { namesTaken, uniqueName } from './names';

/** The same once more, of plain JSON. */
const copyOf = <T>(of: T): T => JSON.parse(JSON.stringify(of)) as T;

/** Whether a value can stand in for another: of one kind, and as wide. */
export const standsIn = (value: ParameterContent, holds: ParameterContent): boolean =>
  value.kind === holds.kind && (value.kind !== 'number' || holds.kind !== 'number' || value.value.length === holds.value.length);

/** What a parameter holds in a variant: numbers keep the bounds and the unit that they have. */
function inPlace(value: ParameterContent, holds: ParameterContent): ParameterContent {
  return value.kind === 'number' && holds.kind === 'number' ? { ...holds, value: value.value } : value;
}

/** A master as one of its variants: itself where there is no such variant, or none is asked for. */
export function asVariant(master: MasterDocument, variant: string | null | undefined): MasterDocument {
  const found = variant ? master.variants[variant] : undefined;
  if (!found) return master;
  const parameters = Object.fromEntries(
    Object.entries(master.parameters).map(([id, parameter]) => {
      const own = found.values[id]?.holds;
      return [id, own && standsIn(own, parameter.holds) ? { ...parameter, holds: inPlace(own, parameter.holds) } : parameter];
    }),
  );
  const switches = Object.fromEntries(
    Object.entries(master.switches).map(([id, entry]) => [id, found.switches[id] ? { ...entry, on: found.switches[id].on } : entry]),
  );
  return { ...master, parameters, switches };
}

/** A new variant, of what another sets or of nothing. @returns its name */
export function addVariant(d: MasterDocument, id: string, wanted: string, like?: string): string {
  const from = like ? d.variants[like] : undefined;
  const name = uniqueName(wanted, namesTaken(d, 'variants'));
  d.variants[id] = { order: nextOrder(d.variants), name, values: copyOf(from?.values ?? {}), switches: copyOf(from?.switches ?? {}) };
  return name;
}

/** Sets a parameter or a switch in a variant. */
export function setInVariant(d: MasterDocument, variant: string, id: string, to: ParameterContent | boolean): void {
  const { values, switches } = d.variants[variant];
  if (typeof to === 'boolean') switches[id] = { name: d.switches[id].name, on: to };
  else values[id] = { name: d.parameters[id].name, holds: to };
}

/** Lets a variant inherit again. */
export function inherit(d: MasterDocument, variant: string, id: string): void {
  delete d.variants[variant].values[id];
  delete d.variants[variant].switches[id];
}

/** Something that a variant sets and that cannot be used. */
export interface Leftover {
  id: string;
  /** As it was called when it was set. */
  name: string;
  why: 'gone' | 'other kind';
  /** What it was set to; null for a switch. */
  holds: ParameterContent | null;
}
/** What a variant keeps of parameters and switches that are gone, or became something else. */
export function leftovers(d: MasterDocument, variant: string): Leftover[] {
  const { values, switches } = d.variants[variant];
  const found: Leftover[] = [];
  for (const [id, { name, holds }] of Object.entries(values)) {
    const now = d.parameters[id];
    if (!now) found.push({ id, name, why: 'gone', holds });
    else if (!standsIn(holds, now.holds)) found.push({ id, name: now.name, why: 'other kind', holds });
  }
  for (const [id, { name }] of Object.entries(switches)) if (!d.switches[id]) found.push({ id, name, why: 'gone', holds: null });
  return found;
}

/** Brings back what a variant kept a value of: it holds that until it is set to something else, and other variants that kept one have theirs. */
export function bringBack(d: MasterDocument, variant: string, id: string): void {
  const { values, switches } = d.variants[variant];
  const [value, choice] = [values[id], switches[id]];
  if (value && !d.parameters[id])
    d.parameters[id] = {
      order: nextOrder(d.parameters),
      name: uniqueName(value.name, namesTaken(d, 'parameters')),
      group: null,
      help: '',
      holds: copyOf(value.holds),
    };
  else if (choice && !d.switches[id])
    d.switches[id] = { order: nextOrder(d.switches), name: uniqueName(choice.name, namesTaken(d, 'switches')), group: null, help: '', on: choice.on };
}

/** How many variants set a parameter or a switch, of all there are. */
export function setIn(d: MasterDocument, id: string): { set: number; all: number } {
  const list = Object.values(d.variants);
  const sets = ({ values, switches }: MasterVariant) => Object.hasOwn(values, id) || Object.hasOwn(switches, id);
  return { set: list.filter(sets).length, all: list.length };
}

/** The variant before or after one, the master itself standing before the first (`null`). */
export function nextVariant(d: MasterDocument, from: string | null, by: 1 | -1): string | null {
  const all: (string | null)[] = [null, ...inOrder(d.variants).map((v) => v.id)];
  const at = Math.max(0, all.indexOf(from));
  return all[(at + by + all.length) % all.length];
}

/** What differs between two variants beside numbers: only then something is compiled. */
export const compilesAnew = (d: MasterDocument, a: string | null, b: string | null): boolean => {
  const [x, y] = [a, b].map((v) => asVariant(d, v));
  return Object.keys(d.switches).some((id) => x.switches[id].on !== y.switches[id].on);
};
