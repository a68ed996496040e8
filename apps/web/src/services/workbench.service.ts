import { Injectable, inject, signal } from '@angular/core';
import { DocumentsService } from './documents.service';

/** What is open against the target, for the meter. */
export interface Meter {
  samples: number;
  operations: number;
  bytes: number;
}

/** State that the frame and the views share. */
@Injectable({ providedIn: 'root' })
export class WorkbenchService {
  private readonly documents = inject(DocumentsService);
  /** The document whose steps undo and redo work on. */
  readonly active = signal<string | null>(null);
  readonly meter = signal<Meter | null>(null);
  readonly theme = signal<'stone' | 'slate'>(localStorage.getItem('pebble-theme') === 'slate' ? 'slate' : 'stone');

  constructor() {
    document.documentElement.dataset['theme'] = this.theme();
  }

  open(id: string | null): void {
    if (this.active() === id) return;
    this.active.set(id);
    if (id) void this.documents.readHistory(id);
  }

  setTheme(theme: 'stone' | 'slate'): void {
    this.theme.set(theme);
    document.documentElement.dataset['theme'] = theme;
    localStorage.setItem('pebble-theme', theme);
  }
}
