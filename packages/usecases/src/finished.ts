// A mesh hooked up to finished maps, as one file that shows it anywhere.
import type { Drawn, Image, MapSet } from '@pebble/core';
import type { GlbMaterial, GlbPicture, GlbTextureUse } from '@pebble/formats/mesh';
import { PLAIN } from '@pebble/formats/mesh';
import { finishedUses } from './finished-uses';
import { fileOfLevels, levelsOf } from './packed-file';
import type { FileWay, Ports } from './ports';

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
  /** How each texture is kept; PNG unless stated, and universal blocks where these are: a model has room for no others. */
  way?: (use: GlbTextureUse) => FileWay | null;
}
const PNG: FileWay = { as: 'png', block: 'plain', mips: false };
/** Whether a model may hold blocks as they are kept so: universal ones. */
export const isUniversal = ({ block }: Pick<FileWay, 'block'>): boolean => block === 'UASTC' || block === 'ETC1S';
/** As a model holds it, in a size that blocks fill. */
const inModel = (way: FileWay | null | undefined, width: number, height: number): FileWay =>
  way && isUniversal(way) && width % 4 === 0 && height % 4 === 0 ? way : PNG;

/**
 * The maps of a finished surface as a material of glTF: base colour with opacity in alpha, occlusion, roughness and metallic in
 * one file, normals Y+, the rest as the format has it. Maps of different sizes in one file are as large as the largest.
 * @param maps as their roles have them; 16-bit ones stay 16-bit in files of their own
 */
export async function gltfMaterial(ports: Pick<Ports, 'codec' | 'write'>, name: string, maps: MapSet, look: FinishedLook): Promise<GlbMaterial> {
  const textures: Partial<Record<GlbTextureUse, GlbPicture>> = {};
  for (const { use, channels, roles } of finishedUses((role) => maps[role] !== undefined)) {
    const given = roles.flatMap((role) => maps[role] ?? []);
    const depth = given.every((m) => m.depth === 16) && use === 'normal' ? 16 : 8;
    const size = largest(given);
    const way = ports.write ? inModel(look.way?.(use), size.width, size.height) : PNG;
    const levels = levelsOf(channels, maps, { ...size, depth: way.as === 'png' ? depth : 8 }, way);
    const bytes = await fileOfLevels(ports, channels, levels, way);
    textures[use] = { name: `${name}_${use}`, bytes, mediaType: way.as === 'png' ? 'image/png' : 'image/ktx2' };
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
