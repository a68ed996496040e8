import type { DocumentStore, Report } from '@pebble/usecases';
import { STILL, UseCaseError, libraryOf } from '@pebble/usecases';
import { finishedDocuments } from '@pebble/usecases/finished-example';
import { setTimeout as wait } from 'node:timers/promises';
import { DEMO_BLENDS, DEMO_SEEDS } from '../../demo';
import type { JobDefinition } from '../kind';

/** Pixels that the surfaces of the example have when they are whole, and how long they are waited for. */
const WHOLE = 1024;
const [LOOK_MS, MOST_MS] = [200, 180_000];

/** Everything that it is made of, once the jobs before it have made that at full size; as it is then where some never come. */
async function whole(documents: DocumentStore, report: Report) {
  for (const end = Date.now() + MOST_MS; ; await wait(LOOK_MS)) {
    report(0, 'waiting for its surfaces');
    const all = await documents.reach([STILL.specimen, ...Object.keys(DEMO_SEEDS)]);
    const library = libraryOf(all);
    const coarse = Object.values(library.surfaces).some((s) => s.generator && Math.max(0, ...Object.values(s.maps).map((m) => m.width)) < WHOLE);
    const still = library.specimens?.[STILL.specimen];
    if (still && (!coarse || Date.now() > end)) return { library: libraryOf(await documents.reach([...Object.keys(all), STILL.ids])), still };
    if (Date.now() > end) throw new UseCaseError('missing-specimen', 'The still of the example was deleted before it could be stamped');
  }
}

/** The still and the shed wall of the example as somebody would hand them over. */
export const finished: JobDefinition<'finished'> = {
  async run({ ports, report, documents }) {
    const { library, still } = await whole(documents, report);
    const blends = { still: DEMO_BLENDS['copper-still'], wall: DEMO_BLENDS['shed-wall'] };
    return { create: await finishedDocuments(ports, library, { still, blends }, report), result: {} };
  },
};
