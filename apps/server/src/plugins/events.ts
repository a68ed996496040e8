import sse from '@fastify/sse';
import type { FastifyInstance } from 'fastify';
import type { EventHub, NumberedEvent } from '../store/events';

/** What the plugin lends a handler. */
interface Stream {
  readonly isConnected: boolean;
  send(message: object): Promise<void>;
  keepAlive(): void;
  onClose(then: () => void): void;
}

/** Live events as a stream that resumes after the last one a window saw. */
export function events(hub: EventHub) {
  return async (app: FastifyInstance) => {
    await app.register(sse as never, { heartbeatInterval: 10_000 });
    app.get('/events', { sse: { kind: 'only' }, schema: { summary: 'Live events (text/event-stream)' } } as never, async (request, reply) => {
      const { sse: stream } = reply as unknown as { sse: Stream };
      const asked = Number(request.headers['last-event-id']);
      let from = Number.isInteger(asked) && asked >= 0 && request.headers['last-event-id'] !== undefined ? asked : await hub.newest();
      // A window may be gone before it is answered; what ends then is its stream alone.
      if (!stream.isConnected) return;
      stream.keepAlive();
      let chain: Promise<unknown> = Promise.resolve();
      const tell = (message: object) => (chain = chain.then(() => stream.send(message)).catch(() => undefined));
      void tell({ id: String(from), event: 'hello', data: { seq: from } });
      const send = ({ seq, data }: NumberedEvent) => {
        if (seq <= from) return;
        from = seq;
        void tell({ id: String(seq), event: 'change', data });
      };
      const waiting: NumberedEvent[] = [];
      let live = false;
      const leave = hub.subscribe((event) => (live ? send(event) : waiting.push(event)));
      stream.onClose(leave);
      for (const event of await hub.since(from)) send(event);
      live = true;
      waiting.forEach(send);
    });
  };
}
