import type { Layer, LayerLaying, Water } from '@pebble/core';
import { DEFAULT_CONSTANT, DEFAULT_FAR, DEFAULT_LOOK, DEFAULT_SEAM, DEFAULT_WATER, constantOf, waterOf } from '@pebble/core';
import type { NumberField } from '../../../ui/field';
import type { WordId } from '../../../ui/words';

/** A number of a layer, as a token of its sentence or a line of its card. */
export interface LayerField extends NumberField {
  word: string;
  /** What the word means, for whoever points at it. */
  means?: WordId;
  before?: string;
  /** How the step of undo is called. */
  what: string;
  /** Where it stands in the layer, with points. */
  path: string;
  get: (layer: Layer) => number;
  set: (layer: Layer, value: number) => void;
}

const share = { min: 0, max: 1, step: 0.005, factor: 0.01, unit: '%', decimals: 0 };
const millimetres = { max: 10, step: 0.0002, factor: 0.001, unit: 'mm', decimals: 1 };

const seam = (key: 'soft' | 'liftM' | 'follow' | 'bias' | 'contact' | 'detailM' | 'normal') => ({
  path: `seam.${key}`,
  initial: DEFAULT_SEAM[key],
  get: (l: Layer) => l.seam[key],
  set: (l: Layer, v: number) => void (l.seam[key] = v),
});
const look = (key: 'low' | 'high' | 'mid' | 'roughness' | 'normal' | 'scale' | 'turn' | 'u' | 'v') => ({
  path: `look.${key}`,
  initial: DEFAULT_LOOK[key],
  get: (l: Layer) => l.look[key],
  set: (l: Layer, v: number) => void (l.look[key] = v),
});
const water = (key: Exclude<keyof Water, 'murk' | 'scatter'>) => ({
  path: `shows.${key}`,
  initial: DEFAULT_WATER[key],
  get: (l: Layer) => (waterOf(l) ?? DEFAULT_WATER)[key],
  set: ({ shows }: Layer, v: number) => void (shows.kind === 'water' && (shows[key] = v)),
});
const constant = (key: 'roughness' | 'metallic' | 'heightM') => ({
  path: `shows.${key}`,
  initial: DEFAULT_CONSTANT[key],
  get: (l: Layer) => (constantOf(l) ?? DEFAULT_CONSTANT)[key],
  set: ({ shows }: Layer, v: number) => void (shows.kind === 'constant' && (shows[key] = v)),
});
const STRENGTH: LayerField = {
  word: '',
  before: 'at strength',
  means: 'strength',
  label: 'Strength in per cent',
  what: 'strength',
  path: 'strength',
  ...share,
  initial: 1,
  get: (l) => l.strength,
  set: (l, v) => void (l.strength = v),
};

/** How a layer meets what lies below. */
export const SEAM_FIELDS: readonly LayerField[] = [
  { word: 'soft', means: 'soft', label: 'Softness', what: 'softness', min: 0, max: 1, step: 0.004, ...seam('soft') },
  { word: 'lift', means: 'lift', label: 'Lift in millimetres', what: 'lift', min: -10, ...millimetres, ...seam('liftM') },
  { word: 'follow', means: 'follow', label: 'Follow in per cent', what: 'follow', ...share, ...seam('follow') },
  { word: 'bias', means: 'bias', label: 'Bias', what: 'bias', min: 0.01, max: 0.99, step: 0.004, ...seam('bias') },
  {
    word: 'broken up by',
    means: 'broken',
    label: 'Broken up by, in millimetres',
    what: 'break up the seam',
    path: 'seam.broken.byM',
    min: 0,
    ...millimetres,
    initial: 0,
    get: (l) => l.seam.broken.byM,
    set: (l, v) => void (l.seam.broken.byM = v),
  },
  { word: 'shaded', means: 'shaded', label: 'Contact darkening in per cent', what: 'contact darkening', ...share, ...seam('contact') },
  STRENGTH,
];
/** What seams seldom need, in the card: both have a price. */
export const MORE_SEAM_FIELDS: readonly LayerField[] = [
  {
    word: 'Only relief over',
    label: 'Only relief larger than this decides, in millimetres',
    what: 'detail of the seam',
    min: 0,
    ...millimetres,
    step: 0.0005,
    ...seam('detailM'),
  },
  { word: 'Seam bends the normal', label: 'How much the seam bends the normal, in per cent', what: 'seam normal', ...share, ...seam('normal') },
];

export const WATER_FIELDS: readonly LayerField[] = [
  { word: 'level', means: 'level', label: 'Level in millimetres', what: 'water level', min: -10, ...millimetres, ...water('levelM') },
  {
    word: 'clear to',
    means: 'clear',
    label: 'Clear depth in metres',
    what: 'clear depth',
    min: 0.005,
    max: 20,
    step: 0.005,
    unit: 'm',
    ...water('clearM'),
  },
  { word: 'ripples', means: 'ripples', label: 'Slope of the ripples', what: 'ripples', min: 0, max: 1, step: 0.002, decimals: 3, ...water('ripple') },
  {
    word: 'every',
    means: 'every',
    label: 'Size of the ripples in metres',
    what: 'size of the ripples',
    min: 0.01,
    max: 10,
    step: 0.004,
    unit: 'm',
    ...water('rippleM'),
  },
  {
    word: 'roughness',
    means: 'roughness',
    label: 'Roughness of the water',
    what: 'roughness of the water',
    min: 0,
    max: 1,
    step: 0.004,
    ...water('roughness'),
  },
  { word: 'wets up to', means: 'wets', label: 'Rim in millimetres', what: 'rim of the water', min: 0, ...millimetres, ...water('rimM') },
  { word: 'darkening by', means: 'darkening', label: 'Wet darkening in per cent', what: 'wet darkening', ...share, ...water('wet') },
  STRENGTH,
];

