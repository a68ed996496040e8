import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { JobView } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { DrawService } from '../../services/draw.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import type { DrawRequest, DrawnSurface } from '../../workers/protocol';
import { SurfaceTrial } from './trial';

const gravel = {
  kind: 'surface',
  name: 'Gravel',
  sizeM: 1.2,
  maps: { height: { width: 256 } },
  generator: { name: 'river-gravel', seed: 8, amounts: { sand: 1.4 } },
} as unknown as SurfaceDocument;

describe('a surface while its parameters are turned', () => {
  let trial: SurfaceTrial;
  let asked: DrawRequest[];
  let posted: { kind: string; request: Record<string, unknown> }[];
  let cancelled: string[];
  const jobs = signal<ReadonlyMap<string, JobView>>(new Map());
  const job = (id: string, status: string) => {
    jobs.update((m) => new Map(m).set(id, { id, status, progress: 0 } as JobView));
    TestBed.tick();
  };
  const drawn = { size: 128 } as DrawnSurface;

  beforeEach(() => {
    [asked, posted, cancelled] = [[], [], []];
    jobs.set(new Map());
    TestBed.configureTestingModule({
      providers: [
        SurfaceTrial,
        { provide: DrawService, useValue: { draw: async (r: DrawRequest) => (asked.push(r), drawn) } },
        { provide: DocumentsService, useValue: { body: () => gravel } },
        { provide: NoticesService, useValue: { error: fail } },
        {
          provide: JobsService,
          useValue: {
            job: (id: string | null) => (id ? jobs().get(id) : undefined),
            start: async (kind: string, request: Record<string, unknown>) => {
              posted.push({ kind, request });
              const made = { id: `job${posted.length}`, status: 'waiting', progress: 0 } as JobView;
              jobs.update((m) => new Map(m).set(made.id, made));
              return made;
            },
            cancel: async (id: string) => void cancelled.push(id),
          },
        },
      ],
    });
    trial = TestBed.inject(SurfaceTrial);
  });
  afterEach(() => trial.end());

  it('draws small at once with what the surface has and what is tried, finer when it rests', async () => {
    trial.turn('g', { structure: 'pits', amount: 0.3 });
    expect(asked[0]).toEqual({ order: { name: 'river-gravel', seed: 8, amounts: { sand: 1.4, pits: 0.3 }, size: 128 }, parts: 'maps' });
    expect(trial.amount('g', gravel, 'pits')).toBe(0.3);
    expect(trial.amount('g', gravel, 'sand')).toBe(1.4);
    expect(trial.amount('another', gravel, 'pits')).toBe(1);
    await new Promise((r) => setTimeout(r, 260));
    expect(asked.map((a) => a.order.size)).toEqual([128, 512]);
    expect(trial.drawn()).toBe(drawn);
  });
  it('asks the server for the surface at its own size, and goes back to it when the job ends', async () => {
    trial.turn('g', { seed: 77 });
    await trial.keep();
    expect(posted).toEqual([{ kind: 'generate', request: { name: 'river-gravel', seed: 77, amounts: { sand: 1.4 }, size: 256, replace: 'g' } }]);
    expect(trial.seed('g', gravel)).toBe(77);
    job('job1', 'done');
    expect(trial.seed('g', gravel)).toBe(8);
    expect(trial.drawn()).toBeNull();
  });
  it('gives up the job of a value that was turned on', async () => {
    trial.turn('g', { structure: 'sand', amount: 0.5 });
    await trial.keep();
    trial.turn('g', { structure: 'sand', amount: 0.9 });
    await trial.keep();
    expect(cancelled).toEqual(['job1']);
    job('job1', 'cancelled');
    expect(trial.amount('g', gravel, 'sand')).toBe(0.9);
    expect(trial.job()?.id).toBe('job2');
  });
  it('is not ended in the middle of a drag by the job of the drag before', async () => {
    trial.turn('g', { structure: 'sand', amount: 0.5 });
    await trial.keep();
    trial.turn('g', { structure: 'sand', amount: 0.9 });
    job('job1', 'done');
    expect(trial.amount('g', gravel, 'sand')).toBe(0.9);
    await trial.keep();
    expect(posted[1].request['amounts']).toEqual({ sand: 0.9 });
  });
  it('shows the surface again when the job fails', async () => {
    trial.turn('g', { structure: 'sand', amount: 0.5 });
    await trial.keep();
    job('job1', 'failed');
    expect(trial.amount('g', gravel, 'sand')).toBe(1.4);
  });
});
