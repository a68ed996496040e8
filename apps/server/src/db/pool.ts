import pg from 'pg';

/** A pool whose broken connections are reported, not thrown: a database restart must not end the program. */
export function makePool(connectionString: string, max = 12, onError: (error: Error) => void = () => undefined): pg.Pool {
  const pool = new pg.Pool({ connectionString, max, connectionTimeoutMillis: 10_000, application_name: 'jaunty-pebble' });
  pool.on('error', onError);
  pool.on('connect', (client) => client.on('error', onError));
  return pool;
}

/** Runs work in a transaction; any error rolls it back. */
export async function transaction<T>(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
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

/** Whether an error means that the database went away, not that the request was wrong: the same may work later. */
export function isAway(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string };
  return (
    ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', '57P01', '57P02', '57P03', '08006', '08003'].includes(code ?? '') ||
    /connection terminated|terminating connection|timeout exceeded when trying to connect/i.test(message ?? '')
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
