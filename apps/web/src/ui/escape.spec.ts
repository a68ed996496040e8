import { Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { closedByEscape } from './escape';

@Component({ template: '' })
class Two {
  readonly outer = signal(false);
  readonly inner = signal(false);
  constructor() {
    closedByEscape(() => this.outer.set(false), this.outer);
    closedByEscape(() => this.inner.set(false), this.inner);
  }
}

describe('what is open', () => {
  it('is closed by Escape, the innermost first, and by no press that was for a field', async () => {
    const fixture = TestBed.createComponent(Two);
    const { outer, inner } = fixture.componentInstance;
    const press = async (handled = false) => {
      const event = new KeyboardEvent('keydown', { key: 'Escape', cancelable: true });
      if (handled) event.preventDefault();
      document.dispatchEvent(event);
      await fixture.whenStable();
      return [outer(), inner(), event.defaultPrevented];
    };
    const open = async (which: typeof outer) => {
      which.set(true);
      fixture.detectChanges();
      await fixture.whenStable();
    };
    expect(await press()).toEqual([false, false, false]);
    await open(inner);
    await open(outer);
    expect(await press(true)).toEqual([true, true, true]);
    expect(await press()).toEqual([false, true, true]);
    await open(outer);
    expect(await press()).toEqual([false, true, true]);
    expect(await press()).toEqual([false, false, true]);
    await open(inner);
    fixture.destroy();
    expect((await press())[2]).toBeFalse();
  });
});
