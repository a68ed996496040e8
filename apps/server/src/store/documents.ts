import type { History, ListedDocument, StoredDocument } from '@pebble/contracts';
import { documentProblem } from '@pebble/contracts';
import type { AnyDocument, DocumentKind, DocumentOf, Patch } from '@pebble/core';
import { DOCUMENT_VERSIONS, EditConflict, applyPatch, editBetween } from '@pebble/core';
import type { DocumentStore } from '@pebble/usecases';
import { randomUUID } from 'node:crypto';
import type pg from 'pg';
import { transaction } from '../db/pool';
import { useAgain } from './blobs';
import { ServiceError, notFound } from './errors';
import { addEvent } from './events';
import type { Kind, Standing, Turn } from './steps';
import { history, turning } from './steps';

interface Row {
  id: string;
  kind: DocumentKind;
  version: number;
  body: AnyDocument;
}
type Held = Row & Standing;
export interface EditRequest {
  opId: string;
  baseVersion: number;
  label: string;
  patch: Patch;
  inverse: Patch;
}
/** Text of a document that may be the id of another; one of 64 characters is the hash of pixels. */
const NAMES = /"[A-Za-z0-9_-]{1,63}"/g;

/** Documents and their revisions in PostgreSQL. Every change is one transaction with its event. */
export class PgDocumentStore implements DocumentStore {
  constructor(
    private readonly pool: pg.Pool,
    private readonly projectId: string,
  ) {}

  /** What lists show of all documents, in the order in which they were made. */
  list = (): Promise<ListedDocument[]> => this.listIn(this.pool);

  async listIn(db: pg.Pool | pg.PoolClient): Promise<ListedDocument[]> {
    return (
      await db.query<ListedDocument>(
        "select id, kind, version, body->>'name' as name from document where project_id = $1 and not deleted order by created_at, id",
        [this.projectId],
      )
    ).rows;
  }

  /** Several documents whole, in the order in which they were made; those that are not there are left out. */
  several(ids: readonly string[]): Promise<StoredDocument[]> {
    return this.byId(ids);
  }

  async get(id: string): Promise<StoredDocument> {
    const { rows } = await this.pool.query<Row>('select id, kind, version, body from document where id = $1 and project_id = $2 and not deleted', [
      id,
      this.projectId,
    ]);
    if (!rows[0]) throw notFound('This document');
    return known(rows[0]);
  }

  async find<K extends DocumentKind>(kind: K, id: string): Promise<DocumentOf<K> | null> {
    const [row] = await this.byId([id]);
    return row?.kind === kind ? (row.body as DocumentOf<K>) : null;
  }

  async all<K extends DocumentKind>(kind: K): Promise<{ id: string; body: DocumentOf<K> }[]> {
    const { rows } = await this.pool.query<{ id: string; body: DocumentOf<K> }>(
      'select id, body from document where project_id = $1 and kind = $2 and not deleted order by created_at, id',
      [this.projectId, kind],
    );
    return rows;
  }

  async reach(ids: readonly string[]): Promise<Readonly<Record<string, AnyDocument>>> {
    const found: Record<string, AnyDocument> = {};
    const asked = new Set<string>();
    for (let next = [...ids]; next.length;) {
      next.forEach((id) => asked.add(id));
      const rows = await this.byId(next);
      for (const { id, body } of rows) found[id] = body;
      // Whatever might name a document is tried: no kind of document has to say where it does.
      next = [...new Set(rows.flatMap(({ body }) => JSON.stringify(body).match(NAMES) ?? []).map((text) => text.slice(1, -1)))].filter(
        (id) => !asked.has(id),
      );
    }
    return found;
  }

  private async byId(ids: readonly string[]): Promise<Row[]> {
    const { rows } = await this.pool.query<Row>(
      'select id, kind, version, body from document where id = any($1) and project_id = $2 and not deleted order by created_at, id',
      [ids, this.projectId],
    );
    return rows.map(known);
  }

  create(body: unknown, label: string, opId: string = randomUUID(), id: string = randomUUID()): Promise<StoredDocument> {
    // A retry may come while the first is still at it: it waits, and then finds what was made.
    return transaction(this.pool, async (client) => {
      await client.query('select pg_advisory_xact_lock(hashtextextended($1, 0))', [opId]);
      return this.createIn(client, body, label, opId, id);
    });
  }

