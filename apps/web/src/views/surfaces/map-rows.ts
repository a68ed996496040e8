import type { MapEntry, Role, RuntimeMap, SurfaceDocument, TargetDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS, runtimeMap, settingsOf } from '@pebble/core';
import { settingText } from './kept';

/** A map of a surface with what it is at runtime. */
export interface MapRow {
  role: Role;
  label: string;
  entry: MapEntry;
  format: string;
  runtime: RuntimeMap;
}

/** Maps in the order of their roles, as a target keeps them. @param id of the target */
export function mapRows(surface: SurfaceDocument, target: TargetDocument, id: string): MapRow[] {
  return ROLES.flatMap((role) => {
    const entry = surface.maps[role];
    if (!entry) return [];
    const { values } = settingsOf(role, entry, target, id);
    const { label } = ROLE_FACTS[role];
    return [{ role, label, entry, format: settingText('format', values.format), runtime: runtimeMap(entry.width, entry.height, values) }];
  });
}
