import type { Quality } from '@pebble/core';
import type { KnownFile } from '@pebble/usecases/deliver';
import type pg from 'pg';

/** Files of deliveries by what they were made of. Their bytes are blobs; where these were collected, nothing is known of them. */
export class PgMadeStore {
  constructor(private readonly pool: pg.Pool) {}

  /** What was made of this before; its bytes are young again. */
  async find(key: string): Promise<KnownFile | null> {
    const { rows } = await this.pool.query<{ hash: string; bytes: string; quality: Quality | null }>(
      `with used as (update blob b set used_at = now() from made m where m.key = $1 and b.hash = m.hash returning b.hash)
       select m.hash, m.bytes, m.quality from made m join used u on u.hash = m.hash where m.key = $1`,
      [key],
    );
    const row = rows.at(0);
    return row ? { sha256: row.hash, bytes: Number(row.bytes), ...(row.quality ? { quality: row.quality } : {}) } : null;
  }

  async keep(key: string, { sha256: hash, bytes, quality }: KnownFile): Promise<void> {
    await this.pool.query(
      `insert into made (key, hash, bytes, quality) values ($1, $2, $3, $4)
       on conflict (key) do update set hash = excluded.hash, bytes = excluded.bytes, quality = excluded.quality`,
      [key, hash, bytes, quality ?? null],
    );
  }
}
