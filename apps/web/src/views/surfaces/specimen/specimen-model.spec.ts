import { stackingKey } from '@pebble/core';
import { allowedPairs } from './specimen-model';

describe('parts that may lie on each other', () => {
  const parts = ['p4', 'p5', 'p10'].map((id) => ({ id }));
  it('are found by their places in the level, a part on itself too', () => {
    const stacking = { [stackingKey('p10', 'p4')]: true as const, [stackingKey('p5', 'p5')]: true as const };
    expect(allowedPairs(parts, stacking).map((pair) => [...pair].sort())).toEqual([
      [0, 2],
      [1, 1],
    ]);
  });
  it('of other levels are none of this one', () => expect(allowedPairs(parts, { [stackingKey('p4', 'p1')]: true })).toEqual([]));
});
