import { nameFrom, nameOfSeveral } from './name';

describe('names', () => {
  it('of several are at most 40 characters long, and say how many are left out', () => {
    expect(nameOfSeveral(['Moss'])).toBe('Moss');
    expect(nameOfSeveral(['Moss', 'Terrace stone'])).toBe('Moss and Terrace stone');
    expect(nameOfSeveral(['Moss', 'Stone', 'Clay'])).toBe('Moss, Stone and Clay');
    expect(nameOfSeveral(['Terrace stone', 'Laterite clay', 'Cushion moss', 'Leaves'])).toBe('Terrace stone, Laterite clay and 2 more');
    for (const count of [1, 2, 3, 9, 40]) expect(nameOfSeveral(Array.from({ length: count }, () => 'x'.repeat(90))).length).toBeLessThanOrEqual(40);
    expect(nameOfSeveral(['y'.repeat(90), 'z'])).toMatch(/^y+… and 1 more$/);
  });
  it('as typed lose what surrounds them, and are none when nothing is left', () => {
    expect(nameFrom('  Wall ')).toBe('Wall');
    expect(nameFrom('   ')).toBeNull();
  });
});
