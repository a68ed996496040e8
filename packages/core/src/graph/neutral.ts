import type { Shading } from '../blend';
import type { Builder } from '../compile';
import { BLEND_ROLES, ROLE_FACTS } from '../surface';

/** What a surface is that nothing was said of. */
export function neutralShading({ b }: { b: Builder }): Shading {
  const channels = Object.fromEntries(BLEND_ROLES.map((role) => [role, role === 'height' ? b.constant(0) : b.constant(...ROLE_FACTS[role].neutral)]));
  return { channels: channels as Shading['channels'], extras: {}, specular: b.constant(ROLE_FACTS.specular.neutral[0]), spread: b.constant(0) };
}
