import type { BlendDocument, Layer, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, channelsOfHex, inOrder } from '@pebble/core';

type Surfaces = Readonly<Record<string, SurfaceDocument>>;
type Blends = Readonly<Record<string, BlendDocument>>;
/** Where there is no colour to go by. */
export const PLAIN = '#808080';

/** Whether a layer has anything to show of a surface: one of IDs alone has nothing. */
export const isShown = ({ maps }: SurfaceDocument): boolean => BLEND_ROLES.some((role) => maps[role]);

/** The colour by which a layer is told apart: of its surface, of the ground of its blend, its own, or that of water. */
export function layerTone(layer: Layer, surfaces: Surfaces, blends: Blends, deep = 0): string {
  const { shows } = layer;
  if (shows.kind === 'water') return '#5f8f97';
  if (shows.kind === 'constant') return lifted(shows.baseColor);
  if (shows.kind === 'surface') return surfaces[shows.surface] ? lifted(surfaces[shows.surface].tone) : PLAIN;
  const ground = inOrder(blends[shows.blend]?.layers ?? {}).at(0);
  return ground && deep < 4 ? layerTone(ground, surfaces, blends, deep + 1) : PLAIN;
}

/** A tone that is seen on both panels: very dark ones are raised. */
export function lifted(tone: string): string {
  const rgb = channelsOfHex(tone);
  const most = Math.max(...rgb);
  const k = most < 110 ? 110 / Math.max(most, 1) : 1;
  return `rgb(${rgb.map((v) => Math.round(Math.min(255, v * k))).join(' ')})`;
}

/** Whether a blend shows another one, however deep inside. */
export const holds = (blend: BlendDocument, id: string, blends: Blends, deep = 0): boolean =>
  Object.values(blend.layers).some(({ shows }) => {
    if (shows.kind !== 'blend') return false;
    const inner = blends[shows.blend];
    return shows.blend === id || (deep < 8 && inner !== undefined && holds(inner, id, blends, deep + 1));
  });
