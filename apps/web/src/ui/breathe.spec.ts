import { inSlices } from './breathe';

describe('work in slices', () => {
  const busy = (ms: number) => {
    const end = performance.now() + ms;
    while (performance.now() < end);
  };
  it('lets the page in between when it takes long, and does every item once and in order', async () => {
    let between = 0;
    const done: number[] = [];
    const count = setInterval(() => between++);
    await inSlices([1, 2, 3, 4, 5, 6], (n) => {
      busy(12);
      done.push(n);
    });
    clearInterval(count);
    expect(done).toEqual([1, 2, 3, 4, 5, 6]);
    expect(between).toBeGreaterThan(0);
  });
  it('does short work at once', () => {
    const done: number[] = [];
    void inSlices([1, 2, 3], (n) => done.push(n));
    expect(done).toEqual([1, 2, 3]);
  });
  it('goes no further once told to stop', async () => {
    let over = false;
    const done: number[] = [];
    setTimeout(() => (over = true));
    await inSlices(
      Array.from({ length: 50 }, (_, i) => i),
      (n) => {
        busy(12);
        done.push(n);
      },
      () => over,
    );
    expect(done.length).toBeGreaterThan(0);
    expect(done.length).toBeLessThan(50);
  });
});
