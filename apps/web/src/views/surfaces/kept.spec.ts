import type { MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { SETTING_KEYS, TARGETS } from '@pebble/core';
import { CHOICES, keptRows, parseChoice, putSetting, settingText } from './kept';

const entry = (width: number): MapEntry => ({
  blob: 'b',
  fileName: 'a.png',
  bytes: 1,
  width,
  height: width,
  channels: 3,
  depth: 8,
  colourSpace: 'data',
  normalDirection: null,
  stage: { blob: 's', width: 4, height: 4, channels: 3, depth: 8 },
});
const surface = (name: string, roles: Partial<Record<Role, number>>): { id: string; body: SurfaceDocument } => ({
  id: name,
  body: {
    kind: 'surface',
    version: 1,
    name,
    sizeM: 1,
    reliefM: 0.1,
    mid: 0.5,
    maps: Object.fromEntries(Object.entries(roles).map(([role, width]) => [role, entry(width)])),
    thumbnail: null,
    tone: '#000000',
    generator: null,
    notes: [],
  },
});
const phone = { id: 'phone', body: TARGETS.phone };

describe('the table of settings', () => {
  const all = [surface('Moss', { baseColor: 2048, height: 512 }), surface('Gravel', { normal: 1024 })];
  const keys = (text: string, by: 'name' | 'bytes' | 'format' = 'name', down = false) => keptRows(all, phone, text, { by, down }).map((r) => r.key);
  it('finds by surface, role, format and size, and sorts', () => {
    expect(keys('')).toEqual(['Moss baseColor', 'Moss height', 'Gravel normal']);
    expect(keys('moss height')).toEqual(['Moss height']);
    expect(keys('eac_rg11')).toEqual(['Gravel normal']);
    expect(keys('nothing like this')).toEqual([]);
    expect(keys('', 'bytes')).toEqual(['Moss height', 'Moss baseColor', 'Gravel normal']);
    expect(keys('', 'format', true)).toEqual(['Gravel normal', 'Moss height', 'Moss baseColor']);
  });
  it('knows the memory that the cap of a target leaves', () => {
    const [row] = keptRows(all, phone, 'base', { by: 'name', down: false });
    expect([row.runtime.width, row.values.format, row.from.format]).toEqual([1024, 'ASTC_6x6', 'target']);
  });
  it('puts and clears values without leaving empty things behind', () => {
    const map = entry(64);
    const before = structuredClone(map);
    putSetting(map, 'all', 'wrap', 'clamp');
    putSetting(map, 'phone', 'dropMips', 2);
    putSetting(map, 'phone', 'mips', false);
    expect([map.settings, map.overrides]).toEqual([{ wrap: 'clamp' }, { phone: { dropMips: 2, mips: false } }]);
    for (const key of ['dropMips', 'mips'] as const) putSetting(map, 'phone', key, undefined);
    putSetting(map, 'all', 'wrap', undefined);
    expect(map).toEqual(before);
  });
  it('has words for every choice and reads them back', () => {
    for (const key of SETTING_KEYS)
      for (const { value, text } of CHOICES[key]) {
        expect(text.length).toBeGreaterThan(0);
        expect(String(parseChoice(key, value))).toBe(value);
      }
    expect(settingText('format', 'ASTC_6x6')).toBe('ASTC 6×6');
    expect(parseChoice('format', 'inherit')).toBeUndefined();
  });
});
