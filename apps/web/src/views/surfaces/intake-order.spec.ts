import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { JobView, UploadedFile } from '@pebble/contracts';
import { ApiService } from '../../services/api.service';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { Intake } from './intake';

/** What happens in which order when files come: uploads and jobs write down that they were asked for. */
describe('taking files in', () => {
  let log: string[];
  let intake: Intake;
  let carried: Partial<UploadedFile>[];
  const cancelled: string[] = [];
  const named = (...names: string[]) => names.map((n) => new File([n], n));
  const answer = ({ name }: File) => ({
    fileName: name,
    blob: /broken/.test(name) ? null : `b-${name}`,
    problem: /broken/.test(name) ? 'no picture' : null,
  });
  const job = (id: string, result: object): JobView => ({
    id,
    kind: 'look',
    label: '',
    status: 'done',
    progress: 1,
    note: '',
    error: null,
    result: { ...result, documents: [] } as never,
  });
  beforeEach(() => {
    log = [];
    carried = [];
    cancelled.length = 0;
    const jobs = new Map<string, JobView>();
    const start = async (kind: string, body: { files?: { fileName: string }[]; meshes?: { fileName: string }[] }) => {
      const files = (body.files ?? body.meshes ?? []).map((f) => f.fileName);
      log.push(`${kind} ${files.join(' ')}`);
      const made = job(`j${jobs.size}`, { files: kind === 'look' ? files.map((fileName) => ({ fileName })) : carried });
      jobs.set(made.id, made);
      return made;
    };
    const upload = async (batch: File[]) => {
      log.push(`send ${batch.map((f) => f.name).join(' ')}`);
      if (batch.some((f) => /cut/.test(f.name))) throw Object.assign(new Error('stopped'), { name: 'AbortError' });
      return batch.map(answer);
    };
    TestBed.configureTestingModule({
      providers: [
        Intake,
        { provide: ApiService, useValue: { upload } },
        { provide: DocumentsService, useValue: { list: () => signal([]) } },
        {
          provide: JobsService,
          useValue: {
            start,
            whenEnded: async ({ id }: JobView) => jobs.get(id),
            job: (id: string) => jobs.get(id),
            cancel: (id: string) => cancelled.push(id),
          },
        },
        { provide: NoticesService, useValue: { error: (e: unknown) => log.push(`error ${String(e)}`) } },
      ],
    });
    intake = TestBed.inject(Intake);
  });

  it('looks at the files of a surface together, while others are still sent, by name', async () => {
    const many = Array.from({ length: 20 }, (_, i) => `wall${i}_height.png`);
    await intake.take(named('moss_normal.png', ...many, 'moss_height.png', 'moss_scan.png'));
    expect(log[0]).toMatch(/^send moss_height\.png moss_normal\.png moss_scan\.png wall0_height\.png wall1_/);
    expect(log.findIndex((l) => l.startsWith('look'))).toBeLessThan(log.findLastIndex((l) => l.startsWith('send')) + 2);
    const asking = intake.asking();
    expect(asking?.files.length).toBe(23);
    expect(asking?.looked.length).toBe(23);
  });
  it('leaves out of the looking what could not be read', async () => {
    await intake.take(named('a_height.png', 'a_broken.png'));
    expect(log).toEqual(['send a_broken.png a_height.png', 'look a_height.png']);
    expect(intake.asking()?.files.map((f) => f.problem)).toEqual(['no picture', null]);
  });
  it('looks at pictures while meshes are read; those that they carry come once, under the better name', async () => {
    carried = [{ fileName: 'Leaf_basecolor.png', blob: 'b-leaf_d.png' }];
    await intake.take(named('leaf.gltf', 'leaf.bin', 'leaf_d.png', 'moss_height.png'));
    // Pictures are looked at while the mesh is on its way; what it turns out to carry is looked at as what it says of it.
    expect(log).toEqual([
      'send leaf_d.png',
      'look leaf_d.png',
      'send moss_height.png',
      'look moss_height.png',
      'send leaf.bin leaf.gltf',
      'meshes leaf.gltf',
      'look Leaf_basecolor.png',
    ]);
    expect(intake.cameWith()).toEqual(['b-leaf.gltf']);
    expect(intake.asking()?.files.map((f) => f.fileName)).toEqual(['Leaf_basecolor.png', 'moss_height.png']);
  });
  it('asks nothing when meshes alone came', async () => {
    await intake.take(named('leaf.glb'));
    expect(log).toEqual(['send leaf.glb', 'meshes leaf.glb']);
    expect(intake.stage()).toEqual({ at: 'idle' });
  });
  it('ends what it began when sending is cancelled', async () => {
    await intake.take(named(...Array.from({ length: 30 }, (_, i) => `a${i}_height.png`), 'z_cut.png'));
    expect(log.some((l) => l.startsWith('look'))).toBeTrue();
    expect(cancelled.length).toBe(log.filter((l) => l.startsWith('look')).length);
    expect(intake.stage()).toEqual({ at: 'idle' });
    expect(log.some((l) => l.startsWith('error'))).toBeFalse();
  });
});
