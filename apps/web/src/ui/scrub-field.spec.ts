import { Component, provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { ScrubField } from './scrub-field';

@Component({
  imports: [ScrubField],
  template: `<pb-scrub
    label="Lift"
    [value]="value()"
    [min]="-0.01"
    [max]="0.01"
    [step]="0.001"
    [factor]="0.001"
    unit="mm"
    [initial]="0"
    (live)="lives.push($event)"
    (done)="done($event)"
  />`,
})
class Host {
  value = signal(0.002);
  lives: number[] = [];
  dones: number[] = [];
  done(v: number): void {
    this.dones.push(v);
    this.value.set(v);
  }
}

describe('the scrub field', () => {
  const make = async () => {
    TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
    const fixture = TestBed.createComponent(Host);
    await fixture.whenStable();
    const root = fixture.nativeElement as HTMLElement;
    return {
      fixture,
      host: fixture.componentInstance,
      span: () => root.querySelector<HTMLElement>('[role=spinbutton]'),
      box: () => root.querySelector('input'),
    };
  };
  const key = (target: HTMLElement, name: string, over: KeyboardEventInit = {}) =>
    target.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true, ...over }));

  it('shows its value in its unit and says it to screen readers', async () => {
    const { span } = await make();
    expect(span()?.textContent?.replace(/\s+/g, '')).toBe('2mm');
    expect(span()?.getAttribute('aria-valuetext')).toBe('2 mm');
    expect(span()?.getAttribute('aria-label')).toBe('Lift');
  });
  it('steps by arrow keys: Shift ten times, Alt a tenth, held at its ends', async () => {
    const { fixture, host, span } = await make();
    key(span()!, 'ArrowUp');
    await fixture.whenStable();
    key(span()!, 'ArrowRight', { altKey: true });
    await fixture.whenStable();
    key(span()!, 'ArrowDown', { shiftKey: true });
    await fixture.whenStable();
    key(span()!, 'End');
    expect(host.dones.map((v) => +v.toFixed(5))).toEqual([0.003, 0.0031, -0.0069, 0.01]);
  });
  it('is dragged sideways: live on the way, done once at the end', async () => {
    const { host, span } = await make();
    const pointer = (type: string, x: number) => new PointerEvent(type, { clientX: x, pointerId: 1, button: 0, bubbles: true });
    spyOn(span()!, 'setPointerCapture');
    span()!.dispatchEvent(pointer('pointerdown', 100));
    for (const x of [101, 104, 106]) dispatchEvent(pointer('pointermove', x));
    dispatchEvent(pointer('pointerup', 106));
    expect(host.lives.map((v) => +v.toFixed(4))).toEqual([0.006, 0.008]);
    expect(host.dones.map((v) => +v.toFixed(4))).toEqual([0.008]);
  });
  it('is typed into; nonsense and Escape leave it as it was; a double-click resets', async () => {
    const { fixture, host, span, box } = await make();
    const type = async (text: string, end: string) => {
      key(span()!, 'Enter');
      await fixture.whenStable();
      box()!.value = text;
      key(box()!, end);
      await fixture.whenStable();
    };
    await type('0.5cm', 'Enter');
    await type('what', 'Enter');
    key(span()!, '7');
    expect(box()!.value).toBe('7');
    // What is open around the field stays open.
    const escape = new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
    box()!.dispatchEvent(escape);
    expect(escape.defaultPrevented).toBeTrue();
    await fixture.whenStable();
    await type('9', 'Escape');
    expect(host.dones.map((v) => +v.toFixed(4))).toEqual([0.005]);
    span()!.dispatchEvent(new MouseEvent('dblclick', { bubbles: true }));
    expect(host.value()).toBe(0);
  });
});
