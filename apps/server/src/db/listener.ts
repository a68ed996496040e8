import type { Client } from 'pg';

/** Listens to a notification channel and comes back by itself after the database was away. */
export class Listener {
  private client: Client | null = null;
  private closed = false;

  /** `heard` gets each payload; `joined` is called whenever listening (again) begins, since something may have been missed. */
  constructor(
    private readonly connect: () => Client,
    private readonly channel: string,
    private readonly heard: (payload: string) => void,
    private readonly joined: () => void = () => undefined,
  ) {}

  async start(): Promise<void> {
    if (this.closed) return;
    const client = this.connect();
    this.client = client;
    const retry = () => {
      if (this.client !== client) return;
      this.client = null;
      if (!this.closed) setTimeout(() => void this.start(), 500).unref();
    };
    client.on('error', retry);
    client.on('end', retry);
    client.on('notification', (message) => this.heard(message.payload ?? ''));
    try {
      await client.connect();
      await client.query(`listen ${this.channel}`);
      this.joined();
    } catch {
      await client.end().catch(() => undefined);
      retry();
    }
  }

  async stop(): Promise<void> {
    this.closed = true;
    const { client } = this;
    this.client = null;
    await client?.end().catch(() => undefined);
  }
}
