import type { RemapRequest } from '@pebble/contracts';
import type { Finding, FindingCode, MapEntry, Role, Step, StepKind } from '@pebble/core';
import { ROLE_FACTS, STEPS, inOrder, nextOrder, valuesOf } from '@pebble/core';
import { recipeOfMap } from '@pebble/usecases';

export type MapChange = RemapRequest['changes'][number];
/** Something that can be done about a map in one click; undone in one step, never destructive. */
export interface Mend {
  label: string;
  changes: MapChange[];
}

/** A step with its usual values, behind the others. */
export function withStep(steps: Readonly<Record<string, Step>>, kind: StepKind, values: Record<string, number> = {}): Record<string, Step> {
  const order = nextOrder(steps);
  return { ...steps, [`s${order}`]: { order, kind, on: true, values: { ...valuesOf(kind, values) } } };
}

const added = (role: Role, entry: MapEntry, kind: StepKind, values?: Record<string, number>): MapChange => {
  const { source, steps } = recipeOfMap(entry);
  return { role, source, steps: withStep(steps, kind, values) };
};

/** Green read the other way. */
export function turnGreen(role: Role, entry: MapEntry): MapChange {
  const { source, steps } = recipeOfMap(entry);
  if ('role' in source) return added(role, entry, 'turnGreen');
  return { role, steps, source: { ...source, normalDirection: source.normalDirection === 'y-' ? 'y+' : 'y-' } };
}

/** Colours read by another curve; null where the map is made of another. */
export function readAs(role: Role, entry: MapEntry, colourSpace: 'srgb' | 'linear'): MapChange | null {
  const { source, steps } = recipeOfMap(entry);
  return 'role' in source ? null : { role, steps, source: { ...source, colourSpace } };
}

/** The same picture as a map of another role. */
export const moveTo = (from: Role, entry: MapEntry, to: Role): MapChange[] => [
  { role: from, remove: true },
  { role: to, ...recipeOfMap(entry) },
];

const step =
  (label: string, kind: StepKind) =>
  (role: Role, entry: MapEntry): Mend[] => [{ label, changes: [added(role, entry, kind)] }];
const CHANNELS = ['red', 'green', 'blue', 'alpha'] as const;

const MENDS: Partial<Record<FindingCode, (role: Role, entry: MapEntry, finding: Finding) => Mend[]>> = {
  'channel-constant': fill,
  'normal-not-unit': step('Make unit length', 'unit'),
  'normal-direction-unknown': (role, entry) => [{ label: 'Turn green over', changes: [turnGreen(role, entry)] }],
  'colour-under-zero-alpha': step('Bleed the colour', 'bleed'),
  seam: step('Repair the border', 'border'),
  'colour-marked-data': (role, entry) => {
    const change = readAs(role, entry, 'linear');
    return change && entry.colourSpace !== 'linear' ? [{ label: 'Read as linear', changes: [change] }] : [];
  },
  packed: split,
  'name-content-disagree': split,
};

/** A grey map that says nothing is filled with what its role has where there is no map, unless it holds just that. */
function fill(role: Role, entry: MapEntry, { message }: Finding): Mend[] {
  const { components, neutral } = ROLE_FACTS[role];
  const value = neutral[0];
  if (components !== 1 || entry.channels > 1 || message.includes(`${value.toFixed(2)} everywhere`)) return [];
  return [{ label: `Fill with ${value}`, changes: [added(role, entry, 'fill', { value })] }];
}

/** Channels to take a grey map from. */
function split(role: Role, entry: MapEntry): Mend[] {
  if (ROLE_FACTS[role].components !== 1 || entry.channels < 3) return [];
  return CHANNELS.slice(0, entry.channels).map((name, index) => ({ label: `Take ${name}`, changes: [added(role, entry, 'channel', { index })] }));
}

export const mendsFor = (role: Role, entry: MapEntry, finding: Finding): Mend[] => MENDS[finding.code]?.(role, entry, finding) ?? [];

/** Maps that can be made of a map in one click. */
const OFFERS: Partial<Record<Role, readonly { role: Role; label: string; kinds: readonly StepKind[] }[]>> = {
  height: [
    { role: 'normal', label: 'Normal from it', kinds: ['normal'] },
    { role: 'occlusion', label: 'Occlusion from it', kinds: ['occlusion'] },
    { role: 'cavity', label: 'Cavity from it', kinds: ['cavity'] },
    { role: 'curvature', label: 'Curvature from it', kinds: ['curvature'] },
  ],
  normal: [{ role: 'height', label: 'Height from it', kinds: ['height'] }],
  baseColor: [
    { role: 'roughness', label: 'Roughness from it', kinds: ['desaturate', 'invert', 'levels'] },
    { role: 'height', label: 'Height from it, by lightness', kinds: ['desaturate'] },
  ],
  gloss: [{ role: 'roughness', label: 'Roughness from it', kinds: ['invert'] }],
  roughness: [{ role: 'gloss', label: 'Gloss from it', kinds: ['invert'] }],
};

export function offersOf(role: Role): Mend[] {
  return (OFFERS[role] ?? []).map(({ role: to, label, kinds }) => ({
    label,
    changes: [{ role: to, source: { role }, steps: kinds.reduce<Record<string, Step>>((all, kind) => withStep(all, kind), {}) }],
  }));
}

/** Steps of a map in words: "Desaturate, Invert". */
export const stepsText = (entry: MapEntry): string =>
  inOrder(entry.made?.steps ?? {})
    .filter((s) => s.on)
    .map((s) => STEPS[s.kind].label)
    .join(', ');
