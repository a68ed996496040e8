import type { DagNode } from '../compile';
import type { Shading } from '../blend';
import type { MasterDocument, MasterOutput } from '../document';
import type { BlendRole, ExtraRole } from '../surface';
import { BLEND_ROLES, EXTRA_ROLES, ROLE_FACTS } from '../surface';
import { neutralShading } from './neutral';
import type { GraphValue, Lowering } from './step';
import { GraphError, isSurface } from './step';

/** What feeds a master's outputs beside the usual six by themselves. @throws GraphError */
export function extrasOf(lowering: Lowering, { outputs }: MasterDocument): Partial<Record<ExtraRole, DagNode>> {
  const { b } = lowering;
  const found: Partial<Record<ExtraRole, DagNode>> = {};
  for (const name of EXTRA_ROLES) {
    const source = outputs[name];
    if (!source) continue;
    const node = lowering.source(source, { operation: '', port: name });
    if (isSurface(node))
      throw new GraphError('type-mismatch', `The output ${name} takes numbers, and a surface comes in. Link one of its channels`, '', name);
    const wanted = ROLE_FACTS[name].components === 3 ? 'vec3' : 'float';
    if (node.type !== wanted && node.type !== 'float')
      throw new GraphError('type-mismatch', `The output ${name} takes a ${wanted}, and a ${node.type} comes in`, '', name);
    found[name] = node.type === wanted ? node : b.combine(node, node, node);
  }
  return found;
}

/** All that a master gives: the surface of its output, channels that are fed by themselves standing in for those of it. @throws GraphError */
export function shadingOf(lowering: Lowering, { outputs }: MasterDocument): Shading {
  const { b } = lowering;
  const from = (name: MasterOutput): GraphValue | null => {
    const source = outputs[name];
    return source ? lowering.source(source, { operation: '', port: name }) : null;
  };
  const whole = from('surface');
  if (whole && !isSurface(whole))
    throw new GraphError('type-mismatch', `The output surface takes a surface, and a ${whole.type} comes in. Link it to a channel`, '', 'surface');
  const shading = whole?.surface ?? neutralShading({ b });
  const channels = Object.fromEntries(
    BLEND_ROLES.map((role) => {
      const own = from(role);
      if (own && isSurface(own))
        throw new GraphError('type-mismatch', `The output ${role} takes numbers, and a surface comes in. Link one of its channels`, '', role);
      const wanted = shading.channels[role].type;
      if (own && own.type !== wanted && own.type !== 'float')
        throw new GraphError('type-mismatch', `The output ${role} takes a ${wanted}, and a ${own.type} comes in`, '', role);
      return [role, own && own.type !== wanted ? b.combine(own, own, own) : (own ?? shading.channels[role])];
    }),
  ) as Record<BlendRole, DagNode>;
  return { ...shading, channels };
}
