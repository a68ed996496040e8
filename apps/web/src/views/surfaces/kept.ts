import type { MapEntry, MapSettings, Origin, Role, RuntimeMap, SettingKey, SurfaceDocument, TargetDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS, SETTINGS, runtimeMap, settingsOf } from '@pebble/core';

export type Shown = 'all' | string;

/** A map in the table of settings. */
export interface KeptRow {
  key: string;
  surface: string;
  surfaceName: string;
  role: Role;
  label: string;
  entry: MapEntry;
  values: MapSettings;
  from: Record<SettingKey, Origin>;
  runtime: RuntimeMap;
}
export type SortKey = 'name' | 'pixels' | 'bytes' | SettingKey;

/** Rows of surfaces as they are kept in a target, of which only those that a text names; sorted. */
export function keptRows(
  surfaces: readonly { id: string; body: SurfaceDocument }[],
  target: { id: string; body: TargetDocument },
  text: string,
  sort: { by: SortKey; down: boolean },
): KeptRow[] {
  const words = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
  const rows = surfaces.flatMap(({ id, body }) =>
    ROLES.flatMap((role) => {
      const entry = body.maps[role];
      if (!entry) return [];
      const { values, from } = settingsOf(role, entry, target.body, target.id);
      const label = ROLE_FACTS[role].label;
      const searched = `${body.name} ${label} ${entry.fileName} ${values.format} ${entry.width}`.toLowerCase();
      if (!words.every((w) => searched.includes(w))) return [];
      const runtime = runtimeMap(entry.width, entry.height, values);
      return [{ key: `${id} ${role}`, surface: id, surfaceName: body.name, role, label, entry, values, from, runtime }];
    }),
  );
  if (sort.by === 'name') return sort.down ? rows.reverse() : rows;
  const value = (r: KeptRow): number | string =>
    sort.by === 'pixels' ? r.entry.width * r.entry.height : sort.by === 'bytes' ? r.runtime.bytes : String(r.values[sort.by as SettingKey]);
  const less = (a: KeptRow, b: KeptRow) => {
    const [x, y] = [value(a), value(b)];
    return typeof x === 'number' && typeof y === 'number' ? x - y : String(x).localeCompare(String(y), 'en', { numeric: true });
  };
  return rows.sort((a, b) => (sort.down ? less(b, a) : less(a, b)));
}

/** Puts a setting of a map, for all targets or one; undefined goes back to what is inherited. Empty objects are not kept. */
export function putSetting(entry: MapEntry, shown: Shown, key: SettingKey, value: MapSettings[SettingKey] | undefined): void {
  const own: Partial<MapSettings> = { ...(shown === 'all' ? entry.settings : entry.overrides?.[shown]) };
  if (value === undefined) delete own[key];
  else Object.assign(own, { [key]: value });
  const empty = !Object.keys(own).length;
  if (shown === 'all') {
    if (empty) delete entry.settings;
    else entry.settings = own;
    return;
  }
  const overrides = { ...entry.overrides };
  if (empty) delete overrides[shown];
  else overrides[shown] = own;
  if (Object.keys(overrides).length) entry.overrides = overrides;
  else delete entry.overrides;
}

/** A value in words. */
export function settingText(key: SettingKey, value: MapSettings[SettingKey]): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (key === 'format') return String(value).replace('_', ' ').replace('x', '×');
  if (key === 'maxSize') return value === 16384 ? 'any size' : `${value} px`;
  return String(value);
}

/** What each setting may be, as options of a list. */
export const CHOICES = Object.fromEntries(
  (Object.keys(SETTINGS) as SettingKey[]).map((key) => [
    key,
    (SETTINGS[key].choices as readonly MapSettings[SettingKey][]).map((value) => ({ value: String(value), text: settingText(key, value) })),
  ]),
) as Record<SettingKey, { value: string; text: string }[]>;

/** The value that an option stands for. */
export const parseChoice = (key: SettingKey, text: string): MapSettings[SettingKey] | undefined =>
  (SETTINGS[key].choices as readonly MapSettings[SettingKey][]).find((v) => String(v) === text);