  /** Creates inside a transaction that the caller holds, so that several documents appear together or not at all. */
  async createIn(
    client: pg.PoolClient,
    body: unknown,
    label: string,
    opId: string = randomUUID(),
    id: string = randomUUID(),
  ): Promise<StoredDocument> {
    const problem = documentProblem(body);
    if (problem) throw new ServiceError('invalid-document', `This document cannot be kept: ${problem}`);
    const document = body as AnyDocument;
    const { rows: made } = await client.query<{ document_id: string }>('select document_id from revision where op_id = $1', [opId]);
    if (made[0]) return (await client.query<Row>('select id, kind, version, body from document where id = $1', [made[0].document_id])).rows[0];
    if ((await client.query('select 1 from document where id = $1', [id])).rowCount)
      throw new ServiceError('id-taken', `There is a document ${id} already, or was. Leave the id out, or choose another`);
    // The clock goes on within a transaction: what is made together stays in the order in which it was made.
    await client.query('insert into document (id, project_id, kind, version, body, created_at) values ($1, $2, $3, 1, $4, clock_timestamp())', [
      id,
      this.projectId,
      document.kind,
      JSON.stringify(document),
    ]);
    await client.query(
      "insert into revision (document_id, version, op_id, kind, label, patch, inverse) values ($1, 1, $2, 'create', $3, '[]', '[]')",
      [id, opId, label],
    );
    await keepReferences(client, id, document);
    await addEvent(client, this.projectId, { type: 'created', id, kind: document.kind });
    return { id, kind: document.kind, version: 1, body: document };
  }

  /** One gesture. A retry with the same opId changes nothing and gives the version it made. */
  edit(id: string, edit: EditRequest): Promise<StoredDocument> {
    return transaction(this.pool, async (client) => {
      const row = await this.lock(client, id);
      const repeated = await this.repeated(client, id, edit.opId);
      // Its body is no longer known, and nobody asks for it: what a retry wants is its own version.
      if (repeated !== null) return { ...row, version: repeated };
      if (row.version !== edit.baseVersion)
        throw new ServiceError('version-conflict', 'Another window changed this document first. Your edit is tried again on top of it', {
          version: row.version,
          body: row.body,
        });
      return this.advance(client, row, stepOn(row), edit);
    });
  }

  /** Rewrites a document inside a transaction that the caller holds, as one step or, with `silent`, as none that undo knows. */
  async changeIn(
    client: pg.PoolClient,
    id: string,
    label: string,
    change: (body: AnyDocument) => AnyDocument,
    silent = false,
  ): Promise<StoredDocument> {
    const row = await this.lock(client, id);
    const edit = editBetween(row.body, change(row.body), label);
    return edit.patch.length ? this.advance(client, row, silent ? aside(row) : stepOn(row), { opId: randomUUID(), ...edit }) : row;
  }

  /** Takes back the newest step in effect, or does the newest undone one again. */
  turn(id: string, turn: Turn, opId: string): Promise<StoredDocument> {
    return transaction(this.pool, async (client) => {
      const row = await this.lock(client, id);
      if ((await this.repeated(client, id, opId)) !== null) return row;
      const step = await turning(client, id, row, turn);
      if (!step)
        throw new ServiceError(`nothing-to-${turn}`, turn === 'undo' ? 'There is nothing left to undo here' : 'There is nothing to redo here');
      const { target, label, patch, inverse } = step;
      return this.advance(client, row, { kind: turn, target, below: step.below, after: step.after }, { opId, label, patch, inverse });
    });
  }

  /** The version that an edit of this id made here; null when it is new. @throws ServiceError when it was used for another document */
  private async repeated(client: pg.PoolClient, id: string, opId: string): Promise<number | null> {
    const { rows } = await client.query<{ document_id: string; version: number }>('select document_id, version from revision where op_id = $1', [
      opId,
    ]);
    if (!rows[0]) return null;
    if (rows[0].document_id !== id)
      throw new ServiceError('op-taken', 'This edit was made to another document already. Give each edit an id of its own');
    return rows[0].version;
  }

  /** Holds several documents until the transaction ends: whoever changes more than one holds them first, all in one order. */
  async hold(client: pg.PoolClient, ids: readonly string[]): Promise<void> {
    await client.query('select 1 from document where id = any($1) and project_id = $2 order by id for update', [ids, this.projectId]);
  }

  private async lock(client: pg.PoolClient, id: string): Promise<Held> {
    const { rows } = await client.query<Held>(
      'select id, kind, version, body, top, undone from document where id = $1 and project_id = $2 and not deleted for update',
      [id, this.projectId],
    );
    if (!rows[0]) throw notFound('This document');
    return rows[0];
  }

