import type { LiveEvent } from '@pebble/contracts';
import { EventEmitter } from 'node:events';
import type pg from 'pg';
import type { Client } from 'pg';
import { Listener } from '../db/listener';

/** Events that are told at once; whoever missed more reads what there is instead. */
export const TOLD_AT_ONCE = 5000;

export interface NumberedEvent {
  seq: number;
  data: LiveEvent;
}

/** Adds an event inside the transaction that makes it true; numbers are in commit order. */
export async function addEvent(client: pg.PoolClient | pg.Pool, projectId: string, data: LiveEvent): Promise<void> {
  await client.query(
    `with next as (update project set event_seq = event_seq + 1 where id = $1 returning event_seq)
     insert into event (project_id, seq, data) select $1, event_seq, $2 from next`,
    [projectId, JSON.stringify(data)],
  );
  await client.query("select pg_notify('pebble_event', $1)", [projectId]);
}

/** Hands events to whoever listens, in order and without gaps. NOTIFY only wakes it; the table is the truth. */
export class EventHub {
  private readonly emitter = new EventEmitter().setMaxListeners(0);
  private last = 0;
  private reading: Promise<void> | null = null;
  private again = false;
  private readonly listener: Listener;

  constructor(
    private readonly pool: pg.Pool,
    private readonly projectId: string,
    connect: () => Client,
  ) {
    this.listener = new Listener(
      connect,
      'pebble_event',
      () => this.wake(),
      () => this.wake(),
    );
  }

  async start(): Promise<void> {
    this.last = (await this.where()).seq;
    await this.listener.start();
  }

  private wake(): void {
    if (this.reading) {
      this.again = true;
      return;
    }
    this.reading = this.read()
      .catch(() => undefined)
      .finally(() => {
        this.reading = null;
        if (this.again) {
          this.again = false;
          this.wake();
        }
      });
  }

  private async read(): Promise<void> {
    for (;;) {
      const events = await this.since(this.last);
      // Some were collected before they were read here (the database was away for long): whoever listens reads what there is.
      if (events.length && events[0].seq > this.last + 1) this.emitter.emit('gap');
      for (const event of events) {
        this.last = event.seq;
        this.emitter.emit('event', event);
      }
      if (events.length < TOLD_AT_ONCE) return;
    }
  }

  /** Number of the newest event, and which data it is of: another database has other numbers. */
  async where(): Promise<{ data: string; seq: number }> {
    const { rows } = await this.pool.query<{ event_seq: string; made: string }>(
      'select event_seq, (extract(epoch from created_at) * 1e6)::bigint as made from project where id = $1',
      [this.projectId],
    );
    return { data: BigInt(rows[0]?.made ?? 0).toString(36), seq: Number(rows[0]?.event_seq ?? 0) };
  }

  async since(seq: number): Promise<NumberedEvent[]> {
    const { rows } = await this.pool.query<{ seq: string; data: LiveEvent }>(
      'select seq, data from event where project_id = $1 and seq > $2 order by seq limit $3',
      [this.projectId, seq, TOLD_AT_ONCE],
    );
    return rows.map((r) => ({ seq: Number(r.seq), data: r.data }));
  }

  /** @param gap called when events cannot be told any more */
  subscribe(listener: (event: NumberedEvent) => void, gap: () => void): () => void {
    this.emitter.on('event', listener);
    this.emitter.on('gap', gap);
    return () => this.emitter.off('event', listener).off('gap', gap);
  }

  stop = (): Promise<void> => this.listener.stop();
}
