import type { ProjectDocument } from '@pebble/core';
import { DEFAULT_TARGET, TARGETS } from '@pebble/core';
import type { App } from './app';

/** What every project has: its set-up and the targets it starts with. One that was deleted stays so. */
export async function seed({ documents, pool, jobs }: App, demo: boolean): Promise<void> {
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
