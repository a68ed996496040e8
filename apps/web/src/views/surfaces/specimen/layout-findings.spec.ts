import type { SpecimenDocument, UvIsland } from '@pebble/core';
import type { LayoutFacts } from '../../../workers/mesh-protocol';
import { layoutFindings, sizeText } from './layout-findings';

const island = (over: Partial<UvIsland> = {}): UvIsland => ({
  part: 0,
  triangles: 10,
  lo: [0, 0],
  hi: [0.5, 0.5],
  area: 0.25,
  areaM2: 1,
  flipped: false,
  folded: 0,
  outside: false,
  repeats: false,
  density: 0.5,
  ...over,
});
const facts = (over: Partial<LayoutFacts> = {}): LayoutFacts => ({
  islands: [island()],
  overlaps: [],
  covered: 0.8,
  collapsed: 0,
  triangles: 10,
  density: { mean: 0.5, low: 0.5, high: 0.5 },
  bounds: { lo: [0, 0, 0], hi: [1, 2, 1] },
  ...over,
});
const body = (over: Partial<SpecimenDocument> = {}): SpecimenDocument => ({
  kind: 'specimen',
  version: 1,
  name: 'Shelf',
  model: '',
  file: { blob: '', fileName: 'shelf.glb', bytes: 1 },
  unitM: 1,
  up: 'y',
  uvSet: 0,
  parts: {},
  stacking: {},
  thumbnail: null,
  notes: [],
  ...over,
});
const PARTS = [
  { id: 'p0', name: 'board', slot: 'oak', sets: 1 },
  { id: 'p1', name: 'leg', slot: 'oak', sets: 1 },
];
const of = (f: LayoutFacts, b = body(), parts = PARTS) => layoutFindings(f, parts, b, 2048);
const codes = (f: LayoutFacts, b = body(), parts = PARTS) => of(f, b, parts).flatMap((x) => (x.severity === 'warning' ? [x.code] : []));

describe('what is found in a layout', () => {
  it('is nothing doubtful when all is well, and how much is empty and how dense it is', () => {
    expect(of(facts()).map((x) => x.text)).toEqual(['20 % of the tile is empty.', 'Texels are of one size within 2×: about 1,024 px/m at 2048².']);
    expect(codes(facts())).toEqual([]);
  });
  it('names parts without coordinates and offers to unwrap them', () => {
    const [first] = of(facts(), body(), [PARTS[0], { ...PARTS[1], sets: 0 }]);
    expect([first.code, first.text]).toEqual(['no-uv', 'leg has no texture coordinates: nothing can be laid on it.']);
    expect(first.mends).toEqual([{ label: 'Unwrap', do: 'unwrap' }]);
    expect(of(facts({ islands: [] }), body(), [{ ...PARTS[0], sets: 0 }]).map((x) => x.code)).toEqual(['no-uv']);
    // Another level was laid out again, this one was not.
    const [other] = of(facts({ islands: [] }), body({ uvSet: 1 }));
    expect(other.text).toBe('Its parts have no set 2 of texture coordinates: nothing can be laid on them with it.');
    expect(codes(facts({ islands: [] }))).toEqual(['collapsed']);
  });
  it('warns of overlaps until they are wanted', () => {
    const overlapping = facts({ overlaps: [{ parts: [0, 1], pairs: 2, share: 0.121, stacked: true }] });
    const [warned] = of(overlapping);
    expect([warned.severity, warned.text]).toEqual([
      'warning',
      'board and leg: lie on each other over 12 % of the tile (2 pairs of islands, each wholly on the other).',
    ]);
    expect(warned.mends.map((m) => m.label)).toEqual(['It is wanted', 'Lay out again']);
    const [apart] = of(overlapping, body(), [PARTS[0], { ...PARTS[1], slot: 'iron' }]);
    expect([apart.severity, apart.text]).toEqual([
      'info',
      'board and leg: lie on each other over 12 % of the tile (2 pairs of islands, each wholly on the other): no harm while their slots wear maps of their own.',
    ]);
    const [wanted] = of(overlapping, body({ stacking: { 'p0--p1': true } }));
    expect([wanted.severity, wanted.mends.map((m) => m.label)]).toEqual(['info', ['Keep apart']]);
    const [own] = of(facts({ overlaps: [{ parts: [1, 1], pairs: 1, share: 0.034, stacked: false }] }));
    expect(own.text).toBe('leg: islands lie on each other over 3.4 % of the tile (1 pair of islands, partly).');
  });
  it('tells mirrored, folded, outlying and repeating islands apart', () => {
    expect(codes(facts({ islands: [island({ flipped: true }), island({ folded: 3 }), island({ outside: true })] }))).toEqual([
      'mirrored',
      'folded',
      'outside',
    ]);
    const repeating = of(facts({ islands: [island({ outside: true, repeats: true })] }));
    expect(repeating.map((x) => x.code)).toEqual(['repeats', 'uneven']);
    expect(repeating[0].severity).toBe('info');
  });
  it('warns when much is empty or texels differ more than twice', () => {
    const poor = facts({ covered: 0.2, density: { mean: 0.5, low: 0.2, high: 0.9 } });
    expect(codes(poor)).toEqual(['wasted', 'uneven']);
    expect(of(poor)[1].text).toBe('Texels differ 4.5× in size: 410 to 1,843 px/m at 2048².');
  });
  it('asks about sizes that nobody models, and offers the unit that makes sense', () => {
    const [large] = of(facts({ bounds: { lo: [0, 0, 0], hi: [180, 90, 30] } }));
    expect(large.text).toBe('It is 180 m long. Read in centimetres it would be 1.8 m.');
    expect(large.mends).toEqual([{ label: 'Read as centimetres', do: 'unit', unitM: 0.01 }]);
    const [small] = of(facts({ bounds: { lo: [0, 0, 0], hi: [0.0018, 0.001, 0] } }), body({ unitM: 0.001 }));
    expect(small.mends).toEqual([{ label: 'Read as metres', do: 'unit', unitM: 1 }]);
    expect(codes(facts({ bounds: { lo: [-20, 0, 0], hi: [20, 3, 1] } }))).toEqual([]);
  });
  it('ends with what was said when the file came in', () => {
    expect(of(facts(), body({ notes: ['Its bones are left out.'] })).at(-1)).toEqual({
      code: 'note',
      severity: 'info',
      text: 'Its bones are left out.',
      mends: [],
    });
  });
  it('says sizes in the unit of the longest', () => {
    expect(
      [
        [1.318, 1.742, 0.9],
        [0.338, 0.92, 0.258],
        [0.004, 0.002, 0.001],
      ].map(sizeText),
    ).toEqual(['1.3 × 1.7 × 0.9 m', '34 × 92 × 26 cm', '4 × 2 × 1 mm']);
  });
});
