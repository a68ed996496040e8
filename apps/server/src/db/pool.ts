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
