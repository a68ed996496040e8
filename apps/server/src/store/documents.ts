import type { History, HistoryStep, StoredDocument } from '@pebble/contracts';
import { documentProblem } from '@pebble/contracts';
import type { AnyDocument, DocumentKind, DocumentOf, Patch } from '@pebble/core';
import { EditConflict, applyPatch, editBetween } from '@pebble/core';
import type { DocumentStore } from '@pebble/usecases';
import { randomUUID } from 'node:crypto';
import type pg from 'pg';
import { transaction } from '../db/pool';
import { ServiceError, notFound } from './errors';
import { addEvent } from './events';

interface Row {
  id: string;
  kind: DocumentKind;
  version: number;
  body: AnyDocument;
}
export interface EditRequest {
  opId: string;
  baseVersion: number;
  label: string;
  patch: Patch;
  inverse: Patch;
}
/** Text of a document that may be the id of another; one of 64 characters is the hash of pixels. */
const NAMES = /"[A-Za-z0-9_-]{1,63}"/g;
type Turn = 'undo' | 'redo';
interface Revision {
  version: number;
  kind: 'create' | 'edit' | Turn;
  target: number | null;
  label: string;
  created_at: Date;
}

/** Documents and their revisions in PostgreSQL. Every change is one transaction with its event. */
export class PgDocumentStore implements DocumentStore {
  constructor(
    private readonly pool: pg.Pool,
    private readonly projectId: string,
  ) {}

  async list(): Promise<StoredDocument[]> {
    return (
      await this.pool.query<Row>('select id, kind, version, body from document where project_id = $1 and not deleted order by created_at, id', [
        this.projectId,
      ])
    ).rows;
  }

  async get(id: string): Promise<StoredDocument> {
    const { rows } = await this.pool.query<Row>('select id, kind, version, body from document where id = $1 and project_id = $2 and not deleted', [
      id,
      this.projectId,
    ]);
    if (!rows[0]) throw notFound('This document');
    return rows[0];
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
      'select id, kind, version, body from document where id = any($1) and project_id = $2 and not deleted',
      [ids, this.projectId],
    );
    return rows;
  }

  create(body: unknown, label: string, opId: string = randomUUID(), id: string = randomUUID()): Promise<StoredDocument> {
    return transaction(this.pool, (client) => this.createIn(client, body, label, opId, id));
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
    const known = await client.query<{ document_id: string }>('select document_id from revision where op_id = $1', [opId]);
    if (known.rows[0])
      return (await client.query<Row>('select id, kind, version, body from document where id = $1', [known.rows[0].document_id])).rows[0];
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
      const repeated = await client.query<{ version: number }>('select version from revision where op_id = $1 and document_id = $2', [edit.opId, id]);
      if (repeated.rows[0]) return row;
      if (row.version !== edit.baseVersion)
        throw new ServiceError('version-conflict', 'Another window changed this document first. Your edit is tried again on top of it', {
          version: row.version,
          body: row.body,
        });
      return this.advance(client, row, 'edit', null, edit);
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
    return edit.patch.length ? this.advance(client, row, silent ? 'create' : 'edit', null, { opId: randomUUID(), ...edit }) : row;
  }

  /** Takes back the newest step in effect, or does the newest undone one again. */
  turn(id: string, turn: Turn, opId: string): Promise<StoredDocument> {
    return transaction(this.pool, async (client) => {
      const row = await this.lock(client, id);
      const repeated = await client.query('select 1 from revision where op_id = $1', [opId]);
      if (repeated.rowCount) return row;
      const { done, undone } = replay(await revisions(client, id));
      const step = turn === 'undo' ? done.at(-1) : undone.at(-1);
      if (!step)
        throw new ServiceError(`nothing-to-${turn}`, turn === 'undo' ? 'There is nothing left to undo here' : 'There is nothing to redo here');
      const { rows } = await client.query<{ patch: Patch; inverse: Patch }>(
        'select patch, inverse from revision where document_id = $1 and version = $2',
        [id, step.version],
      );
      const { patch, inverse } = rows[0];
      const edit = turn === 'undo' ? { patch: inverse, inverse: patch } : { patch, inverse };
      return this.advance(client, row, turn, step.version, { opId, label: step.label, ...edit });
    });
  }

  private async lock(client: pg.PoolClient, id: string): Promise<Row> {
    const { rows } = await client.query<Row>(
      'select id, kind, version, body from document where id = $1 and project_id = $2 and not deleted for update',
      [id, this.projectId],
    );
    if (!rows[0]) throw notFound('This document');
    return rows[0];
  }

  private async advance(
    client: pg.PoolClient,
    row: Row,
    kind: Revision['kind'],
    target: number | null,
    edit: Omit<EditRequest, 'baseVersion'>,
  ): Promise<StoredDocument> {
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
    await client.query('update document set version = $2, body = $3 where id = $1', [row.id, version, JSON.stringify(body)]);
    await client.query(
      'insert into revision (document_id, version, op_id, kind, target, label, patch, inverse) values ($1, $2, $3, $4, $5, $6, $7, $8)',
      [row.id, version, edit.opId, kind, target, edit.label, JSON.stringify(edit.patch), JSON.stringify(edit.inverse)],
    );
    await keepReferences(client, row.id, body);
    await addEvent(client, this.projectId, { type: 'document', id: row.id, kind: row.kind, version, opId: edit.opId, patch: edit.patch });
    return { id: row.id, kind: row.kind, version, body };
  }

  async history(id: string): Promise<History> {
    const { done, undone } = replay(await revisions(this.pool, id));
    const step = (r: Revision, inEffect: boolean): HistoryStep => ({
      version: r.version,
      label: r.label,
      at: r.created_at.toISOString(),
      done: inEffect,
    });
    return {
      steps: [...done.map((r) => step(r, true)), ...undone.map((r) => step(r, false)).reverse()],
      undo: done.at(-1)?.label ?? null,
      redo: undone.at(-1)?.label ?? null,
    };
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

  /** Hides or brings back a document; its revisions stay. */
  async setDeleted(id: string, deleted: boolean): Promise<void> {
    await transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row>(
        'update document set deleted = $3 where id = $1 and project_id = $2 and deleted <> $3 returning id, kind',
        [id, this.projectId, deleted],
      );
      if (!rows[0]) throw notFound('This document');
      await addEvent(client, this.projectId, { type: deleted ? 'deleted' : 'created', id, kind: rows[0].kind });
    });
  }
}

async function revisions(client: pg.PoolClient | pg.Pool, id: string): Promise<Revision[]> {
  return (await client.query<Revision>('select version, kind, target, label, created_at from revision where document_id = $1 order by version', [id]))
    .rows;
}

/** Which steps are in effect and which are undone (last undone at the end), from the list of revisions. */
function replay(list: readonly Revision[]): { done: Revision[]; undone: Revision[] } {
  const done: Revision[] = [];
  let undone: Revision[] = [];
  for (const revision of list) {
    if (revision.kind === 'edit') {
      done.push(revision);
      undone = [];
    } else if (revision.kind === 'undo') undone.push(done.pop() as Revision);
    else if (revision.kind === 'redo') done.push(undone.pop() as Revision);
  }
  return { done, undone };
}

async function keepReferences(client: pg.PoolClient, id: string, body: AnyDocument): Promise<void> {
  const hashes = [...new Set(JSON.stringify(body).match(/\b[0-9a-f]{64}\b/g) ?? [])];
  if (hashes.length)
    await client.query('insert into blob_ref (document_id, hash) select $1, unnest($2::text[]) on conflict do nothing', [id, hashes]);
}
