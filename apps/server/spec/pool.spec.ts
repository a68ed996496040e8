import type pg from 'pg';
import { isAway, makePool, transaction } from '../src/db/pool';
import { problemOf } from '../src/plugins/problems';
import type { TestDatabase } from './harness';
import { testDatabase, until } from './harness';

describe('the database under load', () => {
  let database: TestDatabase;
  let pool: pg.Pool;
  beforeAll(async () => {
    database = await testDatabase();
    pool = makePool(database.url, 6, undefined, { lock_timeout: 300, statement_timeout: 2000 });
    await pool.query('create table counted (id integer primary key, n integer not null)');
    await pool.query('insert into counted values (1, 0), (2, 0)');
  });
  afterAll(async () => {
    await pool.end();
    await database.drop();
  });

  it('goes to where the database is now, when it has moved', async () => {
    const other = await testDatabase();
    let where = database.url;
    const follows = makePool(() => where, 2);
    const name = async () => (await follows.query<{ name: string }>('select current_database() as name')).rows[0].name;
    try {
      expect(await name()).toBe(database.name);
      where = other.url;
      // What was there is gone.
      await pool
        .query(
          "select pg_terminate_backend(pid) from pg_stat_activity where datname = $1 and pid <> pg_backend_pid() and application_name = 'jaunty-pebble'",
          [database.name],
        )
        .catch(() => undefined);
      await until(async () => (await name().catch(() => '')) === other.name);
      expect(await name()).toBe(other.name);
    } finally {
      await follows.end();
      await other.drop();
    }
  });
  it('does work again that was ended because two waited for each other', async () => {
    const narrow = makePool(database.url, 4, undefined, { lock_timeout: 20_000 });
    let runs = 0;
    let met: () => void = () => undefined;
    const both = new Promise<void>((resolve) => (met = resolve));
    let there = 0;
    const count = (client: pg.PoolClient, id: number) => client.query('update counted set n = n + 1 where id = $1', [id]);
    const crosswise = (first: number, second: number) =>
      transaction(narrow, async (client) => {
        runs++;
        await count(client, first);
        // Each holds a row that the other wants.
        if (++there === 2) met();
        await both;
        await count(client, second);
      });
    await Promise.all([crosswise(1, 2), crosswise(2, 1)]);
    expect(runs).toBeGreaterThan(2);
    expect((await pool.query<{ n: number }>('select n from counted order by id')).rows.map((r) => r.n)).toEqual([2, 2]);
    await narrow.end();
  });
  it('gives up waiting for a row that is held, says that it may work later, and serves others meanwhile', async () => {
    const holder = await pool.connect();
    try {
      await holder.query('begin');
      await holder.query('select * from counted where id = 1 for update');
      const waiting = Array.from({ length: 12 }, () =>
        transaction(pool, (client) => client.query('update counted set n = n + 1 where id = 1')).then(
          () => null,
          (error: Error) => error,
        ),
      );
      expect((await pool.query<{ n: number }>('select n from counted where id = 2')).rows.length).toBe(1);
      for (const error of await Promise.all(waiting)) {
        expect(error).not.toBeNull();
        expect([isAway(error), problemOf(error!).status]).toEqual([true, 503]);
      }
    } finally {
      await holder.query('rollback');
      holder.release();
    }
    await pool.query('update counted set n = 0 where id = 1');
  });
  it('ends a statement that takes too long, and says what is wrong of what is wrong', async () => {
    const slow = await pool.query('select pg_sleep(10)').catch((e: Error) => e);
    expect([slow instanceof Error, isAway(slow)]).toEqual([true, true]);
    const wrong = await pool.query('insert into counted values (1, 0)').catch((e: Error) => e);
    expect([wrong instanceof Error, isAway(wrong)]).toEqual([true, false]);
    for (const code of ['ECONNREFUSED', '53300', '57P01', '40P01']) expect(isAway(Object.assign(new Error('x'), { code }))).toBeTrue();
    expect(isAway(new Error('Client has encountered a connection error and is not queryable'))).toBeTrue();
    expect(isAway(new Error('column "x" does not exist'))).toBeFalse();
  });
});
