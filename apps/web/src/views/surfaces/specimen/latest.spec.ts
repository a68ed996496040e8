import { Latest } from './latest';

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
