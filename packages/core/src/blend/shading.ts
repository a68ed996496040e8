import type { Builder, DagNode } from '../compile';
import type { BlendRole, ExtraRole } from '../surface';
import { EXTRA_ROLES, ROLE_FACTS } from '../surface';

export type Extras = Partial<Record<ExtraRole, DagNode>>;

/** What a layer is at a point, or several are together. Height is in metres; colour is linear light. */
export interface Shading {
  channels: Record<BlendRole, DagNode>;
  /** Roles that only some surfaces have: what is not there is neutral. A specular level that is said stands in `specular` too. */
  extras: Extras;
  /** glTF specular at an index of refraction of 1.5 being one half: F0 of what is no metal is 0.08 times it. */
  specular: DagNode;
  /** Standard deviation of the heights under a pixel, in metres. */
  spread: DagNode;
}

/** The roles that either of two shadings has, by a weight: where one has none, its neutral stands. */
export function mixedExtras(b: Builder, below: Extras, top: Extras, w: DagNode): Extras {
  const of = (extras: Extras, role: ExtraRole) => extras[role] ?? b.constant(...ROLE_FACTS[role].neutral);
  return Object.fromEntries(EXTRA_ROLES.flatMap((role) => (below[role] || top[role] ? [[role, b.mix(of(below, role), of(top, role), w)]] : [])));
}

/** One shading over another by a weight: colour in linear light, normals in slope space, occlusion darkened where both are seen. */
export function mixedShading(b: Builder, below: Shading, top: Shading, w: DagNode, contact: DagNode): Shading {
  const [under, over] = [below.channels, top.channels];
  return {
    channels: {
      baseColor: b.mix(under.baseColor, over.baseColor, w),
      normal: b.node('mixnormal', [under.normal, over.normal, w]),
      roughness: b.mix(under.roughness, over.roughness, w),
      metallic: b.mix(under.metallic, over.metallic, w),
      occlusion: b.node('seamshade', [b.mix(under.occlusion, over.occlusion, w), contact, w]),
      height: b.mix(under.height, over.height, w),
    },
    ...withSpecular(mixedExtras(b, below.extras, top.extras, w), b.mix(below.specular, top.specular, w)),
    spread: b.mix(below.spread, top.spread, w),
  };
}

/** Extras with a specular level: where one is said among them, it is this one. */
export const withSpecular = (extras: Extras, specular: DagNode): Pick<Shading, 'extras' | 'specular'> => ({
  extras: extras.specular ? { ...extras, specular } : extras,
  specular,
});
