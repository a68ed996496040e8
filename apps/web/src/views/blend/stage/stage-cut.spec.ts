import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { BlendDocument } from '@pebble/core';
import { makeBlend } from '@pebble/core';
import { BlendModel } from '../blend-model';
import { StageCut } from './stage-cut';

describe('the cut on the stage', () => {
  const send = (type: string, x: number, y = 0) => dispatchEvent(new PointerEvent(type, { clientX: x, clientY: y, pointerId: 3 }));
  const press = () => new PointerEvent('pointerdown', { clientX: 0, clientY: 0, pointerId: 3 });
  const make = () => {
    const blend = signal<BlendDocument>(makeBlend('Step', { cut: { ax: 0.1, ay: 0.5, bx: 0.9, by: 0.5 } }));
    const [cutting, along] = [signal(true), signal<number | null>(0.5)];
    const said: string[] = [];
    const draft = (change: (d: BlendDocument) => void) => {
      const next = structuredClone(blend());
      change(next);
      blend.set(next);
    };
    const model = {
      cut: () => blend().cut,
      along,
      cutting,
      draft,
      commit: (label: string) => said.push(label),
      giveUp: () => said.push('given up'),
      edit: (label: string, change: (d: BlendDocument) => void) => (draft(change), said.push(label)),
    };
    TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection(), StageCut, { provide: BlendModel, useValue: model }] });
    return { cut: TestBed.inject(StageCut), blend, cutting, along, said };
  };

  it('is seen by its ends and the place along it that is pointed at', () => {
    const { cut, along } = make();
    const place = (u: number, v: number) => [u * 100, v * 100].map(Math.round);
    expect(cut.line(place)).toEqual({ a: [10, 50], b: [90, 50], at: [50, 50] });
    along.set(null);
    expect(cut.line(place)?.at).toBeNull();
  });
  it('is dragged by one end or as a whole, and stepped by keys', () => {
    const { cut, blend, said } = make();
    cut.drag(press(), 'b', 0.01);
    send('pointermove', 5, -10);
    send('pointerup', 5, -10);
    expect([blend().cut.ax, blend().cut.ay]).toEqual([0.1, 0.5]);
    expect(blend().cut.bx).toBeCloseTo(0.95, 9);
    expect(blend().cut.by).toBeCloseTo(0.4, 9);
    cut.drag(press(), 'both', 0.01);
    send('pointermove', 10);
    send('pointercancel', 10);
    expect(blend().cut.ax).toBeCloseTo(0.2, 9);
    cut.key(new KeyboardEvent('keydown', { key: 'ArrowUp', shiftKey: true }), 'a');
    expect(blend().cut.ay).toBeCloseTo(0.45, 9);
    expect(said).toEqual(['Move the cut', 'given up', 'Move the cut']);
  });
  it('is drawn over the specimen once; beside it nothing is begun and the tool stays out', () => {
    const { cut, blend, cutting, said } = make();
    expect(cut.draw(press(), () => null)).toBeFalse();
    expect(cutting()).toBeTrue();
    const seen = (e: PointerEvent): [number, number] | null => (e.clientX > 50 ? null : [2.25 + e.clientX / 100, -0.5]);
    expect(cut.draw(press(), seen)).toBeTrue();
    send('pointermove', 40);
    // Over the edge it stays where it was seen last.
    send('pointermove', 80);
    send('pointerup', 80);
    expect(Object.values(blend().cut).map((v) => +v.toFixed(6))).toEqual([0.25, 0.5, 0.65, 0.5]);
    expect(said).toEqual(['Draw the cut on the specimen']);
    expect(cutting()).toBeFalse();
  });
});
