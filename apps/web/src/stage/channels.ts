import type { DrawnAs, Material } from '@pebble/core';
import { DRAWN_AS, EXTRA_ROLES, ROLE_FACTS, givenRoles } from '@pebble/core';
import type { StageChannel } from '@pebble/stage';

/** The channels that anything on the stage can be looked at in. */
export const CHANNELS: readonly { id: StageChannel; name: string }[] = [
  { id: 'lit', name: 'Lit' },
  { id: 'baseColor', name: 'Base colour' },
  { id: 'normal', name: 'Normal' },
  { id: 'roughness', name: 'Roughness' },
  { id: 'occlusion', name: 'Occlusion' },
  { id: 'metallic', name: 'Metallic' },
  { id: 'height', name: 'Height' },
];
/** The channels that a material can be looked at in: those that only some have where it gives them. */
export const channelsOf = (material: Material | null): readonly { id: StageChannel; name: string }[] => {
  const given = material ? givenRoles(material.near) : [];
  return [...CHANNELS, ...EXTRA_ROLES.flatMap((id) => (given.includes(id) ? [{ id, name: ROLE_FACTS[id].label }] : []))];
};

const DRAWN_NAMES: Record<DrawnAs, string> = { solid: 'solid', 'cut-out': 'cut out', glass: 'glass', additive: 'additive card' };
/** How something goes over what is behind it, as people choose it. */
export const DRAWN_CHOICES = DRAWN_AS.map((id) => ({ id, name: DRAWN_NAMES[id] }));
