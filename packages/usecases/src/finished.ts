// A mesh hooked up to finished maps, as one file that shows it anywhere.
import type { Drawn, Image, MapSet } from '@pebble/core';
import { packChannels } from '@pebble/core';
import type { GlbMaterial, GlbPicture, GlbTextureUse } from '@pebble/formats/mesh';
import { PLAIN } from '@pebble/formats/mesh';
import { finishedUses } from './finished-uses';
import type { Ports } from './ports';

/** The largest of some maps, in pixels. */
const largest = (maps: readonly Image[]): { width: number; height: number } =>
  maps.reduce((a, b) => (b.width * b.height > a.width * a.height ? b : a), { width: 1, height: 1 });

/** How a material of finished maps is laid and drawn. */
export interface FinishedLook {
  /** The set of texture coordinates. */
  set: number;
  drawn?: Drawn;
  /** Textures repeat so many times over the coordinates. */
  scale?: number;
}

/**
 * The maps of a finished surface as a material of glTF: base colour with opacity in alpha, occlusion, roughness and metallic in
 * one file, normals Y+, the rest as the format has it. Maps of different sizes in one file are as large as the largest.
 * @param maps as their roles have them; 16-bit ones stay 16-bit in files of their own
 */
export async function gltfMaterial({ codec }: Pick<Ports, 'codec'>, name: string, maps: MapSet, look: FinishedLook): Promise<GlbMaterial> {
  const textures: Partial<Record<GlbTextureUse, GlbPicture>> = {};
  for (const { use, channels, roles } of finishedUses((role) => maps[role] !== undefined)) {
    const given = roles.flatMap((role) => maps[role] ?? []);
    const depth = given.every((m) => m.depth === 16) && use === 'normal' ? 16 : 8;
    const packed = packChannels(channels, maps, { ...largest(given), depth });
    textures[use] = { name: `${name}_${use}`, bytes: await codec.encode(packed), mediaType: 'image/png' };
  }
  return {
    ...PLAIN,
    textures,
    set: look.set,
    scale: look.scale ?? 1,
    drawn: look.drawn ?? { as: maps.opacity ? 'cut-out' : 'solid', cut: PLAIN.drawn.cut },
    occluded: maps.occlusion !== undefined,
  };
}
