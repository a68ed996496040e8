import pg from 'pg';

/** Milliseconds after which a statement, a wait for a row, and a transaction that nobody goes on with are given up. */
const TIMEOUTS = { statement_timeout: 60_000, lock_timeout: 8_000, idle_in_transaction_session_timeout: 60_000 };

/** Where the database is: a database that was started again may be elsewhere. */
export type Address = () => string;

/**
 * A pool whose broken connections are reported, not thrown: a database restart must not end the program. Each new connection
 * goes to where the database is then.
 */
export function makePool(
  address: string | Address,
  max = 12,
  onError: (error: Error) => void = () => undefined,
  timeouts: Partial<typeof TIMEOUTS> = {},
): pg.Pool {
  const where = typeof address === 'string' ? () => address : address;
  class Client extends pg.Client {
    constructor(config: pg.ClientConfig) {
      super({ ...config, connectionString: where() });
    }
  }
  const options = { max, connectionTimeoutMillis: 10_000, application_name: 'jaunty-pebble', ...TIMEOUTS, ...timeouts };
  const pool = new pg.Pool({ ...options, Client: Client as never });
  pool.on('error', onError);
  pool.on('connect', (client) => client.on('error', onError));
  return pool;
}

/** Of two that wait for each other one is ended: it may be done again at once. */
const ENDED_FOR_ANOTHER = new Set(['40P01', '40001']);
const TRIES = 6;

/** Runs work in a transaction; any error rolls it back. Work that was ended in favour of another is done again. */
export async function transaction<T>(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await once(pool, work);
    } catch (error) {
      if (tries >= TRIES || !ENDED_FOR_ANOTHER.has((error as { code?: string }).code ?? '')) throw error;
      // Not in step with the other.
      await new Promise((resolve) => setTimeout(resolve, Math.random() * 20 * tries));
    }
}

async function once<T>(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query('begin');
    const result = await work(client);
    await client.query('commit');
    return result;
  } catch (error) {
    await client.query('rollback').catch((e: Error) => {
      broken = e;
    });
    throw error;
  } finally {
    client.release(broken);
  }
}

/**
 * SQLSTATEs of what may work later: connection exceptions, shutdown and start, too many connections, a deadlock, a row that
 * was held too long, a statement that took too long. Source: PostgreSQL, appendix A.
 */
const AWAY = new Set(['08000', '08001', '08003', '08004', '08006', '57P01', '57P02', '57P03', '57014', '53300', '53400', '40P01', '40001', '55P03']);
const UNREACHED = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EAI_AGAIN']);

/** Whether an error means that the database went away, not that the request was wrong: the same may work later. */
export function isAway(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string };
  return (
    AWAY.has(code ?? '') ||
    UNREACHED.has(code ?? '') ||
    /connection terminated|terminating connection|timeout exceeded when trying to connect|is not queryable|client was closed/i.test(message ?? '')
  );
}

/** Does something until the database is there to do it, for at most `seconds`. */
export async function whenBack<T>(work: () => Promise<T>, seconds = 90): Promise<T> {
  for (const end = Date.now() + seconds * 1000; ;)
    try {
      return await work();
    } catch (error) {
      if (!isAway(error) || Date.now() > end) throw error;
      await new Promise((resolve) => setTimeout(resolve, 400));
    }
}
