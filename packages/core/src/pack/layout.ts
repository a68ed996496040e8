import type { ChannelRoute, OutputChannel, RecipeFile } from '../document';
import { OUTPUT_CHANNELS } from '../document';
import type { Recognition } from '../recognise';
import type { Role } from '../surface';
import { ROLE_FACTS, ROLES, isRole } from '../surface';

/** A layout text that cannot be read; `at` counts characters from 0. */
export class LayoutError extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message);
    this.name = 'LayoutError';
  }
}

/**
 * Reads a layout such as `r=occlusion,g=1-roughness,b=metallic,a=0.5`. A channel is `role`, `role.r|g|b|a`, `1-role` or
 * a number from 0 to 1. At least one channel must be given.
 * @throws LayoutError with the place of the mistake.
 */
export function parseChannelLayout(text: string): RecipeFile['channels'] {
  const channels: RecipeFile['channels'] = {};
  let at = 0;
  for (const part of text.split(',')) {
    const match = /^\s*([a-z]+)\s*=\s*(\S.*?)\s*$/i.exec(part);
    if (!match) throw new LayoutError(`"${part.trim()}" is not of the form channel=source`, at);
    const channel = match[1].toLowerCase();
    if (!/^[rgba]$/.test(channel)) throw new LayoutError(`"${match[1]}" is not one of the channels r, g, b, a`, at);
    if (channels[channel as OutputChannel]) throw new LayoutError(`Channel ${channel} is given twice`, at);
    channels[channel as OutputChannel] = parseSource(match[2], at + part.indexOf(match[2]));
    at += part.length + 1;
  }
  return channels;
}

function parseSource(text: string, at: number): ChannelRoute {
  if (/^[\d.+-]/.test(text) && !/^1\s*-\s*[a-z]/i.test(text)) {
    const value = Number(text);
    if (!(value >= 0 && value <= 1)) throw new LayoutError(`"${text}" is not a number from 0 to 1`, at);
    return { from: 'constant', value };
  }
  const match = /^(1\s*-\s*)?([a-z]+)(?:\.([a-z]+))?$/i.exec(text);
  if (!match) throw new LayoutError(`"${text}" is not a role, role.channel, 1-role or number`, at);
  const role = match[2];
  if (!isRole(role)) throw new LayoutError(`"${role}" is not a role; roles are ${ROLES.join(', ')}`, at);
  if (match[3] && !/^[rgba]$/.test(match[3])) throw new LayoutError(`"${match[3]}" is not one of the channels r, g, b, a`, at);
  return { from: 'map', role, channel: (match[3] ? 'rgba'.indexOf(match[3]) : 0) as 0 | 1 | 2 | 3, invert: Boolean(match[1]) };
}

/** A layout as text; what a text cannot say (levels, colour spaces) is left out. */
export const layoutText = (channels: RecipeFile['channels']): string =>
  OUTPUT_CHANNELS.flatMap((c) => {
    const route = channels[c];
    if (!route) return [];
    const wide = route.from === 'map' && ROLE_FACTS[route.role].components > 1;
    const source =
      route.from === 'constant' ? String(route.value) : `${route.invert ? '1-' : ''}${route.role}${wide ? `.${'rgba'[route.channel]}` : ''}`;
    return [`${c}=${source}`];
  }).join(',');

/**
 * The layout that a file seems to have: its packed channels, or one map with what its alpha holds. Null where nothing is known.
 * @param channels how many the file has
 */
export function guessedLayout(
  { role, packed, alpha }: Pick<Recognition, 'role' | 'packed' | 'alpha'>,
  channels: number,
): RecipeFile['channels'] | null {
  const from = (of: Role, channel: number): ChannelRoute => ({ from: 'map', role: of, channel: channel as 0, invert: false });
  if (packed) {
    const known = OUTPUT_CHANNELS.flatMap((c) => (packed[c] ? [[c, from(packed[c], 0)] as const] : []));
    return known.length ? Object.fromEntries(known) : null;
  }
  if (!role) return null;
  const count = ROLE_FACTS[role].components === 3 ? Math.min(3, channels < 3 ? 1 : 3) : 1;
  const own = OUTPUT_CHANNELS.slice(0, count).map((c, i) => [c, from(role, i)] as const);
  return Object.fromEntries([...own, ...(alpha && channels === 4 ? [['a', from(alpha, 0)] as const] : [])]);
}
