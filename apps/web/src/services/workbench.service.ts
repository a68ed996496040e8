import { Injectable, computed, inject, signal } from '@angular/core';
import type { TargetDocument } from '@pebble/core';
import { DEFAULT_TARGET, TARGETS } from '@pebble/core';
import { DocumentsService } from './documents.service';
import { keep } from '../ui/keep';

/** What is open against the target, for the meter. */
export interface Meter {
  samples: number;
  operations: number;
  bytes: number;
  /** What takes most of each, with how much. */
  most?: { samples: string; operations: string };
}

/** State that the frame and the views share. */
@Injectable({ providedIn: 'root' })
export class WorkbenchService {
  private readonly documents = inject(DocumentsService);
  /** The document whose steps undo and redo work on. */
  readonly active = signal<string | null>(null);
  readonly meter = signal<Meter | null>(null);
  readonly theme = signal<'stone' | 'slate'>(localStorage.getItem('pebble-theme') === 'slate' ? 'slate' : 'stone');

  private readonly projects = this.documents.list('project');
  private readonly targetList = this.documents.list('target');
  readonly project = computed(() => this.projects().at(0));
  /** The targets of the project; the ones that ship with the program where it has none. */
  readonly targets = computed<readonly { id: string; body: TargetDocument }[]>(() =>
    this.targetList().length ? this.targetList() : Object.entries(TARGETS).map(([id, body]) => ({ id, body })),
  );
  /** The one that prices are held against. */
  readonly target = computed(() => {
    const wanted = this.project()?.body.target ?? DEFAULT_TARGET;
    return this.targets().find((t) => t.id === wanted) ?? this.targets()[0];
  });

  constructor() {
    document.documentElement.dataset['theme'] = this.theme();
  }

  open(id: string | null): void {
    if (this.active() === id) return;
    this.active.set(id);
    if (id) this.documents.readHistory(id);
  }

  setTheme(theme: 'stone' | 'slate'): void {
    this.theme.set(theme);
    document.documentElement.dataset['theme'] = theme;
    keep('pebble-theme', theme);
  }
}
