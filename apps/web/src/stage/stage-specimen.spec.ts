import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { makeBlend, makeSpecimen } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import { PaintedColours } from './painted-colours';
import { AssetModel } from './asset-model';
import { StageSpecimen } from './stage-specimen';

describe('the specimen on the stage', () => {
  const given = makeSpecimen('copper-still', 1);
  /** Rises with every edit of any document. */
  const edits = signal(0);
  const body = () => (edits(), { name: 'Brought', model: 'm', uvSet: 0, unitM: 1, up: 'y', parts: {} });
  const make = () => {
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        StageSpecimen,
        PaintedColours,
        { provide: DocumentsService, useValue: { body, list: () => signal([]) } },
        { provide: MeshService, useValue: { run: async () => given } },
        { provide: NoticesService, useValue: {} },
        { provide: AssetModel, useValue: { body: () => null } },
      ],
    });
    return TestBed.inject(StageSpecimen);
  };

  it('is one that was brought in as soon as that is read, and stays the same whatever is edited', async () => {
    const specimen = make();
    const blend = makeBlend('B', { extentM: 0.5, specimen: 'brought' });
    TestBed.runInInjectionContext(() => specimen.follow('b', blend, []));
    const before = specimen.form();
    edits.update((n) => n + 1);
    expect(specimen.form()).withContext('what stands in').toBe(before);
    await Promise.resolve();
    specimen.follow('b', blend, []);
    const read = specimen.form();
    expect(read.position).toBe(given.position);
    expect(read.texcoord[2]).toBeCloseTo(given.texcoord[2] / 0.5, 6);
    const ground = specimen.ground();
    edits.update((n) => n + 1);
    specimen.follow('b', blend, []);
    expect(specimen.form()).toBe(read);
    expect(specimen.ground()).toBe(ground);
    // Another extent lays it anew.
    specimen.follow('b', { ...blend, extentM: 1 }, []);
    expect(specimen.form().texcoord[2]).toBeCloseTo(given.texcoord[2], 6);
  });
});
