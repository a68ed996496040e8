import type { AnyDocument, ChannelRoute, OutputChannel, PackedMap, RecipeFile, Role } from '@pebble/core';
import { ROLE_FACTS, changes, lossesAt, neutralStored, routed } from '@pebble/core';
import { availableRoles } from '@pebble/usecases';

/** A row of the routing grid: something that can feed a channel. */
export interface SourceRow {
  key: string;
  label: string;
  hue: string;
  route: ChannelRoute;
  /** Whether the shown source has it. */
  missing: boolean;
  /** What is known of its map; null where there is none, or it is worked out. */
  map: PackedMap | null;
}

const COMPONENT_NAMES: Partial<Record<Role, readonly string[]>> = { normal: ['X', 'Y', 'Z'] };
const HUES = ['#b03a2e', '#2e8b3d', '#2c4fb0', '#777'];

const routeKey = (route: ChannelRoute): string => (route.from === 'map' ? `${route.role}.${route.channel}` : 'constant');

/** Rows for a source: every component of every map it has, then a constant; routed roles that it lacks come too. */
export function sourceRows(
  source: AnyDocument | undefined,
  files: readonly RecipeFile[],
  documents: Readonly<Record<string, AnyDocument>>,
): SourceRow[] {
  const have = source ? availableRoles(source, documents) : [];
  const used = files.flatMap((f) => Object.values(f.channels)).flatMap((r) => (r.from === 'map' ? [r.role] : []));
  const order = Object.keys(ROLE_FACTS) as Role[];
  const roles = order.filter((r) => have.includes(r) || used.includes(r));
  const rows = roles.flatMap((role) => {
    const { components, label } = ROLE_FACTS[role];
    return Array.from({ length: components }, (_, channel): SourceRow => {
      const route: ChannelRoute = { from: 'map', role, channel: channel as 0, invert: false };
      return {
        key: routeKey(route),
        label: components === 1 ? label : `${label} ${(COMPONENT_NAMES[role] ?? ['R', 'G', 'B'])[channel]}`,
        hue: components === 1 ? HUES[3] : HUES[channel],
        route,
        missing: !have.includes(role),
        map: source?.kind === 'surface' ? (source.maps[role] ?? null) : null,
      };
    });
  });
  return [...rows, { key: 'constant', label: 'A constant', hue: '#bbb', route: { from: 'constant', value: 1 }, missing: false, map: null }];
}

export interface Crossing {
  /** Null: nothing is routed here. */
  text: string | null;
  warning: string | null;
  operated: boolean;
}

/** What stands at a crossing of a row and an output channel. */
export function crossingOf(row: SourceRow, file: RecipeFile, channel: OutputChannel): Crossing {
  const route = file.channels[channel];
  if (!route || routeKey(route) !== row.key) return { text: null, warning: null, operated: false };
  if (route.from === 'constant') return { text: String(+route.value.toFixed(3)), warning: null, operated: true };
  if (row.missing) {
    const stored = neutralStored(route.role, route.channel);
    const value = String(+routed(route, stored).toFixed(2));
    return {
      text: value,
      warning: `There is no ${ROLE_FACTS[route.role].label.toLowerCase()} map: ${value} stands everywhere`,
      operated: route.invert,
    };
  }
  const [loss] = lossesAt(file, channel, row.map);
  const text = `${route.invert ? '1 −' : ''}${changes(route) ? '~' : ''}` || loss?.short || '=';
  return { text, warning: loss?.message ?? null, operated: route.invert || changes(route) };
}
