// Operations as text, and as copies: whatever they name comes with them, under names of its own.
import type { MasterDocument, MasterOperation, Source } from '../document';
import { inOrder, nextOrder } from '../order';
import { feeder } from './key';
import type { Named } from './names';
import { namesTaken, uniqueName } from './names';

/** Operations with what they name: plain JSON. */
export interface GraphClip {
  pebble: 'operations';
  version: 1;
  operations: MasterDocument['operations'];
  parameters: MasterDocument['parameters'];
  switches: MasterDocument['switches'];
  groups: MasterDocument['groups'];
  published: MasterDocument['published'];
  frames: MasterDocument['frames'];
}
const KINDS = ['groups', 'frames', 'switches', 'parameters', 'operations', 'published'] as const satisfies readonly Named[];

/** A name that changed on its way in. */
export interface Renamed {
  kind: Named;
  id: string;
  before: string;
  after: string;
}

const copied = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
const only = <T>(from: Readonly<Record<string, T>>, keys: ReadonlySet<string>): Record<string, T> =>
  Object.fromEntries(Object.entries(from).filter(([key]) => keys.has(key)));

/** Operations and everything that they name. */
export function clipOf(d: MasterDocument, ids: readonly string[]): GraphClip {
  const operations = only(d.operations, new Set(ids));
  const sources = Object.values(operations).flatMap((op) => Object.values(op.inputs));
  const parameters = only(d.parameters, new Set(sources.flatMap((s) => (s.from === 'parameter' ? [s.parameter] : []))));
  const switches = only(
    d.switches,
    new Set(Object.values(operations).flatMap((op) => (op.step === 'switch' ? [String(op.settings['switch'])] : []))),
  );
  const published = Object.fromEntries(Object.entries(d.published).filter(([, p]) => Object.hasOwn(operations, p.operation)));
  const frames = only(d.frames, new Set(Object.values(operations).flatMap((op) => op.frame ?? [])));
  const groups = only(d.groups, new Set([...Object.values(parameters), ...Object.values(switches)].flatMap((p) => p.group ?? [])));
  return copied({ pebble: 'operations', version: 1, operations, parameters, switches, groups, published, frames });
}

/**
 * Puts a clip into a document under new keys and free names, all in one: what was linked within it stays linked within it;
 * links from outside stay where what they name is there.
 * @param key makes a new key
 * @returns keys of the new operations, and every name that had to change
 */
export function putClip(d: MasterDocument, clip: GraphClip, key: () => string): { operations: string[]; renamed: Renamed[] } {
  const keys = Object.fromEntries(KINDS.map((kind) => [kind, new Map(Object.keys(clip[kind]).map((id) => [id, key()]))])) as Record<
    (typeof KINDS)[number],
    Map<string, string>
  >;
  const renamed: Renamed[] = [];
  const moved = (source: Source): Source | null => {
    if (source.from === 'link') {
      const to = keys.operations.get(source.operation);
      return to ? { ...source, operation: to } : Object.hasOwn(d.operations, source.operation) ? source : null;
    }
    if (source.from === 'parameter') {
      const to = keys.parameters.get(source.parameter);
      return to ? { from: 'parameter', parameter: to } : Object.hasOwn(d.parameters, source.parameter) ? source : null;
    }
    if (source.from === 'published') {
      const to = keys.published.get(source.published);
      return to ? { from: 'published', published: to } : Object.hasOwn(d.published, source.published) ? source : null;
    }
    return source;
  };
  const place = (kind: (typeof KINDS)[number]): void => {
    const into = d[kind] as Record<string, { order: number; name: string }>;
    const taken = namesTaken(d, kind);
    for (const { id, ...entry } of inOrder(clip[kind] as Record<string, { order: number; name: string }>)) {
      const made = copied(entry) as { order: number; name: string } & Partial<MasterOperation> & { group?: string | null };
      made.order = nextOrder(into);
      const to = keys[kind].get(id) as string;
      if (made.name) {
        const after = uniqueName(made.name, taken);
        if (after !== made.name) renamed.push({ kind, id: to, before: made.name, after });
        made.name = after;
      }
      if (made.group !== undefined) made.group = made.group === null ? null : (keys.groups.get(made.group) ?? null);
      if (kind === 'operations') {
        made.frame = !made.frame ? null : (keys.frames.get(made.frame) ?? (Object.hasOwn(d.frames, made.frame) ? made.frame : null));
        if (made.step === 'switch' && made.settings)
          made.settings['switch'] = keys.switches.get(String(made.settings['switch'])) ?? made.settings['switch'];
      }
      into[to] = made;
    }
  };
  KINDS.filter((kind) => kind !== 'published').forEach(place);
  for (const to of keys.operations.values()) {
    const op = d.operations[to];
    op.inputs = Object.fromEntries(
      Object.entries(op.inputs).flatMap(([port, source]) => {
        const now = moved(source);
        return now ? [[port, now]] : [];
      }),
    );
  }
  place('published');
  for (const to of keys.published.values()) {
    const p = d.published[to];
    p.operation = keys.operations.get(p.operation) as string;
  }
  return { operations: [...keys.operations.values()], renamed };
}

/** Operations of a clip that nothing in it reads: what a copy is seen by. */
export function endsOf(d: MasterDocument, ids: readonly string[]): string[] {
  const read = new Set(ids.flatMap((id) => Object.values(d.operations[id].inputs).flatMap((s) => feeder(d, s) ?? [])));
  return ids.filter((id) => !read.has(id));
}

/** Text of a clip, for other windows, masters and mails. */
export const clipText = (clip: GraphClip): string => JSON.stringify(clip, null, 1);
/** A clip that came as text; null where it is none. Its documents are checked by whoever takes it in. */
export function readClip(text: string): GraphClip | null {
  try {
    const body = JSON.parse(text) as Partial<GraphClip> | null;
    if (body?.pebble !== 'operations' || body.version !== 1) return null;
    return KINDS.every((kind) => typeof body[kind] === 'object' && body[kind] !== null && !Array.isArray(body[kind])) ? (body as GraphClip) : null;
  } catch {
    return null;
  }
}
