import { Injectable, computed, inject, signal } from '@angular/core';
import type { JobView, RemapRequest, UploadedFile } from '@pebble/contracts';
import type { LookedAt, MapEntry, MapSource, Role, SentFile } from '@pebble/core';
import { ROLE_FACTS, readName } from '@pebble/core';
import { isCompanionName, isMeshName } from '@pebble/formats/mesh-names';
import type { IncomingSurface } from '@pebble/usecases';
import { lookRequests, meshesAmong, namedBlobs, recipeOfMap, withCarried } from '@pebble/usecases';
import { ApiService } from '../../services/api.service';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { inSlices } from '../../ui/breathe';

/** A map that is read from a file, and the file that may take its place. */
export interface KnownMap {
  surface: string;
  role: Role;
  label: string;
  oldName: string;
  file: SentFile & { blob: string };
  /** Its bytes are others than before. */
  changed: boolean;
  source: Extract<MapSource, { blob: string }>;
}

type Stage =
  | { at: 'idle' }
  | { at: 'sending'; done: number; count: number; name: string }
  | { at: 'reading'; job: string }
  | { at: 'looking'; jobs: readonly string[]; count: number }
  /** `meshes` are blobs of those that came along. */
  | { at: 'asking'; files: readonly SentFile[]; looked: readonly LookedAt[]; known: readonly KnownMap[]; meshes: readonly string[] };

const byName = new Intl.Collator('en', { numeric: true }).compare;

/** The way of files from a drop to surfaces: sent, looked at, asked about, imported. One drop at a time. */
@Injectable()
export class Intake {
  private readonly api = inject(ApiService);
  private readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  private readonly notices = inject(NoticesService);
  private readonly surfaces = this.documents.list('surface');
  private abort: AbortController | null = null;
  readonly stage = signal<Stage>({ at: 'idle' });
  /** Blobs of the meshes that came with the last drop; they are on the wall of specimens then. */
  readonly cameWith = signal<readonly string[]>([]);
  /** What is under way, in words and as a share; null when nothing is. */
  readonly progress = computed(() => {
    const stage = this.stage();
    if (stage.at === 'sending') return { text: `Sending ${stage.name}`, done: stage.done };
    if (stage.at === 'reading') {
      const job = this.jobs.job(stage.job);
      return { text: `Reading ${job?.note || 'meshes'}`, done: job?.progress ?? 0 };
    }
    if (stage.at !== 'looking') return null;
    const all = stage.jobs.flatMap((id) => this.jobs.job(id) ?? []);
    const share = (job: JobView) => (job.status === 'done' ? 1 : job.progress);
    const done = all.reduce((sum, j) => sum + share(j), 0) / stage.jobs.length;
    const name = all.find((j) => j.status === 'running')?.note ?? '';
    return { text: `Looking at file ${Math.min(stage.count, Math.floor(done * stage.count) + 1)} of ${stage.count}: ${name}`, done };
  });
  readonly asking = computed(() => {
    const stage = this.stage();
    return stage.at === 'asking' ? stage : null;
  });

  /**
   * Sends files and looks at them, those of a surface together. Looking begins while others are still sent and meshes are read;
   * pictures that a mesh turns out to carry are looked at as what it says of them.
   */
  async take(given: readonly File[]): Promise<void> {
    if (!given.length || this.stage().at !== 'idle') return;
    // Folders give their files in any order; people look for names.
    const files = [...given].sort((a, b) => byName(a.name, b.name));
    const jobs: (string | null)[] = [];
    const pictures = files.filter(({ name }) => !isMeshName(name) && !isCompanionName(name));
    const early = lookRequests(this.unknown(pictures)).map((r) => r.files.map((f) => f.file));
    const others = files.filter((f) => !early.some((group) => group.includes(f)));
    const begun = new Set<string>();
    const all = await this.send([...early, others], async (uploaded, group) => {
      const readable = group < early.length ? namedBlobs(uploaded) : [];
      readable.forEach((f) => begun.add(keyOf(f)));
      if (readable.length) jobs.push((await this.jobs.start('look', { files: readable }))?.id ?? null);
    });
    const sent = all && (await this.readMeshes(all));
    if (!all || !sent?.length) return jobs.forEach((id) => id && void this.jobs.cancel(id));
    const { meshes } = meshesAmong(all).request;
    const known = this.knownMaps(sent);
    const rest = namedBlobs(sent).filter((f) => !begun.has(keyOf(f)) && !known.some((k) => k.file.fileName === f.fileName));
    for (const request of lookRequests(rest)) jobs.push((await this.jobs.start('look', request))?.id ?? null);
    const looked = await this.lookedAt(jobs, begun.size + rest.length);
    this.stage.set(looked ? { at: 'asking', files: sent, looked, known, meshes: meshes.map((m) => m.blob) } : { at: 'idle' });
  }

