import type { MasterDocument } from '../document';

/** Longest name. */
export const MAX_NAME = 200;
/** Collections of a master whose entries have names. */
export const NAMED = ['operations', 'parameters', 'switches', 'groups', 'published', 'frames', 'variants'] as const;
export type Named = (typeof NAMED)[number];

/** What a target calls something: two names that come to the same there collide. */
export const identifierOf = (name: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '') || `n${[...name].map((c) => (c.codePointAt(0) as number).toString(36)).join('')}`;

/** Parameters, switches and published values are told apart by their names alone: they share them. */
const SHARED: readonly Named[] = ['parameters', 'switches', 'published'];
const together = (kind: Named): readonly Named[] => (SHARED.includes(kind) ? SHARED : [kind]);

/** Identifiers that are taken in a kind. @param but one that may keep its own */
export function namesTaken(document: MasterDocument, kind: Named, but = ''): Set<string> {
  const taken = new Set<string>();
  for (const of of together(kind))
    for (const [id, { name }] of Object.entries(document[of])) if (name && !(of === kind && id === but)) taken.add(identifierOf(name));
  return taken;
}

/**
 * A name nobody has: the wanted one, or that with the next number. It becomes taken.
 * @example uniqueName('moss tint', taken) // 'moss tint 2'
 */
export function uniqueName(wanted: string, taken: Set<string>): string {
  const text = wanted.trim().replace(/\s+/g, ' ').slice(0, MAX_NAME) || 'unnamed';
  const [, stem, number] = /^(.*?)(?:\s+(\d{1,6}))?$/.exec(text) as RegExpExecArray;
  const base = (number && stem ? stem : text).slice(0, MAX_NAME - 8);
  let name = text;
  for (let n = number && stem ? Number(number) + 1 : 2; taken.has(identifierOf(name)); n++) name = `${base} ${n}`;
  taken.add(identifierOf(name));
  return name;
}

/** Gives something the name that is wanted, or the nearest that is free. @returns the name that it got */
export function rename(document: MasterDocument, kind: Named, id: string, wanted: string): string {
  const entry = document[kind][id];
  const text = wanted.trim();
  entry.name = kind === 'operations' && !text ? '' : uniqueName(text || entry.name, namesTaken(document, kind, id));
  return entry.name;
}
