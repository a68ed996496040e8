import { FETCH_SCHEMA } from '@pebble/contracts';
import { UseCaseError, importSurface, lookAtFiles, planImport, planRequests } from '@pebble/usecases';
import { Quarry } from '../../quarry/client';
import { noQuarry } from '../../store/errors';
import type { JobDefinition } from '../kind';
import { sentFiles } from './sent';

export const fetch: JobDefinition<'fetch'> = {
  ask: {
    summary: 'Fetch a surface from the quarry',
    body: FETCH_SCHEMA,
    order(request, _document, { quarry }) {
      if (quarry === null) throw noQuarry();
      return { label: `Fetch ${request.id.replace(/-/g, ' ')}`, payload: request };
    },
  },
  async run({ ports, report, quarry: base }, { id, size, author, licence }) {
    // Where it is now: since it was asked for, the quarry may have been started again.
    if (base === null) throw noQuarry();
    const quarry = new Quarry(base);
    const { title, sizeM, reliefM, files } = await quarry.files(id, size);
    const total = files.reduce((sum, f) => sum + f.bytes, 0);
    const kept: { blob: string; fileName: string }[] = [];
    let before = 0;
    for (const file of files) {
      const bytes = await quarry.download(id, size, file, (share, attempt) =>
        report((0.7 * (before + share * file.bytes)) / total, attempt > 1 ? `${file.name}, try ${attempt}` : file.name),
      );
      kept.push({ blob: await ports.blobs.put(bytes, 'application/octet-stream'), fileName: file.name });
      before += file.bytes;
    }
    // What the quarry says that its files hold is looked at like anybody's.
    const plan = planImport(await sentFiles(kept, ports), await lookAtFiles(ports, kept, (done, note) => report(0.7 + 0.1 * done, note)));
    const [bad] = plan.refused;
    if (bad) throw new UseCaseError('unreadable-file', bad.problem ?? 'A file of the quarry cannot be read');
    const maps = planRequests(plan).flatMap((r) => r.surfaces.flatMap((s) => s.maps));
    const incoming = { name: title, sizeM, reliefM, maps, origin: { author, source: `The quarry, ${id} at ${size}²`, licence } };
    return { create: [{ body: await importSurface(ports, incoming, (done, note) => report(0.8 + 0.2 * done, note)) }], result: {} };
  },
};