  private async advance(client: pg.PoolClient, row: Row, step: Step, edit: Omit<EditRequest, 'baseVersion'>): Promise<StoredDocument> {
    let body: AnyDocument;
    try {
      body = applyPatch(row.body, edit.patch);
    } catch (error) {
      if (error instanceof EditConflict) throw new ServiceError('edit-conflict', error.message, { place: error.path });
      throw error;
    }
    const problem = documentProblem(body);
    if (problem || body.kind !== row.kind)
      throw new ServiceError('invalid-edit', `"${edit.label}" would leave the document broken: ${problem ?? 'its kind would change'}`);
    const version = row.version + 1;
    const { kind, target, below, after } = step;
    await client.query('update document set version = $2, body = $3, top = $4, undone = $5 where id = $1', [
      row.id,
      version,
      JSON.stringify(body),
      kind === 'edit' ? version : after.top,
      kind === 'undo' ? version : after.undone,
    ]);
    await client.query(
      'insert into revision (document_id, version, op_id, kind, target, below, label, patch, inverse) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)',
      [row.id, version, edit.opId, kind, target, below, edit.label, JSON.stringify(edit.patch), JSON.stringify(edit.inverse)],
    );
    await keepReferences(client, row.id, body);
    await addEvent(client, this.projectId, { type: 'document', id: row.id, kind: row.kind, version, opId: edit.opId, patch: edit.patch });
    return { id: row.id, kind: row.kind, version, body };
  }

  /** A page of its named steps, newest last: the newest, or those before a version. */
  async history(id: string, before: number | null = null, limit?: number): Promise<History> {
    const { rows } = await this.pool.query<Standing>('select top, undone from document where id = $1 and project_id = $2', [id, this.projectId]);
    return history(this.pool, id, rows[0] ?? { top: null, undone: null }, before, limit);
  }

  /** A document as it was at one of its versions. */
  async at(id: string, version: number): Promise<StoredDocument> {
    const now = await this.get(id);
    if (version > now.version || version < 1) throw notFound(`Version ${version} of this document`);
    const { rows } = await this.pool.query<{ inverse: Patch }>(
      'select inverse from revision where document_id = $1 and version > $2 and version <= $3 order by version desc',
      [id, version, now.version],
    );
    // Steps are taken back one after the other: each is exact only on what followed it.
    const body = rows.reduce<AnyDocument>((later, { inverse }) => applyPatch(later, inverse), now.body);
    const problem = documentProblem(body);
    if (problem) throw new ServiceError('older-format', `This document was in an older format then, which cannot be shown: ${problem}`);
    return { ...now, version, body };
  }

  /** Hides or brings back a document; its revisions stay until it is collected. */
  setDeleted(id: string, deleted: boolean): Promise<void> {
    return transaction(this.pool, (client) => this.setDeletedIn(client, id, deleted));
  }

  async setDeletedIn(client: pg.PoolClient, id: string, deleted: boolean): Promise<void> {
    const { rows } = await client.query<Row>(
      'update document set deleted = $3, deleted_at = case when $3 then now() end where id = $1 and project_id = $2 and deleted <> $3 returning id, kind',
      [id, this.projectId, deleted],
    );
    if (!rows[0]) throw notFound('This document');
    await addEvent(client, this.projectId, { type: deleted ? 'deleted' : 'created', id, kind: rows[0].kind });
  }
}

/** The same row. @throws ServiceError when a newer program wrote it: what it holds cannot be read as if it were known */
function known(row: Row): Row {
  const newest = DOCUMENT_VERSIONS[row.kind] as number | undefined;
  if (newest !== undefined && row.body.version <= newest) return row;
  throw new ServiceError(
    'newer-format',
    `${row.body.name} was written by a newer version of the program (${row.kind}, format ${row.body.version}${newest ? `, this one reads up to ${newest}` : ''}). Update the program that serves it`,
    { place: row.id },
  );
}

/** How a version comes about, and where the document stands then. */
interface Step {
  kind: Kind;
  target: number | null;
  below: number | null;
  after: Standing;
}
/** A new step on top; what was undone can no longer be done again. */
const stepOn = ({ top }: Standing): Step => ({ kind: 'edit', target: null, below: top, after: { top: null, undone: null } });
/** A change that undo does not know. */
const aside = ({ top, undone }: Standing): Step => ({ kind: 'create', target: null, below: null, after: { top, undone } });

async function keepReferences(client: pg.PoolClient, id: string, body: AnyDocument): Promise<void> {
  const hashes = [...new Set(JSON.stringify(body).match(/\b[0-9a-f]{64}\b/g) ?? [])];
  if (!hashes.length) return;
  await client.query('insert into blob_ref (document_id, hash) select $1, unnest($2::text[]) on conflict do nothing', [id, hashes]);
  await useAgain(client, hashes);
}
