import sse from '@fastify/sse';
import type { FastifyInstance } from 'fastify';
import type { Hello } from '@pebble/contracts';
import type { EventHub, NumberedEvent } from '../store/events';
import { TOLD_AT_ONCE } from '../store/events';

/** What the plugin lends a handler. */
interface Stream {
  readonly isConnected: boolean;
  send(message: object): Promise<void>;
  keepAlive(): void;
  onClose(then: () => void): void;
  close(): void;
}

/** Of which data an event is, and its number. */
const EVENT_ID = /^([0-9a-z]{1,16})-(\d{1,15})$/;

/** Live events as a stream that resumes after the last one a window saw. */
export function events(hub: EventHub) {
  return async (app: FastifyInstance) => {
    await app.register(sse as never, { heartbeatInterval: 10_000 });
    app.get('/events', { sse: { kind: 'only' }, schema: { summary: 'Live events (text/event-stream)' } } as never, async (request, reply) => {
      const { sse: stream } = reply as unknown as { sse: Stream };
      const [, of, last] = EVENT_ID.exec(String(request.headers['last-event-id'] ?? '')) ?? [];
      const { data, seq } = await hub.where();
      // Numbers of other data, of no event yet, or so far back that they are not all told: what happened is read instead.
      const goesOn = of === data && Number(last) <= seq && seq - Number(last) <= TOLD_AT_ONCE;
      let from = goesOn ? Number(last) : seq;
      // A window may be gone before it is answered; what ends then is its stream alone.
      if (!stream.isConnected) return;
      stream.keepAlive();
      let chain: Promise<unknown> = Promise.resolve();
      const tell = (message: object) => (chain = chain.then(() => stream.send(message)).catch(() => undefined));
      void tell({ id: `${data}-${from}`, event: 'hello', data: { seq: from, data } satisfies Hello });
      const send = (event: NumberedEvent) => {
        if (event.seq <= from) return;
        from = event.seq;
        void tell({ id: `${data}-${event.seq}`, event: 'change', data: event.data });
      };
      const waiting: NumberedEvent[] = [];
      let live = false;
      // A window that has to begin anew is told where it stands when it comes back.
      const leave = hub.subscribe(
        (event) => (live ? send(event) : waiting.push(event)),
        () => stream.close(),
      );
      stream.onClose(leave);
      for (const event of await hub.since(from)) send(event);
      live = true;
      waiting.forEach(send);
    });
  };
}
