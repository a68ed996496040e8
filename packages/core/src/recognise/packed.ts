import type { ChannelOrder, Role } from '../surface';
import type { Measured } from './measure';
import type { Recognition } from './recognition';

type Channel = 'r' | 'g' | 'b' | 'a';
const CHANNELS: readonly Channel[] = ['r', 'g', 'b', 'a'];

/** A channel that changes less says nothing. */
const CHANGES = 1 / 255;

/**
 * What the channels of a packed map hold, by the order that its name spells: for sure when every role is clear and there is
 * one for each channel that says something. `metallicRoughness` of glTF leaves red out.
 */
export function packedRoles(
  { ranges, channels }: Measured,
  order: ChannelOrder | null,
): { roles: NonNullable<Recognition['packed']>; sure: boolean } {
  const roles: NonNullable<Recognition['packed']> = {};
  const says = ranges.map(({ lo, hi }) => hi - lo > CHANGES);
  const pair =
    order
      ?.map(([role]) => role)
      .sort()
      .join() === 'metallic,roughness' &&
    order.length === 2 &&
    channels > 2 &&
    !says[0];
  const named: (readonly Role[])[] = pair ? [[], ['roughness'], ['metallic']] : [...(order ?? [])];
  CHANNELS.slice(0, channels).forEach((key, c) => {
    const [role] = named[c] ?? [];
    if (role) roles[key] = role;
    else if (says[c]) roles[key] = 'mask';
  });
  const clear = named.every((role) => role.length < 2) && named.length <= channels;
  return { roles, sure: order !== null && clear && says.every((s, c) => !s || named[c]?.length === 1) };
}
