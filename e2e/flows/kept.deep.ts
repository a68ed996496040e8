// The plug is pulled, many times over, and the disk is filled.
import type { JobView, Problem, StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { makeBlend, makeLayer } from '@pebble/core';
import { execFileSync } from 'node:child_process';
import { randomBytes, randomUUID } from 'node:crypto';
import { closeSync, mkdirSync, openSync, readFileSync, writeSync } from 'node:fs';
import path from 'node:path';
import { serverPids } from '../../apps/server/src/db/cluster';
import { until } from '../../apps/server/spec/harness';
import type { Served } from '../harness';
import { allDocuments, api, scratch, serve, somePort } from '../harness';

const ROUNDS = Number(process.env['PEBBLE_KILLS'] ?? 12);
const WRITERS = 4;
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('when the plug is pulled', () => {
  const { dir, remove } = scratch();
  let served: Served | null = null;
  afterAll(async () => {
    await served?.stop().catch(() => undefined);
    remove();
  });

  it(`${ROUNDS} times at server, database or job under load, no acknowledged edit is lost, nothing is half there, and jobs end well`, async () => {
    const data = path.join(dir, 'data');
    const port = await somePort();
    const begin = () => serve(['--data', data, '--no-demo'], {}, port);
    served = await begin();
    const { url } = served;
    const ids = await Promise.all(
      Array.from({ length: WRITERS }, async (_, i) => {
        const body = makeBlend(`Blend ${i}`, { extentM: 2, layers: { a: makeLayer('s', 'Stone', 1) } });
        return (await api<StoredDocument>(url, '/documents', { body, label: 'New', opId: randomUUID() })).id;
      }),
    );
    let going = true;
    let acknowledged = 0;
    /** The number that each document was last said to hold, and the one that is on its way. */
    const told = ids.map(() => ({ sure: 0, trying: 0 }));
    const writing = ids.map(async (id, i) => {
      const mine = told[i];
      let version = 1;
      while (going) {
        mine.trying = mine.sure + 1;
        const edit = {
          opId: randomUUID(),
          baseVersion: version,
          label: `To ${mine.trying}`,
          patch: [{ op: 'replace', path: '/layers/a/seam/liftM', value: mine.trying / 1e6 }],
          inverse: [{ op: 'replace', path: '/layers/a/seam/liftM', value: mine.sure / 1e6 }],
        };
        // Tried again with the same id until it is answered, as the application does.
        for (let done = false; !done && going;)
          try {
            const answer = await fetch(`${url}/api/documents/${id}/edits`, {
              method: 'POST',
              headers: { 'content-type': 'application/json' },
              body: JSON.stringify(edit),
            });
            if (answer.ok) {
              ({ version } = (await answer.json()) as { version: number });
              mine.sure = mine.trying;
              acknowledged++;
              done = true;
            } else {
              expect(answer.status)
                .withContext(await answer.text())
                .toBe(503);
              await pause(100);
            }
          } catch {
            await pause(100);
          }
      }
    });
    const jobs: string[] = [];
    const order = async () => {
      const job = await api<JobView>(url, '/generate', { name: 'river-gravel', seed: jobs.length, size: 256 }).catch(() => null);
      if (job) jobs.push(job.id);
    };
    for (let round = 0; round < ROUNDS; round++) {
      await order();
      await pause(300 + Math.random() * 900);
      const [postmaster] = serverPids(path.join(data, 'pg/data'));
      if (round % 3 === 1 && postmaster) process.kill(postmaster, 'SIGKILL');
      else {
        await served.kill();
        served = await begin();
      }
      const now = await until(() => allDocuments<BlendDocument>(url).catch(() => null));
      ids.forEach((id, i) => {
        const value = Math.round((now.find((d) => d.id === id)?.body.layers['a'].seam.liftM ?? -1) * 1e6);
        expect(value)
          .withContext(`round ${round}, ${id}`)
          .toBeGreaterThanOrEqual(told[i].sure - 1);
      });
    }
    going = false;
    await Promise.all(writing);
    const last = await allDocuments<BlendDocument>(url);
    ids.forEach((id, i) => {
      const { body, version } = last.find((d) => d.id === id)!;
      const value = Math.round(body.layers['a'].seam.liftM * 1e6);
      // What was on its way may have arrived; what was acknowledged has.
      expect([told[i].sure, told[i].trying]).withContext(id).toContain(value);
      expect(version).toBe(value + 1);
    });
    expect(acknowledged).toBeGreaterThan(ROUNDS * 5);
    for (const id of jobs) await until(async () => ['done', 'failed'].includes((await api<JobView>(url, `/jobs/${id}`)).status));
    const ended = await Promise.all(jobs.map((id) => api<JobView>(url, `/jobs/${id}`)));
    expect(ended.map((j) => j.error)).toEqual(jobs.map(() => null));
    expect((await allDocuments(url)).filter((d) => d.kind === 'surface').length).toBe(jobs.length);
    process.stdout.write(`${acknowledged} edits acknowledged over ${ROUNDS} kills, ${jobs.length} jobs\n`);
  });

  it('a full disk is said in a sentence; what was kept stays, and goes on when there is room', async () => {
    if (process.getuid?.() !== 0) return pending('Only root may have a small disk of its own');
    const small = path.join(dir, 'small');
    mkdirSync(small);
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=160M,mode=755', 'tmpfs', small], { stdio: 'pipe' });
    } catch {
      return pending('This machine lets nobody mount');
    }
    try {
      served = await serve(['--data', path.join(small, 'data'), '--no-demo']);
      const { url } = served;
      const keep = (name: string) =>
        fetch(`${url}/api/documents`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ body: makeBlend(name, { extentM: 2, layers: {} }), label: 'New', opId: randomUUID() }),
        });
      expect((await keep('Before')).ok).toBeTrue();
      let refused: Problem | null = null;
      for (let i = 0; i < 60 && !refused; i++) {
        const answer = await fetch(`${url}/api/blobs?piece=1048576`, {
          method: 'POST',
          headers: { 'content-type': 'application/octet-stream' },
          body: randomBytes(8 << 20),
        }).catch(() => null);
        if (answer && !answer.ok) refused = (await answer.json()) as Problem;
      }
      expect(refused?.status).withContext(JSON.stringify(refused)).toBeGreaterThanOrEqual(503);
      expect(['disk-full', 'database-away']).toContain(refused?.code ?? '');
      expect(refused?.detail).toMatch(/kept and tried again/);
      await served.stop();
      // Somebody makes room.
      execFileSync('mount', ['-o', 'remount,size=400M', small]);
      served = await serve(['--data', path.join(small, 'data'), '--no-demo']);
      expect((await allDocuments(served.url)).map((d) => d.body.name)).toContain('Before');
      const after = await fetch(`${served.url}/api/documents`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ body: makeBlend('After', { extentM: 2, layers: {} }), label: 'New', opId: randomUUID() }),
      });
      expect(after.ok).toBeTrue();
      await served.stop();
      // One that begins on a full disk says so.
      const full = path.join(small, 'full');
      const filler = openSync(path.join(small, 'filler'), 'w');
      try {
        for (;;) writeSync(filler, Buffer.alloc(1 << 20));
      } catch {
        closeSync(filler);
      }
      await expectAsync(serve(['--data', full, '--no-demo'])).toBeRejectedWithError(/full\. Make some room|No space left/);
    } finally {
      await served?.kill().catch(() => undefined);
      served = null;
      for (const pid of serverPids(path.join(small, 'data/pg/data'))) process.kill(pid, 'SIGKILL');
      await pause(500);
      execFileSync('umount', ['-l', small]);
    }
    expect(readFileSync('/proc/mounts', 'utf8')).not.toContain(small);
  });
});
