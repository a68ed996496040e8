// Which textures of glTF some roles become, before any pixel is looked at.
import type { ChannelRoute, RecipeFile, Role } from '@pebble/core';
import { withNeutral } from '@pebble/core';
import type { GlbTextureUse } from '@pebble/formats/mesh';

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
