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

/** Numbers that say which, not how much, and what is kept for order alone. */
const FIXED = new Set(['order', 'seed', 'octaves', 'channel', 'set', 'colour']);
/** Ends of numbers that are neither shares nor lengths, by their keys or by what they stand in as well. */
const ENDS: Readonly<Record<string, readonly [low: number, high: number, unit?: string]>> = {
  turn: [-180, 180, '°'],
  bearing: [-180, 180, '°'],
  rise: [-90, 90, '°'],
  scale: [0.25, 4],
  repeats: [0.25, 16],
  high: [0, 4],
  mid: [0.01, 0.99],
  bias: [0.01, 0.99],
  u: [-1, 1],
  v: [-1, 1],
  'look.roughness': [-1, 1],
  'look.normal': [0, 4],
};
/** Lengths that go down as well as up; others are sizes. */
const UPS = new Set(['liftM', 'levelM', 'heightM']);
const COLOUR = /^#[0-9a-f]{6}$/;

/** `byM` in `broken` as "broken by": metres are said by the unit. */
const wordOf = (key: string): string =>
  key
    .replace(/M$/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase();

/** @param path with points */
function numberOf(path: string, value: number): ParameterContent {
  const [within, key] = path.split('.').slice(-2);
  const far = Math.max(0.05, Math.abs(value) * 4);
  const length = (): readonly [number, number, string] => [UPS.has(key) ? -far : 0.001, far, 'm'];
  const [low, high, unit = ''] = ENDS[`${within}.${key}`] ?? ENDS[key] ?? (key.endsWith('M') ? length() : [0, 1]);
  return { kind: 'number', value: [value], low: Math.min(low, value), high: Math.max(high, value), unit };
}

/** Every number and colour of a blend's sentences, seams and looks, by layer from the top: what a document holds, not a list beside it. */
export function blendPlaces(blend: BlendDocument): BlendPlace[] {
  const places = new Map<string, BlendPlace>();
  /** All within something, each called by the keys that lead to it, the first of which says only where. */
  const walk = (layer: string, path: string, called: string, body: object): void => {
    for (const [key, value] of Object.entries(body) as [string, unknown][]) {
      if (FIXED.has(key)) continue;
      const [at, label] = [`${path}.${key}`, `${called} ${wordOf(key)}`.trim()];
      const add = (holds: ParameterContent) => places.has(at) || places.set(at, { path: at, layer, label, holds });
      if (typeof value === 'number') add(numberOf(at, value));
      else if (typeof value === 'string' && COLOUR.test(value)) add({ kind: 'colour', value });
      else if (typeof value === 'object' && value !== null) walk(layer, at, label, value);
    }
  };
  const cues = (layer: string, path: string, coverage: Readonly<Coverage>): void => {
    for (const { id, ...cue } of inOrder(coverage)) {
      const { title, unit, ramped } = cueKind(cue.kind);
      const { centre, width, ...own } = cue;
      if (ramped) {
        const reach = Math.max(Math.abs(centre) * 2, width, 1e-3);
        const holds = (value: number, low: number, high: number): ParameterContent => ({ kind: 'number', value: [value], low, high, unit });
        const ends = {
          centre: holds(centre, Math.min(0, centre - reach), Math.max(1, centre + reach)),
          width: holds(width, 0, Math.max(1, width * 4)),
        };
        for (const [key, value] of Object.entries(ends))
          places.set(`${path}.${id}.${key}`, { path: `${path}.${id}.${key}`, layer, label: `${title}, ${key}`, holds: value });
      }
      walk(layer, `${path}.${id}`, `${title},`, own);
    }
  };
  for (const { id, ...layer } of inOrder(blend.layers).reverse()) {
    const path = `layers.${id}`;
    const { name, strength, shows, look, seam, shared } = layer;
    walk(name, path, '', { strength });
    walk(name, `${path}.shows`, '', shows);
    if (shows.kind !== 'water') walk(name, `${path}.look`, '', look);
    walk(name, `${path}.seam`, '', seam);
    // What layers share stands once, under the first that does.
    cues(name, shared !== null && blend.coverages[shared] ? `coverages.${shared}.coverage` : `${path}.coverage`, coverageOf(blend, layer));
  }
  for (const [id, { name, coverage }] of Object.entries(blend.groups)) cues(name, `groups.${id}.coverage`, coverage);
  return [...places.values()];
}
