import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { RecipeDocument } from '@pebble/core';
import type { RecipeEdit } from './naming';
import { Naming } from './naming';

describe('how files of a recipe are named', () => {
  const make = async (template: string) => {
    TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
    const fixture = TestBed.createComponent(Naming);
    const recipe: RecipeDocument = { kind: 'recipe', version: 1, name: 'R', template, size: 64, sources: {}, files: {} };
    const labels: string[] = [];
    fixture.componentRef.setInput('recipe', recipe);
    fixture.componentInstance.done.subscribe(({ label, change }: RecipeEdit) => {
      labels.push(label);
      const next = structuredClone(fixture.componentInstance.recipe());
      change(next);
      fixture.componentRef.setInput('recipe', next);
    });
    await fixture.whenStable();
    const root = fixture.nativeElement as HTMLElement;
    const field = (label: string) => root.querySelector<HTMLInputElement>(`[aria-label="${label}"]`);
    const type = async (label: string, text: string) => {
      const box = field(label)!;
      box.value = text;
      box.dispatchEvent(new Event('change'));
      await fixture.whenStable();
    };
    return { root, field, type, labels, recipe: () => fixture.componentInstance.recipe() };
  };

  it('asks for codes and a version only where the template has them, and says what is wrong with either', async () => {
    const { root, field, type, labels, recipe } = await make('{set}');
    expect([field('Own codes of maps'), field('Version in names')]).toEqual([null, null]);
    await type('Name template', '{set}_{code}_{version}');
    expect(field('Version in names')!.value).toBe('v1');
    await type('Own codes of maps', 'roughness=RGH');
    await type('Version in names', '2026-11');
    expect([recipe().codes, recipe().edition]).toEqual([{ roughness: 'RGH' }, '2026-11']);
    await type('Version in names', 'v 2');
    expect(root.querySelector('.error')!.textContent).toMatch(/"v 2" is no version/);
    expect(recipe().edition).toBe('2026-11');
    expect(labels).toEqual(['Name template', 'Codes roughness=RGH', 'Version 2026-11']);
    await type('Version in names', 'v2');
    expect(root.querySelector('.error')).toBeNull();
    await type('Name template', '{sett}');
    expect(root.querySelector('.error')!.textContent).toContain('{sett} is not a token');
  });
});
