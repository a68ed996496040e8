import type { ComponentFixture } from '@angular/core/testing';
import { TestBed } from '@angular/core/testing';
import type { SpecimenDocument, SurfaceDocument } from '@pebble/core';
import type { Stone } from './wall';
import { Wall, stoneOfSpecimen, stoneOfSurface } from './wall';

const stone = (id: string): Stone => ({ id, name: `Stone ${id}`, thumbnail: null, dots: 3, doubtful: false, about: 'Height' });

describe('the wall', () => {
  let fixture: ComponentFixture<Wall>;
  const chosen: { id: string; add: boolean }[] = [];
  const list = () => fixture.nativeElement.querySelector('[role=listbox]') as HTMLElement;
  const press = (key: string) => {
    list().dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
    fixture.detectChanges();
  };
  const drawn = async () => {
    fixture.detectChanges();
    await new Promise((resolve) => setTimeout(resolve, 60));
    fixture.detectChanges();
  };
  beforeEach(async () => {
    chosen.length = 0;
    fixture = TestBed.createComponent(Wall);
    const host = fixture.nativeElement as HTMLElement;
    host.style.cssText = 'display: block; width: 720px; height: 400px';
    fixture.componentRef.setInput('stones', ['a', 'b', 'c', 'd', 'e', 'f', 'g'].map(stone));
    fixture.componentRef.setInput('chosenId', 'a');
    fixture.componentInstance.chose.subscribe((c) => chosen.push(c));
    await drawn();
  });
  it('puts as many pebbles in a row as have room, and marks the chosen one', () => {
    // (720 − 2 × 24) / 216
    expect(fixture.componentInstance.columns()).toBe(3);
    const rows = fixture.nativeElement.querySelectorAll('.row') as NodeListOf<HTMLElement>;
    expect(rows[0].querySelectorAll('[role=option]').length).toBe(3);
    expect((fixture.nativeElement.querySelector('[aria-selected=true]') as HTMLElement).dataset['id']).toBe('a');
  });
  it('goes by arrow keys along and across, and stops at the ends', () => {
    for (const key of ['ArrowRight', 'ArrowDown', 'ArrowLeft', 'ArrowUp', 'ArrowLeft', 'ArrowUp', 'x']) press(key);
    expect(chosen.map((c) => c.id)).toEqual(['b', 'e', 'd', 'a']);
  });
  it('says by click and key whether another one is wanted beside', () => {
    const option = fixture.nativeElement.querySelector('[data-id=b]') as HTMLElement;
    option.dispatchEvent(new MouseEvent('click', { bubbles: true }));
    option.dispatchEvent(new MouseEvent('click', { bubbles: true, shiftKey: true }));
    expect(chosen).toEqual([
      { id: 'b', add: false },
      { id: 'b', add: true },
    ]);
  });
  it('shows what is being made with its progress, which can be cancelled', async () => {
    const cancelled: string[] = [];
    fixture.componentInstance.cancelled.subscribe((id) => cancelled.push(id));
    fixture.componentRef.setInput('stones', [stone('a')]);
    fixture.componentRef.setInput('making', [
      { id: 'j1', kind: 'generate', label: 'Draw moss', status: 'running', progress: 0.42, note: 'tufts', error: null, result: null },
    ]);
    await drawn();
    const making = fixture.nativeElement.querySelector('.making') as HTMLElement;
    expect(making.textContent).toContain('Draw moss');
    expect(making.textContent).toContain('42 % tufts');
    (making.querySelector('button') as HTMLElement).click();
    expect(cancelled).toEqual(['j1']);
  });
  it('has surfaces by their maps and specimens by their parts', () => {
    const surface = { name: 'Moss', thumbnail: 'x', maps: { height: {}, baseColor: {} }, notes: ['doubt'] } as unknown as SurfaceDocument;
    expect(stoneOfSurface('s', surface)).toEqual({ id: 's', name: 'Moss', thumbnail: 'x', dots: 2, doubtful: true, about: 'Base colour, Height' });
    const part = { order: 1, name: 'a', slot: 's', vertices: 9, sets: 1, coloured: true };
    const specimen = {
      name: 'Still',
      thumbnail: null,
      notes: [],
      parts: { p0: { ...part, level: 0, triangles: 1200 }, p1: { ...part, level: 1, triangles: 3 } },
    };
    expect(stoneOfSpecimen('t', specimen as unknown as SpecimenDocument).text).toBe('1 part, 1,200 triangles');
  });
});
