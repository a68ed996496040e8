import type { ProjectDocument } from '@pebble/core';
import { DEFAULT_TARGET, TARGETS } from '@pebble/core';
import type { App } from './app';

/** Any number; of programs that start on one database at the same time one makes what every project has. */
const LOCK = 726_011_942;

/** What every project has: its set-up and the targets it starts with. One that was deleted stays so. */
export async function seed(app: App, demo: boolean): Promise<void> {
  const client = await app.pool.connect();
  try {
    await client.query('select pg_advisory_lock($1)', [LOCK]);
    await make(app, demo);
  } finally {
    await client.query('select pg_advisory_unlock($1)', [LOCK]).catch(() => undefined);
    client.release();
  }
}

async function make({ documents, pool, jobs }: App, demo: boolean): Promise<void> {
  const { rows } = await pool.query<{ id: string; kind: string }>('select id, kind from document');
  if (!rows.some((r) => r.kind === 'project')) {
    const project: ProjectDocument = {
      kind: 'project',
      version: 1,
      name: demo ? 'Orrin Ridge' : 'New project',
      exportNormal: 'y+',
      exportSize: 1024,
      target: DEFAULT_TARGET,
    };
    await documents.create(project, 'Set up project', undefined, 'project');
    if (demo) await jobs.add('demo', 'Orrin Ridge', {});
  }
  const known = new Set(rows.map((r) => r.id));
  for (const [id, target] of Object.entries(TARGETS)) if (!known.has(id)) await documents.create(target, `Add ${target.name}`, undefined, id);
}
