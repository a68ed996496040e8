import { stepKinds } from './catalogue';
import { stepPrice } from './price';
import { findSteps, matchScore } from './search';

const found = (query: string) => findSteps(query).map(({ kind }) => kind.name);

describe('the search', () => {
  it('finds every step first by its own name', () => {
    for (const { name } of stepKinds()) expect(found(name)[0]).withContext(name).toBe(name);
  });
  it('finds steps by other names and by what they are for', () => {
    const wanted: [string, string][] = [
      ['darken edges', 'seamshade'],
      ['random by object', 'randomfloat'],
      ['threshold', 'smoothstep'],
      ['one minus', 'invert'],
      ['fresnel', 'facingratio'],
      ['vertex colour', 'geomcolor'],
      ['detail normal', 'detailnormal'],
      ['levels', 'range'],
      ['hue shift', 'hsvadjust'],
      ['toggle', 'switch'],
      ['baked normal', 'ownnormal'],
      ['slope', 'normal'],
    ];
    for (const [query, name] of wanted) expect(found(query).slice(0, 4)).withContext(query).toContain(name);
  });
  it('puts what lacks a word after what lacks none, and finds nothing for nonsense', () => {
    expect(matchScore('mix zebra', 'mix')).toBeLessThan(matchScore('mix', 'mix'));
    expect(matchScore('mix zebra', 'mix')).toBeGreaterThan(0);
    expect(found('qqqq')).toEqual([]);
    expect(found('').length).toBe(stepKinds().length);
  });
  it('has a price for every step: work costs, what is only handed on is free', () => {
    const price = Object.fromEntries(stepKinds().map((k) => [k.name, stepPrice(k)]));
    expect(price['add']).toEqual({ samples: 0, operations: 1 });
    expect(price['power']).toEqual({ samples: 0, operations: 8 });
    expect(price['separate']).toEqual({ samples: 0, operations: 0 });
    // 2-maths: sin, cos 4; pow 8; atan 12.
    expect([price['sin'].operations, price['atan2'].operations]).toEqual([4, 12]);
    for (const [name, { samples, operations }] of Object.entries(price)) {
      expect(Number.isFinite(operations) && operations >= 0)
        .withContext(name)
        .toBeTrue();
      expect(samples).withContext(name).toBe(0);
    }
    expect(price['fractal2d'].operations).toBeGreaterThan(price['noise2d'].operations);
  });
});