export const CONSTANT_FIELDS: readonly LayerField[] = [
  { word: 'Roughness', label: 'Roughness', what: 'roughness', min: 0, max: 1, step: 0.004, ...constant('roughness') },
  { word: 'Metallic', label: 'Metallic', what: 'metallic', min: 0, max: 1, step: 0.004, ...constant('metallic') },
  { word: 'Height', label: 'Height in millimetres', what: 'height', min: -10, ...millimetres, ...constant('heightM') },
];

export const LOOK_FIELDS: readonly LayerField[] = [
  { word: 'Black from', label: 'Base colour that becomes black', what: 'levels', min: 0, max: 0.99, step: 0.002, ...look('low') },
  { word: 'White from', label: 'Base colour that becomes white', what: 'levels', min: 0.01, max: 4, step: 0.004, ...look('high') },
  { word: 'Middle at', label: 'What becomes one half', what: 'levels', min: 0.01, max: 0.99, step: 0.003, ...look('mid') },
  { word: 'Roughness', label: 'Added to roughness', what: 'roughness', min: -1, max: 1, step: 0.004, ...look('roughness') },
  { word: 'Normal', label: 'Strength of the normal', what: 'strength of the normal', min: 0, max: 8, step: 0.01, unit: '×', ...look('normal') },
];
export const PLACE_FIELDS: readonly LayerField[] = [
  { word: 'Size', label: 'Times its true size', what: 'size', min: 0.05, max: 20, step: 0.005, unit: '×', ...look('scale') },
  { word: 'Turned', label: 'Turned by degrees', what: 'turn', min: -360, max: 360, step: 0.5, unit: '°', decimals: 0, ...look('turn') },
  { word: 'Moved right', label: 'Moved to the right, in per cent of its size', what: 'move', ...share, min: -1, ...look('u') },
  { word: 'Moved down', label: 'Moved down, in per cent of its size', what: 'move', ...share, min: -1, ...look('v') },
];

type Far = NonNullable<LayerLaying['far']>;
const far = (key: keyof Far) => ({
  path: `laying.far.${key}`,
  initial: DEFAULT_FAR[key],
  get: (l: Layer) => l.laying?.far?.[key] ?? DEFAULT_FAR[key],
  set: (l: Layer, v: number) => void (l.laying?.far && (l.laying.far[key] = v)),
});
const away = { min: 0, max: 1e5, step: 0.5, unit: 'm', decimals: 0 };
/** How a surface lies from afar. */
export const FAR_FIELDS: readonly LayerField[] = [
  { word: 'times', label: 'Times larger from afar', what: 'size from afar', min: 1, max: 1000, step: 0.1, unit: '×', decimals: 1, ...far('times') },
  { word: 'from', label: 'Metres from which it is mixed in', what: 'where it begins', ...away, ...far('fromM') },
  { word: 'to', label: 'Metres from which it is all there', what: 'where it is all there', ...away, ...far('toM') },
];

type Patched = Required<Pick<LayerLaying, 'turns' | 'cells' | 'macro'>>;
/** A number of one of the ways that lie in patches. */
const patch = <W extends keyof Patched>(way: W, key: keyof Patched[W] & string, initial: number) => ({
  path: `laying.${way}.${key}`,
  initial,
  get: (l: Layer) => ((l.laying?.[way] as Record<string, number> | undefined)?.[key] ?? initial) as number,
  set: (l: Layer, v: number) => {
    const of = l.laying?.[way] as Record<string, number> | undefined;
    if (of) of[key] = v;
  },
});
const wide = { min: 0.001, max: 10000, step: 0.01, unit: 'm', decimals: 2 };
/** Patches in which a surface takes turns with itself, is turned by chance, or is lighter and darker. */
export const TURNS_FIELDS: readonly LayerField[] = [
  { word: 'patches of', label: 'Size of the patches in metres', what: 'size of the patches', ...wide, ...patch('turns', 'atM', 1) },
];
export const CELLS_FIELDS: readonly LayerField[] = [
  { word: 'cells of', label: 'Size of the cells in metres', what: 'size of the cells', ...wide, ...patch('cells', 'atM', 1) },
  {
    word: 'turned by',
    label: 'Degrees by which cells are turned at most',
    what: 'turn of the cells',
    min: 0,
    max: 180,
    step: 1,
    unit: '°',
    decimals: 0,
    ...patch('cells', 'turn', 180),
  },
];
export const MACRO_FIELDS: readonly LayerField[] = [
  { word: 'by', label: 'Lighter and darker by at most, in per cent', what: 'how much lighter and darker', ...share, ...patch('macro', 'by', 0.2) },
  {
    word: 'patches of',
    label: 'Size of the lighter and darker patches in metres',
    what: 'size of the patches',
    ...wide,
    ...patch('macro', 'atM', 4),
  },
];
