import Fastify from 'fastify';
import net from 'node:net';
import { events } from '../src/plugins/events';
import type { EventHub, NumberedEvent } from '../src/store/events';
import { until } from './harness';

/** A hub whose newest number is only told once it is let. */
class SlowHub {
  asked = 0;
  readonly listeners = new Set<(event: NumberedEvent) => void>();
  tell: (seq: number) => void = () => undefined;
  where(): Promise<{ data: string; seq: number }> {
    this.asked++;
    return new Promise((resolve) => (this.tell = (seq) => resolve({ data: 'd', seq })));
  }
  since = async (): Promise<NumberedEvent[]> => [];
  subscribe(listener: (event: NumberedEvent) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
}

describe('live events', () => {
  it('outlive a window that went before it was answered: nothing breaks, and nobody is told any more', async () => {
    const hub = new SlowHub();
    const app = Fastify({ forceCloseConnections: true });
    await app.register(events(hub as unknown as EventHub));
    const { port } = new URL(await app.listen({ port: 0, host: '127.0.0.1' }));
    const lost: unknown[] = [];
    const note = (error: unknown) => void lost.push(error);
    process.on('unhandledRejection', note);
    try {
      const socket = net.connect(Number(port), '127.0.0.1');
      socket.write('GET /events HTTP/1.1\r\nHost: 127.0.0.1\r\nAccept: text/event-stream\r\n\r\n');
      await until(async () => hub.asked === 1);
      const gone = new Promise((resolve) => app.server.once('connection', resolve));
      socket.destroy();
      // A second window shows that the server has come as far as to see the first one go.
      const second = net.connect(Number(port), '127.0.0.1');
      await gone;
      second.destroy();
      await new Promise((resolve) => setTimeout(resolve, 50));
      hub.tell(7);
      await new Promise((resolve) => setTimeout(resolve, 50));
      expect(lost).toEqual([]);
      expect(hub.listeners.size).toBe(0);
    } finally {
      process.off('unhandledRejection', note);
      await app.close();
    }
  });
});
