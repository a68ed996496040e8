import { WorkerClient, WorkerPool } from './worker-client';

interface Requests {
  double: { args: number; result: number };
}

describe('a worker that is asked', () => {
  /** One that answers, breaks or stays silent. */
  const made: { posted: { id: number; args: number }[]; worker: Worker; ended: boolean }[] = [];
  const make = () => {
    const entry = { posted: [] as { id: number; args: number }[], ended: false, worker: {} as Worker };
    entry.worker = {
      postMessage: (m: { id: number; args: number }) => entry.posted.push(m),
      terminate: () => (entry.ended = true),
    } as unknown as Worker;
    made.push(entry);
    return entry.worker;
  };
  const client = () => new WorkerClient<Requests>(make);
  const answer = (entry: (typeof made)[number], data: object) => entry.worker.onmessage?.({ data } as MessageEvent);
  beforeEach(() => made.splice(0));

  it('answers each request by its own number', async () => {
    const asked = client();
    const both = Promise.all([asked.run('double', 2), asked.run('double', 5)]);
    const [{ posted }] = made;
    for (const { id, args } of [...posted].reverse()) answer(made[0], { id, result: args * 2 });
    expect(await both).toEqual([4, 10]);
  });
  it('tells everybody who waits when it breaks, and is made anew', async () => {
    const asked = client();
    const lost = asked.run('double', 2).catch((e: Error) => e.message);
    made[0].worker.onerror?.({ message: 'out of memory' } as ErrorEvent);
    expect(await lost).toBe('out of memory');
    const again = asked.run('double', 3);
    answer(made[1], { id: made[1].posted[0].id, result: 6 });
    expect(await again).toBe(6);
  });
  it('leaves nobody waiting when it is ended', async () => {
    const asked = client();
    const lost = asked.run('double', 2).catch((e: Error) => e.name);
    asked.end();
    expect([await lost, made[0].ended]).toEqual(['AbortError', true]);
  });
  it('among several is the one that has least to do', async () => {
    const pool = new WorkerPool<Requests>(make, 2);
    const asked = [1, 2, 3].map((n) => pool.run('double', n));
    expect(made.map((m) => m.posted.map((p) => p.args))).toEqual([[1, 3], [2]]);
    answer(made[1], { id: made[1].posted[0].id, result: 4 });
    expect(await asked[1]).toBe(4);
    void pool.run('double', 5);
    expect(made[1].posted.length).toBe(2);
  });
});
