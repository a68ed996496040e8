import type { ComponentFixture } from '@angular/core/testing';
import { TestBed } from '@angular/core/testing';
import type { UploadedFile } from '@pebble/contracts';
import type { Answer, LookedAt, Role } from '@pebble/core';
import { ImportForm } from './import-form';

const ROLES = ['baseColor', 'normal', 'roughness', 'height'] as const;
const file = (surface: string, role: string): UploadedFile => ({
  fileName: `${surface}_${role}.png`,
  blob: `${surface}${role}`,
  bytes: 9,
  width: 64,
  height: 64,
  channels: 3,
  depth: 8,
  format: 'PNG',
  problem: null,
});
const seen = ({ fileName, blob }: UploadedFile, role: Role, over: Partial<LookedAt> = {}): LookedAt => ({
  fileName,
  blob: blob ?? '',
  stem: fileName.split('_')[0],
  problem: null,
  role,
  roleConfidence: 0.99,
  content: 'colour',
  contentConfidence: 0.99,
  colourSpace: 'data',
  normalDirection: role === 'normal' ? 'y+' : null,
  normalConfidence: 0.5,
  twoChannel: false,
  packed: null,
  alpha: null,
  ink: null,
  findings: [],
  ...over,
});

describe('the form of an import', () => {
  let fixture: ComponentFixture<ImportForm>;
  const host = () => fixture.nativeElement as HTMLElement;
  const texts = (selector: string) => [...host().querySelectorAll(selector)].map((e) => e.textContent?.replace(/\s+/g, ' ').trim());
  const show = (files: UploadedFile[], looked: LookedAt[]) => {
    fixture = TestBed.createComponent(ImportForm);
    fixture.componentRef.setInput('files', files);
    fixture.componentRef.setInput('looked', looked);
    fixture.detectChanges();
    fixture.detectChanges();
  };
  const lots = (count: number, doubtful: number) => {
    const files = Array.from({ length: count }, (_, i) => ROLES.map((role) => ({ role, sent: file(`lot${i}`, role) }))).flat();
    const asked = {
      code: 'name-content-disagree' as const,
      severity: 'question' as const,
      message: 'Which is it?',
      confidence: 0.8,
      answers: ['normal', 'height'] satisfies Answer[],
    };
    show(
      files.map((f) => f.sent),
      files.map((f) => seen(f.sent, f.role, f.role === 'height' && f.sent.fileName.startsWith(`lot${doubtful}_`) ? { findings: [asked] } : {})),
    );
  };
  it('lays a few files open', () => {
    lots(3, -1);
    expect(host().querySelectorAll('tbody').length).toBe(12);
    expect(host().querySelectorAll('.folded').length).toBe(0);
  });
  it('folds many away but for those with a question, says what they hold, and unfolds them', () => {
    lots(12, 7);
    expect(texts('.folded b').length).toBe(11);
    expect(texts('.folded .quiet')[0]).toBe('4 files: base colour, normal, roughness, height');
    expect(host().querySelectorAll('tbody').length).toBe(4);
    expect(texts('td.file')).toEqual(ROLES.map((r) => `lot7_${r}.png`));
    const main = () => [...host().querySelectorAll('button')].find((b) => b.textContent?.trim() === 'Import') as HTMLButtonElement;
    expect(main().disabled).toBeTrue();
    // Answering it does not fold it away under the hand.
    const press = (name: string) => {
      ([...host().querySelectorAll('.under button')].find((b) => b.textContent?.trim() === name) as HTMLButtonElement).click();
      fixture.detectChanges();
    };
    expect(texts('.under button')).toEqual(['normal', 'height']);
    press('height');
    expect(main().disabled).toBeFalse();
    // An answered question steps back, and can be asked again.
    expect(texts('.under button')).toEqual(['ask again']);
    expect(host().querySelector('.under .answered')).not.toBeNull();
    press('ask again');
    expect(main().disabled).toBeTrue();
    press('height');
    expect(host().querySelectorAll('tbody').length).toBe(4);
    (host().querySelector('.folded button') as HTMLButtonElement).click();
    fixture.detectChanges();
    expect(host().querySelectorAll('tbody').length).toBe(8);
  });
  it('hands over what was settled, with author and licence', () => {
    lots(12, -1);
    const emitted: unknown[] = [];
    fixture.componentInstance.accepted.subscribe((e) => emitted.push(e));
    fixture.componentInstance.setOrigin('author', 'A. Perera');
    fixture.detectChanges();
    fixture.componentInstance.accept();
    const [{ requests }] = emitted as { requests: { surfaces: { name: string; maps: { role: Role }[]; origin?: { author: string } }[] }[] }[];
    const surfaces = requests.flatMap((r) => r.surfaces);
    expect(surfaces.length).toBe(12);
    expect(surfaces[0].maps.map((m) => m.role)).toEqual([...ROLES]);
    expect(surfaces.every((s) => s.origin?.author === 'A. Perera')).toBeTrue();
  });
});
