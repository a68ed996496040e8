import { srgbToLinear } from './srgb';

/** What each channel of linear light adds to how bright it looks. Source: ITU-R BT.709. */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;

/** The three channels of `#rrggbb`, 0–255. */
export const channelsOfHex = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];
/** Channels of 0–255 as `#rrggbb`. */
export const hexOf = (rgb: readonly number[]): string => `#${rgb.map((v) => v.toString(16).padStart(2, '0')).join('')}`;
/** `#rrggbb` as linear light. */
export const linearOf = (hex: string): [number, number, number] => channelsOfHex(hex).map((v) => srgbToLinear(v / 255)) as [number, number, number];