  /** Files of which no map is read yet, as far as names tell. */
  private unknown(files: readonly File[]): { fileName: string; file: File }[] {
    const names = new Set(this.fromFiles().map((m) => m.oldName));
    return files.flatMap((file) => (names.has(file.name) && readName(file.name).stem ? [] : [{ fileName: file.name, file }]));
  }

  /** Sends groups of files, telling of each when it is there; null when that was cancelled. */
  async send(groups: readonly (readonly File[])[], there: (uploaded: UploadedFile[], group: number) => Promise<void> = async () => undefined) {
    const { signal } = (this.abort = new AbortController());
    const sent: UploadedFile[] = [];
    const count = groups.reduce((n, g) => n + g.length, 0);
    let total = 0;
    let before = 0;
    this.stage.set({ at: 'sending', done: 0, count, name: groups.find((g) => g.length)?.[0].name ?? '' });
    try {
      // The browser asks the system for each size when it is read.
      await inSlices(
        groups.flat(),
        (f) => (total += f.size),
        () => signal.aborted,
      );
      for (const [index, group] of groups.entries()) {
        const uploaded: UploadedFile[] = [];
        for (const batch of batches(group)) {
          const size = batch.reduce((sum, f) => sum + f.size, 0);
          const name = batch.length === 1 ? batch[0].name : `${batch[0].name} and ${batch.length - 1} more`;
          const tell = (done: number) => this.stage.set({ at: 'sending', done: (before + done * size) / (total || 1), count, name });
          signal.throwIfAborted();
          tell(0);
          uploaded.push(...(await this.api.upload<UploadedFile[]>(batch, tell, signal)));
          before += size;
        }
        await there(uploaded, index);
        sent.push(...uploaded);
      }
      this.stage.set({ at: 'idle' });
      return sent;
    } catch (error) {
      this.stage.set({ at: 'idle' });
      if ((error as Error).name !== 'AbortError') this.notices.error(error);
      return null;
    }
  }

  /**
   * Makes specimens of the meshes among some files; gives the files that are left to be asked about: pictures, those that
   * the meshes carried, and what could not be read. Null when that was cancelled.
   */
  private async readMeshes(files: readonly SentFile[]): Promise<SentFile[] | null> {
    const { request, others } = meshesAmong(files);
    if (!request.meshes.length) return others;
    const job = await this.jobs.start('meshes', request);
    if (!job) return null;
    this.stage.set({ at: 'reading', job: job.id });
    const ended = await this.jobs.whenEnded(job);
    this.stage.set({ at: 'idle' });
    if (ended.status !== 'done') return null;
    const carried = ended.result?.files ?? [];
    this.cameWith.set(request.meshes.flatMap((m) => (carried.some((c) => !c.blob && c.fileName === m.fileName) ? [] : [m.blob])));
    return withCarried(carried, others);
  }

  /** What jobs found, when they have all ended well; null otherwise. */
  private async lookedAt(jobs: readonly (string | null)[], count: number): Promise<LookedAt[] | null> {
    const started = jobs.filter((id) => id !== null);
    if (started.length < jobs.length) started.forEach((id) => void this.jobs.cancel(id));
    if (started.length < jobs.length || !jobs.length) return jobs.length ? null : [];
    this.stage.set({ at: 'looking', jobs: started, count });
    const ended = await Promise.all(started.map((id) => this.jobs.whenEnded({ id, kind: 'look' })));
    return ended.every((j) => j.status === 'done') ? ended.flatMap((j) => j.result?.files ?? []) : null;
  }

