// What is lost or doubtful where a channel crosses into a file.
import type { ChannelRoute, MapRoute, OutputChannel, RecipeFile } from '../document';
import { OUTPUT_CHANNELS } from '../document';
import type { Role } from '../surface';
import { FED_BY, ROLE_FACTS } from '../surface';
import { changes } from './steps';

/** What is known of a map that is packed. */
export interface PackedMap {
  depth: 8 | 16 | 32;
  colourSpace: 'srgb' | 'linear' | 'data';
}
export interface Loss {
  code: 'depth' | 'colour-in-data' | 'twice' | 'alpha-covers' | 'stretched';
  /** In as few characters as stand at a crossing. */
  short: string;
  message: string;
}

const called = (role: Role): string => ROLE_FACTS[role].label.toLowerCase();
const sameSource = (a: ChannelRoute | undefined, b: MapRoute): boolean => a?.from === 'map' && a.role === b.role && a.channel === b.channel;

/** What is lost at a channel of a file, the worst first. @param map what feeds it; null where it is not known */
export function lossesAt(file: RecipeFile, channel: OutputChannel, map: PackedMap | null): Loss[] {
  const route = file.channels[channel];
  if (route?.from !== 'map') return [];
  const { role } = route;
  const out: Loss[] = [];
  const deep = map ? map.depth > 8 : role === 'height';
  if (deep && file.depth === 8 && !file.dither)
    out.push({
      code: 'depth',
      short: '8 bit',
      message: `8 bits hold 256 steps of ${called(role)}; give the file 16 bits to keep them all, or dither`,
    });
  const coloured = map ? map.colourSpace === 'srgb' : ROLE_FACTS[role].colourSpace === 'srgb';
  if (coloured && route.space !== 'linear' && !isWhole(file, route))
    out.push({
      code: 'colour-in-data',
      short: 'sRGB',
      message: `${ROLE_FACTS[role].label} is stored as sRGB, and this file is read as data: take it as linear light, or give it a file of its own`,
    });
  const twice = OUTPUT_CHANNELS.slice(0, OUTPUT_CHANNELS.indexOf(channel)).find((c) => sameSource(file.channels[c], route));
  if (twice) out.push({ code: 'twice', short: 'twice', message: `The same stands in ${twice.toUpperCase()} already` });
  if (channel === 'a' && role !== 'opacity' && isColour(file))
    out.push({ code: 'alpha-covers', short: 'alpha', message: `Whoever reads this file as a colour may take ${called(role)} in alpha for opacity` });
  if (changes(route) && deep === false && file.depth === 8 && route.levels && route.levels.high - route.levels.low < 0.25)
    out.push({ code: 'stretched', short: 'steps', message: 'Levels stretch few of 256 steps over the whole range: bands are seen' });
  return out;
}

/** Whether a route's map fills red, green and blue of the file untouched, as colours do. */
const isWhole = (file: RecipeFile, { role }: MapRoute): boolean =>
  (['r', 'g', 'b'] as const).every((c, i) => {
    const route = file.channels[c];
    return route?.from === 'map' && route.role === role && route.channel === i && !route.invert && !changes(route);
  });
const isColour = (file: RecipeFile): boolean => {
  const route = file.channels.r;
  return route?.from === 'map' && ROLE_FACTS[route.role].colourSpace === 'srgb' && isWhole(file, route);
};

/** Why a role that a source has goes into no file. */
export interface LeftOut {
  role: Role;
  why: string;
}

/**
 * Roles that a source has and no file of a recipe takes, each with why that may be well: what stands everywhere the same, what
 * another of them gives again, what no layout of the target reads.
 * @param even roles whose map is the same everywhere, as far as is known
 * @param reads roles that the target reads
 */
export function leftOut(files: readonly RecipeFile[], has: readonly Role[], even: ReadonlySet<Role>, reads: readonly Role[] | null): LeftOut[] {
  const taken = new Set(files.flatMap((f) => Object.values(f.channels).flatMap((r) => (r.from === 'map' ? [r.role] : []))));
  return has.flatMap((role) => {
    if (taken.has(role)) return [];
    const from = FED_BY[role]?.from;
    const gives =
      from && taken.has(from)
        ? from
        : (Object.entries(FED_BY) as [Role, { from: Role }][]).find(([to, { from: f }]) => f === role && taken.has(to))?.[0];
    const why = even.has(role)
      ? 'is the same everywhere'
      : gives
        ? `is ${called(gives)} turned over, which is packed`
        : reads && !reads.includes(role)
          ? 'is not read by the target'
          : 'goes into no file';
    return [{ role, why }];
  });
}
