import type { Role } from '../surface';
import type { BlockFormat } from './memory';
import { FORMATS, fitsBlocks, textureBytes } from './memory';
import type { TargetDocument } from './targets';

export const WRAPS = ['repeat', 'clamp', 'mirror'] as const;
export const FILTERS = ['nearest', 'linear', 'trilinear', 'anisotropic'] as const;

/** How a map is used at runtime. */
export interface MapSettings {
  wrap: (typeof WRAPS)[number];
  filter: (typeof FILTERS)[number];
  format: BlockFormat;
  mips: boolean;
  /** Whether its large mips come and go with the distance. */
  streaming: boolean;
  /** Longest side it may have; larger levels are left out. */
  maxSize: number;
  /** Top mips left out beside those that the size takes. */
  dropMips: number;
}
export type SettingKey = keyof MapSettings;

/** Where a value comes from: the usual one, the target, the map for all targets, or the map for this target. */
export type Origin = 'usual' | 'target' | 'map' | 'here';
export interface Resolved {
  values: MapSettings;
  from: Record<SettingKey, Origin>;
}

/** Sizes that a map may be held to. */
export const SIZE_CAPS = [64, 128, 256, 512, 1024, 2048, 4096, 8192, 16384] as const;

/** What can be said of each setting: its name, what it may be, and whether it differs by target. */
export const SETTINGS: Record<SettingKey, { label: string; choices: readonly (string | number | boolean)[] }> = {
  format: { label: 'Format', choices: FORMATS },
  maxSize: { label: 'Size up to', choices: SIZE_CAPS },
  dropMips: { label: 'Drop mips', choices: [0, 1, 2, 3, 4] },
  mips: { label: 'Mips', choices: [true, false] },
  streaming: { label: 'Streams', choices: [true, false] },
  wrap: { label: 'Wrap', choices: WRAPS },
  filter: { label: 'Filter', choices: FILTERS },
};
export const SETTING_KEYS = Object.keys(SETTINGS) as SettingKey[];

/** What holds where nobody says anything. */
const USUAL_SETTINGS: MapSettings = {
  wrap: 'repeat',
  filter: 'trilinear',
  format: 'RGBA8',
  mips: true,
  streaming: true,
  maxSize: 16384,
  dropMips: 0,
};

/** What is said of a map itself: for all targets, and for single ones by the target's id. */
interface Own {
  settings?: Partial<MapSettings>;
  overrides?: Record<string, Partial<MapSettings>>;
}

/** The settings of a map in a target: its own for that target, else its own, else the target's, else the usual. */
export function settingsOf(role: Role, map: Own, target: TargetDocument, targetId: string): Resolved {
  const byTarget: Partial<MapSettings> = { format: target.formats[role], maxSize: target.maxSize, dropMips: target.dropMips };
  const layers: [Origin, Partial<MapSettings>][] = [
    ['usual', USUAL_SETTINGS],
    ['target', byTarget],
    ['map', map.settings ?? {}],
    ['here', map.overrides?.[targetId] ?? {}],
  ];
  const values = { ...USUAL_SETTINGS };
  const from = Object.fromEntries(SETTING_KEYS.map((k) => [k, 'usual'])) as Record<SettingKey, Origin>;
  for (const [origin, layer] of layers) {
    Object.assign(values, layer);
    for (const key of Object.keys(layer) as SettingKey[]) from[key] = origin;
  }
  // No map is larger than its target holds, whatever it asks for.
  values.maxSize = Math.min(values.maxSize, target.maxSize);
  return { values, from };
}

/** What a map takes at runtime. */
export interface RuntimeMap {
  width: number;
  height: number;
  /** Levels that are kept. */
  levels: number;
  bytes: number;
  /** What speaks against it, a sentence; null when nothing does. */
  problem: string | null;
}

/** Size and memory of a picture under settings, to the byte. */
export function runtimeMap(width: number, height: number, { format, maxSize, dropMips, mips }: MapSettings): RuntimeMap {
  const last = Math.floor(Math.log2(Math.max(width, height)));
  let drop = Math.min(last, dropMips);
  while (Math.max(width >> drop, height >> drop) > maxSize && drop < last) drop++;
  const [w, h] = [Math.max(1, width >> drop), Math.max(1, height >> drop)];
  const levels = mips ? last - drop + 1 : 1;
  const bytes = textureBytes(width, height, format, drop, drop + levels - 1);
  const problem = fitsBlocks(w, h, format)
    ? null
    : `${format} takes blocks of 4 texels, and ${w} × ${h} is no multiple of it. Resize the map, or choose another format`;
  return { width: w, height: h, levels, bytes, problem };
}
