import type { DagNode } from '../compile';
import type { Shading } from '../blend';
import { SurfaceMaps, extraSlots, pictureExtras, slotIn } from '../blend';
import type { BlendRole } from '../surface';
import { BLEND_ROLES, ROLE_FACTS } from '../surface';
import type { GraphContext, StepOutput, StepSite, SurfaceValue } from './step';

export const channelType = (role: BlendRole) => (ROLE_FACTS[role].components === 3 ? 'vec3' : 'float');
/** Outputs of a step that gives a surface: its channels by themselves as well. */
export const CHANNELS: readonly StepOutput[] = BLEND_ROLES.map((role) => ({ name: role, type: channelType(role) }));
export const allOf = (surface: Shading): Record<string, DagNode | SurfaceValue> => ({ out: { surface }, ...surface.channels });

/** The maps of a surface of the project at a coordinate. @param strength of its normal */
export function laidSurface(
  { b, lists, context, far, prefix, value }: Pick<StepSite, 'b' | 'lists' | 'context' | 'far' | 'prefix' | 'value'>,
  id: string,
  uv: DagNode,
  strength: DagNode,
): Shading {
  const facts = context.surfaces[id];
  const of = ({ surfaces }: GraphContext) => surfaces[id] ?? facts;
  const relief = value('relief', 'float', (_, c) => ({ [`${prefix}relief`]: [of(c).reliefM] }));
  const lowest = value('lowest', 'float', (_, c) => ({ [`${prefix}lowest`]: [-of(c).mid * of(c).reliefM] }));
  const slot = slotIn(lists.slots, id);
  pictureExtras(lists.masks, id, facts.roles);
  return new SurfaceMaps(b, { slot, roles: facts.roles, pictures: extraSlots(lists.masks, id, facts.roles), relief, lowest }, uv, far).look(strength);
}
