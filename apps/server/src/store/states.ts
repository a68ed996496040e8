import type { KeptState, StateDifference } from '@pebble/contracts';
import { documentProblem } from '@pebble/contracts';
import type { AnyDocument, DocumentKind } from '@pebble/core';
import { upgraded } from '@pebble/core';
import { randomUUID } from 'node:crypto';
import type pg from 'pg';
import { transaction } from '../db/pool';
import type { PgDocumentStore } from './documents';
import { ServiceError, notFound } from './errors';
import { addEvent } from './events';

interface Held {
  document_id: string;
  body: AnyDocument;
  kind: DocumentKind;
  deleted: boolean;
}

/** Named versions of the whole project: every document as it was, to be compared with and gone back to. */
export class PgStateStore {
  constructor(
    private readonly pool: pg.Pool,
    private readonly projectId: string,
    private readonly documents: PgDocumentStore,
  ) {}

  /** Newest first. @param document tells of each which version of that document it holds */
  async list(document?: string): Promise<KeptState[]> {
    const { rows } = await this.pool.query<{ id: string; name: string; created_at: Date; documents: string; version: number | null }>(
      `select s.id, s.name, s.created_at, count(d.document_id) as documents, max(d.version) filter (where d.document_id = $2) as version
       from kept_state s left join kept_document d on d.state_id = s.id
       where s.project_id = $1 group by s.id order by s.created_at desc`,
      [this.projectId, document ?? null],
    );
    return rows.map(({ id, name, created_at, documents, version }) => ({
      id,
      name,
      at: created_at.toISOString(),
      documents: Number(documents),
      ...(document === undefined ? {} : { version }),
    }));
  }

  keep(name: string, id: string = randomUUID()): Promise<void> {
    return transaction(this.pool, (client) => this.keepIn(client, name, id));
  }

  /** One statement reads all documents, so that what is kept is one moment. A retry of the same id keeps nothing anew. */
  private async keepIn(client: pg.PoolClient, name: string, id: string): Promise<void> {
    const { rowCount } = await client.query(
      'insert into kept_state (id, project_id, name, created_at) values ($1, $2, $3, clock_timestamp()) on conflict do nothing',
      [id, this.projectId, name],
    );
    if (!rowCount) return;
    await client.query(
      'insert into kept_document (state_id, document_id, version, body) select $1, id, version, body from document where project_id = $2 and not deleted',
      [id, this.projectId],
    );
    await addEvent(client, this.projectId, { type: 'states' });
  }

  /** Lets go of a name; documents stay as they are. */
  async letGo(id: string): Promise<void> {
    await transaction(this.pool, async (client) => {
      const { rowCount } = await client.query('delete from kept_state where id = $1 and project_id = $2', [id, this.projectId]);
      if (!rowCount) throw notFound('This version');
      await addEvent(client, this.projectId, { type: 'states' });
    });
  }

  private async named(db: pg.Pool | pg.PoolClient, id: string): Promise<string> {
    const { rows } = await db.query<{ name: string }>('select name from kept_state where id = $1 and project_id = $2', [id, this.projectId]);
    if (!rows[0]) throw notFound('This version');
    return rows[0].name;
  }

  /** What is otherwise now: what was changed (and is not as it was again), added and removed since. */
  async differences(id: string): Promise<StateDifference[]> {
    await this.named(this.pool, id);
    const { rows } = await this.pool.query<{ id: string; kind: DocumentKind; name: string; then: number | null; now: number | null }>(
      `select d.id, d.kind, coalesce(case when not d.deleted then d.body->>'name' end, k.body->>'name') as name,
              k.version as then, case when not d.deleted then d.version end as now
       from document d left join kept_document k on k.document_id = d.id and k.state_id = $1
       where d.project_id = $2 and (k.document_id is not null or not d.deleted)
         and (k.document_id is null or d.deleted or (k.version <> d.version and k.body <> d.body))
       order by d.created_at, d.id`,
      [id, this.projectId],
    );
    return rows.map((r) => ({ ...r, how: r.then === null ? 'added' : r.now === null ? 'removed' : 'changed' }));
  }

  /**
   * Goes back to a named version: every document becomes as it was, each by a step that can be undone; what was made since is
   * hidden, what was removed comes back. What there is now is kept under a name of its own first, so that nothing is lost.
   */
  async goBack(id: string, keepAs: string = randomUUID()): Promise<void> {
    await transaction(this.pool, async (client) => {
      const name = await this.named(client, id);
      const { rowCount: again } = await client.query('select 1 from kept_state where id = $1', [keepAs]);
      if (again) return;
      const { rows: all } = await client.query<{ id: string }>('select id from document where project_id = $1', [this.projectId]);
      await this.documents.hold(
        client,
        all.map((d) => d.id),
      );
      await this.keepIn(client, `Before going back to ${name}`.slice(0, 120), keepAs);
      const { rows: held } = await client.query<Pick<Held, 'document_id' | 'kind'>>(
        'select k.document_id, d.kind from kept_document k join document d on d.id = k.document_id where k.state_id = $1',
        [id],
      );
      const kept = new Set(held.map((r) => r.document_id));
      const blends = new Set(held.filter((r) => r.kind === 'blend').map((r) => r.document_id));
      // Of a large project few documents are otherwise; the others are not touched.
      const { rows: otherwise } = await client.query<Held>(
        `select k.document_id, k.body, d.kind, d.deleted from kept_document k join document d on d.id = k.document_id
         where k.state_id = $1 and (d.deleted or k.body <> d.body) order by d.created_at, d.id`,
        [id],
      );
      for (const row of otherwise) {
        // It may have been kept in an older format than is written today.
        const body = upgraded(row.body, (other) => blends.has(other)) as AnyDocument;
        const problem = documentProblem(body);
        if (problem) throw new ServiceError('older-format', `${row.body.name} cannot become as it was: ${problem}. Nothing was changed`);
        if (row.deleted) await this.documents.setDeletedIn(client, row.document_id, false);
        await this.documents.changeIn(client, row.document_id, `Back to ${name}`.slice(0, 200), () => body);
      }
      for (const { id: since } of await this.documents.listIn(client)) if (!kept.has(since)) await this.documents.setDeletedIn(client, since, true);
    });
  }
}
