import { Pace } from './pace';

describe('the pace of the stage', () => {
  let rests = 0;
  let pace: Pace;
  beforeEach(() => {
    jasmine.clock().install();
    rests = 0;
    pace = new Pace(() => rests++);
  });
  afterEach(() => jasmine.clock().uninstall());

  it('is full at rest, and coarser the longer moving frames take, until they take what they may', () => {
    expect(pace.next).toBe(1);
    pace.move();
    const first = pace.next;
    expect(first).toBeLessThan(1);
    // A machine that takes 400 ms for a whole picture, in proportion to its pixels.
    for (let i = 0; i < 12; i++) pace.took(400 * pace.next ** 2);
    expect(400 * pace.next ** 2).toBeCloseTo(70, 0);
    for (let i = 0; i < 40; i++) pace.took(1);
    expect(pace.next).toBe(1);
    for (let i = 0; i < 40; i++) pace.took(5000);
    expect(pace.next).toBeGreaterThan(0.1);
  });
  it('rests once, a moment after the last move', () => {
    for (let i = 0; i < 5; i++) {
      pace.move();
      jasmine.clock().tick(100);
    }
    expect([rests, pace.moving]).toEqual([0, true]);
    jasmine.clock().tick(200);
    expect([rests, pace.moving, pace.next]).toEqual([1, false, 1]);
    pace.move();
    pace.end();
    jasmine.clock().tick(1000);
    expect(rests).toBe(1);
  });
  it('begins coarser after a slow whole picture', () => {
    pace.took(2000);
    pace.move();
    expect(pace.next).toBeLessThan(0.25);
  });
});
