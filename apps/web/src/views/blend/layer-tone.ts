import type { BlendDocument, Layer, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, inOrder } from '@pebble/core';

type Surfaces = Readonly<Record<string, SurfaceDocument>>;
type Blends = Readonly<Record<string, BlendDocument>>;
/** Where there is no colour to go by. */
export const PLAIN = '#808080';

/** Whether a layer has anything to show of a surface: one of IDs alone has nothing. */
export const isShown = ({ maps }: SurfaceDocument): boolean => BLEND_ROLES.some((role) => maps[role]);

/** The colour by which a layer is told apart: of its surface, of the ground of its blend, its own, or that of water. */
export function layerTone(layer: Layer, surfaces: Surfaces, blends: Blends, deep = 0): string {
  if (layer.water) return '#5f8f97';
  if (layer.constant) return lifted(layer.constant.baseColor);
  const surface = surfaces[layer.surface];
  if (surface) return lifted(surface.tone);
  const ground = inOrder(blends[layer.surface]?.layers ?? {}).at(0);
  return ground && deep < 4 ? layerTone(ground, surfaces, blends, deep + 1) : PLAIN;
}

/** A tone that is seen on both panels: very dark ones are raised. */
export function lifted(tone: string): string {
  const rgb = [1, 3, 5].map((i) => parseInt(tone.slice(i, i + 2), 16));
  const most = Math.max(...rgb);
  const k = most < 110 ? 110 / Math.max(most, 1) : 1;
  return `rgb(${rgb.map((v) => Math.round(Math.min(255, v * k))).join(' ')})`;
}

/** Whether a blend shows another one, however deep inside. */
export const holds = (blend: BlendDocument, id: string, blends: Blends, deep = 0): boolean =>
  Object.values(blend.layers).some((l) => l.surface === id || (deep < 8 && blends[l.surface] && holds(blends[l.surface], id, blends, deep + 1)));
