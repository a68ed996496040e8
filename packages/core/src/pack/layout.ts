import type { ChannelRoute, OutputChannel, RecipeFile } from '../document';
import { isRole, ROLES } from '../surface';

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
