import type { Image, Role } from '@pebble/core';
import { ROLE_FACTS, fullScale, srgbToLinear } from '@pebble/core';

const turn = (radians: number) => Math.round(((radians * 180) / Math.PI + 360) % 360);

/**
 * What a map says at a texel, in one or two lines: as stored (8-bit) and in the unit of its role. Colours as linear light,
 * normals as the slope and where it looks (0° right, 90° up), heights in millimetres about the middle.
 */
export function readout(role: Role, image: Image, x: number, y: number, surface: { reliefM: number; mid: number }): string[] {
  const at = (y * image.width + x) * image.channels;
  const value = (c: number) => image.data[at + Math.min(c, image.channels - 1)] / fullScale(image.depth);
  const bytes = [0, 1, 2].map((c) => Math.round(value(c) * 255)).join(' ');
  if (role === 'normal') {
    const [nx, ny] = [value(0) * 2 - 1, value(1) * 2 - 1];
    const slope = (Math.acos(Math.min(1, Math.sqrt(Math.max(0, 1 - nx * nx - ny * ny)))) * 180) / Math.PI;
    return [bytes, slope < 0.5 ? 'flat' : `${slope.toFixed(0)}° to ${turn(Math.atan2(ny, nx))}°`];
  }
  if (role === 'height') return [value(0).toFixed(4), `${((value(0) - surface.mid) * surface.reliefM * 1000).toFixed(1)} mm`];
  if (ROLE_FACTS[role].components === 3) return [bytes, [0, 1, 2].map((c) => srgbToLinear(value(c)).toFixed(3)).join(' ')];
  return [String(Math.round(value(0) * 255)), value(0).toFixed(3)];
}
