// A mesh hooked up to finished maps, as one file that shows it anywhere.
import type { ChannelRoute, Drawn, Image, MapSet, RecipeFile, Role } from '@pebble/core';
import { packChannels, withNeutral } from '@pebble/core';
import type { GlbMaterial, GlbPicture, GlbTextureUse } from '@pebble/formats/mesh';
import { PLAIN } from '@pebble/formats/mesh';
import type { Ports } from './ports';

const from = (role: Role, channel: 0 | 1 | 2 = 0): ChannelRoute => ({ from: 'map', role, channel, invert: false });
const whole = (role: Role) => ({ r: from(role, 0), g: from(role, 1), b: from(role, 2) });

/** What each texture of glTF 2.0 holds, by channel, and which roles make it worth a file. */
const LAYOUTS: Record<GlbTextureUse, { roles: readonly Role[]; channels: Partial<Record<'r' | 'g' | 'b' | 'a', ChannelRoute>> }> = {
  baseColor: { roles: ['baseColor', 'opacity'], channels: { ...whole('baseColor'), a: from('opacity') } },
  orm: { roles: ['occlusion', 'roughness', 'metallic'], channels: { r: from('occlusion'), g: from('roughness'), b: from('metallic') } },
  normal: { roles: ['normal'], channels: whole('normal') },
  emissive: { roles: ['emissive'], channels: whole('emissive') },
  transmission: { roles: ['transmission'], channels: { r: from('transmission') } },
  specular: {
    roles: ['specular'],
    channels: { r: { from: 'constant', value: 1 }, g: { from: 'constant', value: 1 }, b: { from: 'constant', value: 1 }, a: from('specular') },
  },
  // No role of ours: masters give it.
  clearcoat: { roles: [], channels: {} },
};

/** A texture of a glTF material before it is a file. */
export interface FinishedUse {
  use: GlbTextureUse;
  /** Where a map is missing its neutral value stands. */
  channels: RecipeFile['channels'];
  /** Of its roles those that there are. */
  roles: readonly Role[];
}

/** The textures that some roles become, as glTF has them. */
export function finishedUses(has: (role: Role) => boolean): FinishedUse[] {
  return (Object.entries(LAYOUTS) as [GlbTextureUse, (typeof LAYOUTS)[GlbTextureUse]][]).flatMap(([use, layout]) => {
    const roles = layout.roles.filter(has);
    if (!roles.length) return [];
    // Alpha that covers everything would only be paid for.
    const routed = Object.fromEntries(Object.entries(layout.channels).filter(([c]) => use !== 'baseColor' || c !== 'a' || has('opacity')));
    return [{ use, roles, channels: withNeutral(routed, has) }];
  });
}

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
