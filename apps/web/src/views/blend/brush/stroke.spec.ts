import { Stroke, Strokes } from './stroke';

describe('a stroke', () => {
  const rest = () => new Promise((resolve) => setTimeout(resolve));
  const make = (failing: 'send' | 'end' | null = null) => {
    const log: string[] = [];
    const answers: (() => void)[] = [];
    const done = (what: string) =>
      new Promise<void>((resolve, reject) => answers.push(() => (what === failing ? reject(new Error(what)) : resolve())));
    const stroke = new Stroke<number>({
      send: (points) => (log.push(`send ${points.join()}`), done('send')),
      end: (kept) => (log.push(`end ${kept}`), done('end')),
      fail: (error) => log.push(`fail ${(error as Error).message}`),
    });
    const answer = async () => {
      answers.shift()?.();
      await rest();
    };
    return { stroke, log, answer };
  };

  it('is sent lot by lot, what came meanwhile together, and ends after the last of it', async () => {
    const { stroke, log, answer } = make();
    stroke.add(1);
    stroke.add(2, 3);
    stroke.add(4);
    stroke.end(true);
    expect([log, stroke.open]).toEqual([['send 1'], false]);
    await answer();
    await answer();
    await answer();
    expect(log).toEqual(['send 1', 'send 2,3,4', 'end true']);
    stroke.end(false);
    stroke.add(9);
    expect(log.length).toBe(3);
  });
  for (const failing of ['send', 'end'] as const)
    it(`is over when its ${failing} fails, and says so once`, async () => {
      const { stroke, log, answer } = make(failing);
      stroke.add(1);
      stroke.add(2);
      if (failing === 'end') stroke.end(true);
      for (let i = 0; i < 4; i++) await answer();
      expect(log.filter((l) => l.startsWith('fail'))).toEqual([`fail ${failing}`]);
      const before = log.length;
      stroke.add(3);
      stroke.end(true);
      await rest();
      expect([log.length, stroke.open]).toEqual([before, false]);
    });
  it('waits for the one before it to end, so that what is lost of one is not lost of the next', async () => {
    const strokes = new Strokes<number>();
    const log: string[] = [];
    const answers: (() => void)[] = [];
    const of = (name: string) =>
      strokes.begin({
        begin: async () => void log.push(`${name} begins`),
        send: (points) => (log.push(`${name} ${points.join()}`), new Promise((resolve) => answers.push(resolve))),
        end: async (kept) => void log.push(`${name} ${kept ? 'kept' : 'lost'}`),
        fail: () => log.push(`${name} fails`),
      });
    const first = of('a');
    first.add(1);
    await rest();
    first.end(false);
    const second = of('b');
    second.add(2);
    second.end(true);
    await rest();
    expect(log).toEqual(['a begins', 'a 1']);
    answers.shift()?.();
    await rest();
    answers.shift()?.();
    await second.done;
    expect(log).toEqual(['a begins', 'a 1', 'a lost', 'b begins', 'b 2', 'b kept']);
    // One that ended long ago is not waited for.
    const third = of('c');
    third.add(3);
    await Promise.resolve();
    expect(log.at(-1)).toBe('c begins');
  });
});
