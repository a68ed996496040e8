import type { BlobStore } from '@pebble/usecases';
import { UseCaseError } from '@pebble/usecases';
import { createHash, randomUUID } from 'node:crypto';
import type pg from 'pg';
import { to as copyTo } from 'pg-copy-streams';
import { transaction } from '../db/pool';

/** Bytes a chunk row: large enough for few rows, small enough to hold many uploads at once. */
export const CHUNK = 1 << 20;
/** Chunks of a stream that are held before it counts as long. */
const HELD = 8;
const HASH = /^[0-9a-f]{64}$/;

export interface BlobFacts {
  bytes: number;
  mediaType: string;
}

/** Content-addressed bytes in PostgreSQL. */
export class PgBlobStore implements BlobStore {
  constructor(private readonly pool: pg.Pool) {}

  async put(bytes: Uint8Array, mediaType: string): Promise<string> {
    const hash = createHash('sha256').update(bytes).digest('hex');
    // What was used lately is not collected now; of older ones it is only known when their row is held.
    const { rowCount } = await this.pool.query(`select 1 from blob where hash = $1 and ${LATELY}`, [hash]);
    if (rowCount) return hash;
    await this.keep(hash, mediaType, bytes.length, async (client) => {
      for (let at = 0, idx = 0; at < bytes.length; at += CHUNK, idx++)
        await insertChunk(client, hash, idx, Buffer.from(bytes.buffer, bytes.byteOffset + at, Math.min(CHUNK, bytes.length - at)));
    });
    return hash;
  }

  /** A blob and its chunks in one transaction, unless it is there already. */
  private keep(hash: string, mediaType: string, bytes: number, chunks: (client: pg.PoolClient) => Promise<unknown>): Promise<void> {
    return transaction(this.pool, async (client) => {
      // Whatever names it commits later, and waits for the log up to there.
      await client.query('set local synchronous_commit = off');
      const { rows } = await client.query<{ made: boolean }>(
        `insert into blob (hash, bytes, media_type) values ($1, $2, $3)
         on conflict (hash) do update set used_at = now() returning xmax = 0 as made`,
        [hash, bytes, mediaType],
      );
      if (rows[0].made) await chunks(client);
    });
  }

  /**
   * Keeps a stream without holding more than a few chunks of it: chunks are hashed as they pass, those of a long stream are
   * staged, and all become a blob in one transaction. A stream that fails leaves nothing. Gives the first bytes too, so that a file can be recognised.
   */
  async putStream(stream: AsyncIterable<Uint8Array>, mediaType: string, headBytes = CHUNK): Promise<{ hash: string; bytes: number; head: Buffer }> {
    const upload = randomUUID();
    const hash = createHash('sha256');
    let pending: Buffer[] = [];
    let held = 0;
    let bytes = 0;
    let head: Buffer = Buffer.alloc(0);
    const chunks: Buffer[] = [];
    let staged = 0;
    const stage = async () => {
      for (const data of chunks.splice(0))
        await this.pool.query('insert into upload_chunk (upload, idx, data) values ($1, $2, $3)', [upload, staged++, data]);
    };
    const flush = async () => {
      if (!held) return;
      const data = Buffer.concat(pending);
      if (!chunks.length && !staged) head = data.subarray(0, headBytes);
      pending = [];
      held = 0;
      chunks.push(data);
      if (chunks.length > HELD) await stage();
    };
    try {
      for await (const part of stream) {
        hash.update(part);
        bytes += part.length;
        for (let at = 0; at < part.length;) {
          const take = Math.min(CHUNK - held, part.length - at);
          pending.push(Buffer.from(part.subarray(at, at + take)));
          held += take;
          at += take;
          if (held === CHUNK) await flush();
        }
      }
      await flush();
      const name = hash.digest('hex');
      if (staged) await stage();
      await this.keep(name, mediaType, bytes, async (client) => {
        if (staged)
          await client.query('insert into blob_chunk (hash, idx, data) select $1, idx, data from upload_chunk where upload = $2', [name, upload]);
        else for (const [idx, data] of chunks.entries()) await insertChunk(client, name, idx, data);
      });
      if (staged) await this.pool.query('delete from upload_chunk where upload = $1', [upload]);
      return { hash: name, bytes, head };
    } catch (error) {
      if (staged) await this.pool.query('delete from upload_chunk where upload = $1', [upload]).catch(() => undefined);
      throw error;
    }
  }

  async facts(hash: string): Promise<BlobFacts | null> {
    if (!HASH.test(hash)) return null;
    const { rows } = await this.pool.query<{ bytes: string; media_type: string }>('select bytes, media_type from blob where hash = $1', [hash]);
    return rows[0] ? { bytes: Number(rows[0].bytes), mediaType: rows[0].media_type } : null;
  }

  async get(hash: string): Promise<Uint8Array> {
    const facts = await this.facts(hash);
    if (!facts) throw missing(hash);
    const out = Buffer.allocUnsafe(facts.bytes);
    let at = 0;
    for await (const chunk of this.chunks(hash, facts.bytes)) {
      chunk.copy(out, at);
      at += chunk.length;
    }
    return out;
  }

  async *stream(hash: string): AsyncGenerator<Buffer> {
    const facts = await this.facts(hash);
    if (!facts) throw missing(hash);
    yield* this.chunks(hash, facts.bytes);
  }

  /**
   * Chunks in order, each fetched when it is asked for: a reader that takes its time holds no connection meanwhile.
   * COPY in binary, as a plain query would send hexadecimal text, at an eighth of the speed.
   */
  private async *chunks(hash: string, bytes: number): AsyncGenerator<Buffer> {
    for (let idx = 0; idx * CHUNK < bytes; idx++) {
      const client = await this.pool.connect();
      let value: Buffer;
      try {
        value = await onlyValue(
          client.query(copyTo(`copy (select data from blob_chunk where hash = '${hash}' and idx = ${idx}) to stdout (format binary)`)),
        );
        client.release();
      } catch (error) {
        client.release(error as Error);
        throw error;
      }
      yield value;
    }
  }
}

const LATELY = "used_at > now() - interval '30 minutes'";

/** What is put or named again is not collected for a while, whoever is at it: see `collect`. */
export async function useAgain(client: pg.PoolClient | pg.Pool, hashes: readonly string[]): Promise<void> {
  // A row that was used just now need not be written again.
  await client.query(
    `update blob set used_at = now() where hash in
       (select hash from blob where hash = any($1) and not ${LATELY} order by hash for update)`,
    [hashes],
  );
}

const insertChunk = (client: pg.PoolClient, hash: string, idx: number, data: Buffer) =>
  client.query('insert into blob_chunk (hash, idx, data) values ($1, $2, $3)', [hash, idx, data]);

const missing = (hash: string) => new UseCaseError('missing-blob', `The pixels ${hash.slice(0, 12)}… are not stored here`, hash);

/** The one value of a binary COPY of one row: header 19 bytes, field count 2, length 4. Format: PostgreSQL documentation, COPY. */
async function onlyValue(stream: AsyncIterable<Buffer>): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of stream) parts.push(part);
  const all = Buffer.concat(parts);
  return all.subarray(25, 25 + all.readInt32BE(21));
}
