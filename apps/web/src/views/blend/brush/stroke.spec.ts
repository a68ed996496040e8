import { Stroke } from './stroke';

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
});
