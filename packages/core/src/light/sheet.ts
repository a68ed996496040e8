import type { Image } from '../image';
import { fullScale, makeImage, resize } from '../image';
import type { MapSet, SurfaceFacts } from '../surface';
import { BLEND_ROLES } from '../surface';
import { GRAZING, renderFlat } from './flat';
import { renderPebble } from './pebble';
import type { LightData } from './prefilter';

const LARGE = 512;
const SMALL = 220;
const PAPER = 38;

/**
 * A surface on one sheet, to be judged as a picture. Above: one repetition lit, four by four of them, one under grazing
 * light with its own shadows. Below: base colour, normal, roughness, occlusion, metallic, height, and the pebble.
 */
export function surfaceSheet(maps: MapSet, facts: SurfaceFacts, light: LightData): Image {
  const small = Object.fromEntries(Object.entries(maps).map(([role, map]) => [role, resize(map, LARGE / 2, LARGE / 2)])) as MapSet;
  const sheet = makeImage({ width: LARGE * 3, height: LARGE + SMALL, channels: 3, colourSpace: 'srgb' });
  (sheet.data as Uint8Array).fill(PAPER);
  const lit = (of: MapSet, times: number, over = {}) =>
    resize(renderFlat(of, facts, light, { size: LARGE * 2, widthM: facts.sizeM * times, ...over }), LARGE, LARGE);
  paste(sheet, lit(maps, 1), 0, 0);
  paste(sheet, lit(small, 4), LARGE, 0);
  paste(sheet, lit(maps, 1, { key: GRAZING, sky: 0.35 }), LARGE * 2, 0);
  BLEND_ROLES.forEach((role, i) => {
    const map = maps[role];
    if (map) paste(sheet, resize(map, SMALL - 4, SMALL - 4), i * SMALL, LARGE + 2);
  });
  paste(sheet, renderPebble(maps, facts, light, { width: SMALL - 4, height: 150, widthM: 1.1 }), BLEND_ROLES.length * SMALL, LARGE + 34);
  return sheet;
}

/** Copies a picture as it is stored; grey becomes three equal channels, alpha lays it over. */
function paste(onto: Image, from: Image, left: number, top: number): void {
  const k = 255 / fullScale(from.depth);
  for (let y = 0; y < from.height; y++)
    for (let x = 0; x < from.width; x++) {
      const i = (y * from.width + x) * from.channels;
      const o = ((top + y) * onto.width + left + x) * 3;
      const alpha = from.channels === 4 ? from.data[i + 3] / 255 : 1;
      for (let c = 0; c < 3; c++) onto.data[o + c] = onto.data[o + c] * (1 - alpha) + from.data[i + (from.channels >= 3 ? c : 0)] * k * alpha;
    }
}
