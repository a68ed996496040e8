import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { breathe, inSlices, later } from './breathe';

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

describe('what follows in a task of its own', () => {
  it('has the newest value, in one go, after what was to be done before', async () => {
    const source = signal('a');
    const before: string[] = [];
    const following = TestBed.runInInjectionContext(() => later(source, (value) => before.push(value)));
    TestBed.tick();
    await breathe();
    await breathe();
    before.length = 0;
    source.set('b');
    source.set('c');
    TestBed.tick();
    expect(following()).toBe('a');
    await breathe();
    expect([following(), before]).toEqual(['a', ['c']]);
    await breathe();
    expect(following()).toBe('c');
  });
  it('passes over what was replaced before its turn', async () => {
    const source = signal(1);
    const following = TestBed.runInInjectionContext(() => later(source));
    TestBed.tick();
    source.set(2);
    TestBed.tick();
    source.set(3);
    TestBed.tick();
    const seen = new Set<number>();
    for (let i = 0; i < 4; i++) {
      await breathe();
      seen.add(following());
    }
    expect([...seen].at(-1)).toBe(3);
    expect(seen.has(2)).toBeFalse();
  });
});