  /** Every map of the project that is read from a file. */
  private readonly fromFiles = computed(() =>
    this.surfaces().flatMap(({ id, body }) =>
      (Object.entries(body.maps) as [Role, MapEntry][]).flatMap(([role, entry]) => {
        const { source } = recipeOfMap(entry);
        return 'role' in source
          ? []
          : [{ surface: id, role, label: `${body.name}, ${ROLE_FACTS[role].label.toLowerCase()}`, oldName: source.fileName, source }];
      }),
    ),
  );

  /** Maps whose files are among these, by name: a folder that is dropped again is read again. */
  private knownMaps(files: readonly SentFile[]): KnownMap[] {
    // A name like normal.png says nothing of whose it is.
    const telling = files.flatMap((f) => (f.blob && readName(f.fileName).stem ? [{ ...f, blob: f.blob }] : []));
    return telling.flatMap((file) =>
      this.fromFiles()
        .filter((m) => m.oldName === file.fileName)
        .map((m) => ({ ...m, file, changed: m.source.blob !== file.blob })),
    );
  }

  /** Maps that are read from the same image as this one, to be read from another. */
  usesOf(entry: MapEntry, file: KnownMap['file']): KnownMap[] {
    const { source } = recipeOfMap(entry);
    const uses = 'role' in source ? [] : this.fromFiles().filter((m) => m.source.blob === source.blob);
    return uses.map((m) => ({ ...m, file, changed: true }));
  }

  cancel(): void {
    const stage = this.stage();
    if (stage.at === 'sending') this.abort?.abort();
    if (stage.at === 'reading') void this.jobs.cancel(stage.job);
    if (stage.at === 'looking') for (const id of stage.jobs) void this.jobs.cancel(id);
  }

  forget = (): void => this.stage.set({ at: 'idle' });

  /**
   * Imports what is new and reads again what has changed.
   * @param whenMade called with the surfaces that were made, by id and in their order, when all of them are
   */
  async accept(
    requests: readonly { surfaces: IncomingSurface[] }[],
    again: readonly KnownMap[],
    whenMade?: (surfaces: readonly string[]) => void,
  ): Promise<void> {
    const started: { id: string; kind: 'import' }[] = [];
    for (const request of requests) {
      const job = await this.jobs.start('import', request);
      if (!job) return;
      started.push({ id: job.id, kind: 'import' });
    }
    await this.reread(again);
    this.forget();
    if (!whenMade) return;
    const ended = await Promise.all(started.map((job) => this.jobs.whenEnded(job)));
    if (ended.every((j) => j.status === 'done')) whenMade(ended.flatMap((j) => j.result?.documents ?? []));
  }

  /** New bytes behind maps, one step a surface; settings stay. */
  async reread(maps: readonly KnownMap[]): Promise<void> {
    for (const surface of new Set(maps.map((m) => m.surface))) {
      const own = maps.filter((m) => m.surface === surface);
      const changes = own.map(({ role, file, source }) => ({ role, source: { ...source, blob: file.blob, fileName: file.fileName } }));
      await this.remap(surface, own.length === 1 ? `Read ${own[0].file.fileName} again` : `Read ${own.length} files again`, changes);
    }
  }

  remap = (surface: string, label: string, changes: RemapRequest['changes']) =>
    this.jobs.start('remap', { label: label.slice(0, 200), changes }, surface);
}

/** Two files may have one name, and one picture two. */
const keyOf = ({ blob, fileName }: { blob: string; fileName: string }): string => `${blob} ${fileName}`;

/** Requests of at most this many files and bytes: what is sent is safe, and cancelling loses little. */
const BATCH = { files: 20, bytes: 64 * 2 ** 20 };

function batches(files: readonly File[]): File[][] {
  const out: File[][] = [];
  let bytes = Infinity;
  for (const file of files) {
    if (bytes + file.size > BATCH.bytes || out[out.length - 1].length >= BATCH.files) {
      out.push([]);
      bytes = 0;
    }
    out[out.length - 1].push(file);
    bytes += file.size;
  }
  return out;
}
