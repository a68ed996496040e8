import { ByKey, Latest, Newest } from './latest';

describe('asking for the latest', () => {
  it('asks for one at a time, and of those wanted meanwhile only for the last', async () => {
    const asked: number[] = [];
    const taken: number[] = [];
    const gates: (() => void)[] = [];
    const latest = new Latest<number>(
      (n) => taken.push(n),
      () => undefined,
    );
    const want = (n: number) =>
      latest.ask(() => {
        asked.push(n);
        return new Promise((resolve) => gates.push(() => resolve(n)));
      });
    const turn = () => new Promise((resolve) => setTimeout(resolve));
    for (const n of [1, 2, 3, 4]) want(n);
    expect(asked).toEqual([1]);
    gates[0]();
    await turn();
    expect([asked, taken]).toEqual([[1, 4], [1]]);
    gates[1]();
    await turn();
    expect(taken).toEqual([1, 4]);
  });
  it('goes on after a failure', async () => {
    const taken: string[] = [];
    const failed: string[] = [];
    const latest = new Latest<string>(
      (t) => taken.push(t),
      (e) => failed.push(e.message),
    );
    latest.ask(() => Promise.reject(new Error('gone')));
    latest.ask(() => Promise.resolve('there'));
    await new Promise((resolve) => setTimeout(resolve));
    expect([taken, failed]).toEqual([['there'], ['gone']]);
  });
});

describe('runs that end each other', () => {
  it('count only while no other has begun, nor all were ended', () => {
    const runs = new Newest();
    const first = runs.begin();
    expect(first()).toBeTrue();
    const second = runs.begin();
    expect([first(), second()]).toEqual([false, true]);
    runs.end();
    expect([first(), second()]).toEqual([false, false]);
    expect(runs.begin()()).toBeTrue();
  });
});

describe('what is known by a key', () => {
  it('is asked for once, taken while it is wanted, and asked for again after a failure', async () => {
    const failed: string[] = [];
    const taken: string[] = [];
    const asked: string[] = [];
    const byKey = new ByKey((e) => failed.push(e.message));
    const ask = (name: string, key: string, made: Promise<string>) =>
      byKey.ask(
        name,
        key,
        () => (asked.push(`${name} ${key}`), made),
        (text) => taken.push(text),
      );
    let late: (text: string) => void = () => undefined;
    ask('stone', 'a', new Promise((resolve) => (late = resolve)));
    ask('stone', 'a', Promise.resolve('twice'));
    ask('moss', 'a', Promise.resolve('moss'));
    ask('stone', 'b', Promise.resolve('newer'));
    late('older');
    await new Promise((resolve) => setTimeout(resolve));
    expect([asked, taken]).toEqual([
      ['stone a', 'moss a', 'stone b'],
      ['moss', 'newer'],
    ]);
    ask('stone', 'c', Promise.reject(new Error('gone')));
    ask('moss', 'b', Promise.reject(new Error('too late')));
    ask('moss', 'c', Promise.resolve('moss again'));
    jasmine.clock().install();
    try {
      for (let i = 0; i < 4; i++) await Promise.resolve();
      expect([failed, byKey.has('moss')]).toEqual([['gone'], true]);
      // Asked for again at once it is not told twice; a while later it is tried again.
      ask('stone', 'c', Promise.resolve('too soon'));
      jasmine.clock().tick(5000);
      expect(byKey.has('stone')).toBeFalse();
      ask('stone', 'c', Promise.resolve('there'));
      for (let i = 0; i < 4; i++) await Promise.resolve();
      expect(taken).toEqual(['moss', 'newer', 'moss again', 'there']);
    } finally {
      jasmine.clock().uninstall();
    }
  });
});
