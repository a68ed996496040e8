import type { Coverage } from '../coverage';
import { cueKind } from '../coverage';
import type { BlendDocument, ParameterContent } from '../document';
import { coverageOf } from '../document';
import { inOrder } from '../order';

/** A number or a colour in a blend that may become a parameter. */
export interface BlendPlace {
  /** Where it is, written with points: `layers.moss.seam.soft`. */
  path: string;
  /** The layer, and what of it. */
  layer: string;
  label: string;
  holds: ParameterContent;
}

type Turn = readonly [path: string, label: string, low: number, high: number, unit?: string];
const SEAM: readonly Turn[] = [
  ['soft', 'soft', 0, 1],
  ['liftM', 'lift', -0.2, 0.2, 'm'],
  ['follow', 'follow', 0, 1],
  ['bias', 'bias', 0.01, 0.99],
  ['contact', 'contact', 0, 1],
  ['broken.byM', 'broken up by', 0, 0.1, 'm'],
  ['broken.atM', 'broken up at', 0.01, 2, 'm'],
];
const LOOK: readonly Turn[] = [
  ['roughness', 'rougher', -1, 1],
  ['normal', 'normal strength', 0, 4],
  ['scale', 'size', 0.25, 4],
  ['turn', 'turn', -180, 180, '°'],
  ['u', 'moved along u', -1, 1],
  ['v', 'moved along v', -1, 1],
  ['low', 'levels low', 0, 1],
  ['high', 'levels high', 0, 4],
  ['mid', 'levels middle', 0.01, 0.99],
];
const CONSTANT: readonly Turn[] = [
  ['roughness', 'roughness', 0, 1],
  ['metallic', 'metallic', 0, 1],
  ['heightM', 'level', -0.2, 0.2, 'm'],
];
const WATER: readonly Turn[] = [
  ['levelM', 'level', -0.2, 0.2, 'm'],
  ['clearM', 'clear depth', 0.001, 2, 'm'],
  ['roughness', 'roughness', 0, 1],
  ['ripple', 'ripple', 0, 1],
  ['rippleM', 'ripple size', 0.01, 2, 'm'],
  ['rimM', 'wet rim', 0, 0.5, 'm'],
  ['wet', 'wetness', 0, 1],
];

/** Numbers of cues that say which, not how much. */
const FIXED = new Set(['order', 'seed', 'octaves', 'channel', 'set']);

/** What lies at a path within something. */
const at = (body: unknown, path: string): unknown =>
  path.split('.').reduce<unknown>((b, key) => (b as Record<string, unknown> | undefined)?.[key], body);

/** Every number and colour of a blend's sentences, seams and looks, by layer. */
export function blendPlaces(blend: BlendDocument): BlendPlace[] {
  const places: BlendPlace[] = [];
  const turns = (layer: string, base: string, list: readonly Turn[]) => {
    for (const [path, label, low, high, unit = ''] of list) {
      const value = at(blend, `${base}.${path}`);
      if (typeof value === 'number')
        places.push({ path: `${base}.${path}`, layer, label, holds: { kind: 'number', value: [value], low, high, unit } });
    }
  };
  const colour = (layer: string, path: string, label: string) => {
    const value = at(blend, path);
    if (typeof value === 'string') places.push({ path, layer, label, holds: { kind: 'colour', value } });
  };
  const cues = (layer: string, base: string, coverage: Readonly<Coverage>) => {
    for (const { id, ...cue } of inOrder(coverage)) {
      const { title, unit, ramped } = cueKind(cue.kind);
      const reach = Math.max(Math.abs(cue.centre) * 2, cue.width, 1e-3);
      const bounds: Record<string, readonly [number, number, string?]> = {
        centre: [Math.min(0, cue.centre - reach), Math.max(1, cue.centre + reach), unit],
        width: [0, Math.max(1, cue.width * 4), unit],
        amount: [0, 1],
        value: [0, 1],
      };
      for (const [key, value] of Object.entries(cue)) {
        if (typeof value !== 'number' || FIXED.has(key) || (!ramped && (key === 'centre' || key === 'width'))) continue;
        const [low, high, of] = bounds[key] ?? [Math.min(0, value * 4), Math.max(1, value * 4)];
        turns(layer, `${base}.${id}`, [[key, `${title}, ${key.replace(/M$/, '')}`, low, high, of ?? (key.endsWith('M') ? 'm' : '')]]);
      }
    }
  };
  for (const { id, name, shows, shared, ...layer } of inOrder(blend.layers).reverse()) {
    const base = `layers.${id}`;
    turns(name, base, [['strength', 'strength', 0, 1]]);
    if (shows.kind === 'water') {
      turns(name, `${base}.shows`, WATER);
      colour(name, `${base}.shows.murk`, 'murk');
      colour(name, `${base}.shows.scatter`, 'scatter');
    } else if (shows.kind === 'constant') {
      colour(name, `${base}.shows.baseColor`, 'colour');
      turns(name, `${base}.shows`, CONSTANT);
    }
    if (shows.kind !== 'water') {
      colour(name, `${base}.look.tint`, 'tint');
      turns(name, `${base}.look`, LOOK);
    }
    turns(name, `${base}.seam`, SEAM);
    cues(
      name,
      shared !== null && blend.coverages[shared] ? `coverages.${shared}.coverage` : `${base}.coverage`,
      coverageOf(blend, { ...layer, name, shows, shared }),
    );
  }
  for (const [id, { name, coverage }] of Object.entries(blend.groups)) cues(name, `groups.${id}.coverage`, coverage);
  // What layers share stands once.
  return places.filter((p, i) => places.findIndex((o) => o.path === p.path) === i);
}
