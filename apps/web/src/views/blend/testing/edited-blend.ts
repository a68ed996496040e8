import { signal } from '@angular/core';
import type { BlendDocument, Layer } from '@pebble/core';

/** The face of a `BlendModel` on a blend that is changed on the spot, with the names of the steps that were taken. */
export class EditedBlend {
  readonly id = signal('step');
  readonly blend;
  readonly steps: string[] = [];
  readonly selectedId = signal<string | null>(null);
  readonly selected = (): Layer | null => this.blend().layers[this.selectedId() ?? ''] ?? null;

  constructor(blend: BlendDocument) {
    this.blend = signal(blend);
  }
  draft(change: (d: BlendDocument) => void): void {
    const next = structuredClone(this.blend());
    change(next);
    this.blend.set(next);
  }
  commit = (label: string): void => void this.steps.push(label);
  edit(label: string, change: (d: BlendDocument) => void): void {
    this.draft(change);
    this.commit(label);
  }
}
