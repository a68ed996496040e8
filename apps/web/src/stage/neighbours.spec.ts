import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import type { AnyDocument, BlendDocument, PaintedVertices, Span, Material } from '@pebble/core';
import { DEFAULT_CONSTANT, makeAsset, makeBlend, makeLayer } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import { StageSource } from './stage-source';
import { StagePixels } from './stage-pixels';
import { Neighbours } from './neighbours';
import { PaintedColours } from './painted-colours';
import { AssetModel } from './asset-model';
import { StageSpecimen } from './stage-specimen';

interface Asked {
  painted: PaintedVertices;
  times: number;
}

describe('the blends beside the open one', () => {
  let asked: Asked[];
  /** As the worker brings it over: of 48 vertices, of a finer mesh, or of another one. */
  const worn = ({ painted: { vertices } }: Asked) => (vertices === 12 ? null : new Float32Array(48 * 4).fill(vertices === 48 ? 1 : 0.25));
  const plain = (name: string, baseColor: string) =>
    makeBlend(name, { extentM: 0.5, layers: { a: makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT, baseColor }, name, 1) } });
  const make = () => {
    asked = [];
    const all = signal<Record<string, AnyDocument>>({
      still: plain('Still', '#aa7744'),
      iron: plain('Iron', '#333333'),
      whole: makeAsset('Whole', 'copper-still', ['copper', 'pipe', 'iron'], 'still'),
    });
    const edit = (id: string, change: (d: never) => void) =>
      all.update((m) => {
        const next = structuredClone(m[id]);
        change(next as never);
        return { ...m, [id]: next };
      });
    edit('whole', (d: { slots: Record<string, { blend: string }> }) => {
      d.slots['s2'].blend = 'gone';
      d.slots['s3'].blend = 'iron';
    });
    const list = (kind: string) => () => Object.entries(all()).flatMap(([id, body]) => (body.kind === kind ? [{ id, body }] : []));
    const spans = signal<Record<string, Span[]>>({ copper: [[0, 30]], pipe: [[30, 12]], iron: [[42, 6]] });
    const beside = signal<readonly Material[]>([]);
    // Sixteen triangles of which the last two are iron's; black as they came.
    const mesh = { position: new Float32Array(48 * 3), geomcolor: new Float32Array(48 * 4), index: Uint32Array.from({ length: 48 }, (_, i) => i) };
    const model = {
      id: signal('still'),
      known: () => ({}),
      blends: () => Object.fromEntries(list('blend')().map((b) => [b.id, b.body])),
      parallax: () => false,
      beside,
    };
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        AssetModel,
        Neighbours,
        { provide: DocumentsService, useValue: { list, body: (id: string) => all()[id] } },
        { provide: Router, useValue: {} },
        { provide: StageSource, useValue: model },
        { provide: StagePixels, useValue: { of: () => ({ surfaces: [], masks: [], ids: [] }) } },
        {
          provide: StageSpecimen,
          useValue: { spans, standing: signal({ groundM: 0, parts: [] }), name: signal('copper-still'), form: signal(mesh) },
        },
        { provide: PaintedColours, useValue: { bare: signal(mesh), finerTimes: signal(0) } },
        { provide: MeshService, useValue: { run: async (_: string, args: Asked) => (asked.push(args), worn(args)) } },
        { provide: NoticesService, useValue: { error: fail } },
      ],
    });
    TestBed.inject(AssetModel).id.set('whole');
    return { neighbours: TestBed.inject(Neighbours), edit, spans };
  };

  it('are drawn on their own triangles; what nothing sits on, or what was deleted, is there in grey', () => {
    const { neighbours } = make();
    const shown = neighbours.shown();
    expect(shown.map((p) => [p.key, p.spans])).toEqual([
      ['iron', [[42, 6]]],
      ['', [[30, 12]]],
    ]);
    expect(shown[0].perMetre).toBe(2);
  });
  it('wear what was painted for them on their own slots, if it was painted on this mesh', async () => {
    const { neighbours, edit } = make();
    const paint = (entry: object) => edit('iron', (d: BlendDocument) => (d.paint = { 'copper-still': entry as never }));
    const settle = async () => {
      TestBed.tick();
      await new Promise((r) => setTimeout(r, 20));
    };
    expect(neighbours.shown()[0].colours).toBeNull();
    paint({ vertices: 48, finer: 0, tiles: { 0: 'a' } });
    await settle();
    expect(neighbours.shown()[0].colours).toEqual(new Float32Array(48 * 4).fill(1));
    // Of the open one's colours only those on the slot of iron are replaced.
    const over = neighbours.over(new Float32Array(48 * 4).fill(0.5));
    expect([over[0], over[41 * 4], over[42 * 4], over[47 * 4 + 3]]).toEqual([0.5, 0.5, 1, 1]);
    // What was painted on a finer mesh is brought to the one that is shown; what was painted on another one is not.
    paint({ vertices: 180, finer: 1, tiles: { 0: 'a' } });
    expect(neighbours.shown()[0].colours).toBeNull();
    await settle();
    expect(neighbours.shown()[0].colours).toEqual(new Float32Array(48 * 4).fill(0.25));
    expect(asked.at(-1)).toEqual(jasmine.objectContaining({ times: 0, painted: { vertices: 180, finer: 1, tiles: { 0: 'a' } } }));
    paint({ vertices: 12, finer: 0, tiles: { 0: 'a' } });
    await settle();
    expect(neighbours.shown()[0].colours).toBeNull();
    const before = asked.length;
    edit('iron', (d: BlendDocument) => (d.extentM = 0.25));
    await settle();
    expect(asked.length).toBe(before);
  });
  it('are not touched by drafts of the open one, and follow their own', () => {
    const { neighbours, edit } = make();
    const before = neighbours.shown();
    edit('still', (d: BlendDocument) => (d.layers['a'].seam.soft = 0.7));
    expect(neighbours.shown()).toBe(before);
    edit('iron', (d: BlendDocument) => (d.extentM = 0.25));
    expect(neighbours.shown()).not.toBe(before);
    expect(neighbours.shown()[0].perMetre).toBe(4);
  });
});
