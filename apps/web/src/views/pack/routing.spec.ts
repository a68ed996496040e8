import type { RecipeFile, SurfaceDocument } from '@pebble/core';
import { crossingOf, sourceRows } from './routing';

const surface: SurfaceDocument = {
  kind: 'surface',
  version: 1,
  name: 'W',
  sizeM: 1,
  reliefM: 0.01,
  mid: 0.5,
  maps: { baseColor: { depth: 8, colourSpace: 'srgb' } as never, height: { depth: 16, colourSpace: 'data' } as never },
  thumbnail: null,
  tone: '#808080',
  generator: null,
  notes: [],
};
const file = (channels: RecipeFile['channels'], depth: 8 | 16 = 8): RecipeFile => ({ order: 1, label: 'f', depth, channels });
const height = { from: 'map' as const, role: 'height' as const, channel: 0 as const, invert: false };

describe('the routing grid', () => {
  it('has a row for each component of each map, for roles that are routed but missing, and for a constant', () => {
    const rows = sourceRows(surface, [file({ g: { from: 'map', role: 'roughness', channel: 0, invert: false } })], {});
    expect(rows.map((r) => r.label)).toEqual(['Base colour R', 'Base colour G', 'Base colour B', 'Roughness', 'Height', 'A constant']);
    expect(rows.find((r) => r.label === 'Roughness')?.missing).toBeTrue();
  });
  it('marks routes, operations, losses and what is missing at the crossing', () => {
    const [, , , , constant] = sourceRows(surface, [], {});
    const row = sourceRows(surface, [], {}).find((r) => r.label === 'Height')!;
    expect(crossingOf(row, file({ b: height }), 'b')).toEqual({ text: '8 bit', warning: jasmine.stringContaining('16 bits'), operated: false });
    expect(crossingOf(row, file({ b: height }, 16), 'b').text).toBe('=');
    expect(crossingOf(row, file({ b: { ...height, invert: true } }, 16), 'b')).toEqual({ text: '1 −', warning: null, operated: true });
    expect(crossingOf(row, { ...file({ b: height }), dither: true }, 'b').warning).toBeNull();
    expect(crossingOf(row, file({ b: { ...height, levels: { low: 0, high: 0.5, mid: 0.5 } } }, 16), 'b')).toEqual({
      text: '~',
      warning: null,
      operated: true,
    });
    // A colour by itself is no data, the same twice is once too often.
    const red = sourceRows(surface, [], {})[0];
    const route = red.route as typeof height;
    expect(crossingOf(red, file({ g: route }), 'g')).toEqual({ text: 'sRGB', warning: jasmine.stringContaining('linear light'), operated: false });
    expect(crossingOf(red, file({ g: { ...route, space: 'linear' } }), 'g').warning).toBeNull();
    expect(crossingOf(row, file({ r: height, b: height }, 16), 'b').text).toBe('twice');
    expect(crossingOf(row, file({ b: height }), 'r').text).toBeNull();
    expect(crossingOf(constant, file({ a: { from: 'constant', value: 0.25 } }), 'a').text).toBe('0.25');
    expect(crossingOf({ ...row, missing: true }, file({ b: height }), 'b')).toEqual({
      text: '0.5',
      warning: 'There is no height map: 0.5 stands everywhere',
      operated: false,
    });
  });
});
