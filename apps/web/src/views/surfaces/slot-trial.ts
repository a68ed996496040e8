import { Injectable, computed, inject, signal } from '@angular/core';
import type { MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS } from '@pebble/core';
import { recipeOfMap } from '@pebble/usecases';
import { DocumentsService } from '../../services/documents.service';
import type { MapChange } from './mends';

interface Candidate {
  label: string;
  role: Role;
  entry: MapEntry;
}

/** One role of a surface in which the maps of all surfaces are tried, one after the other, before one is taken. */
@Injectable()
export class SlotTrial {
  private readonly surfaces = inject(DocumentsService).list('surface');
  private readonly slot = signal<{ role: Role; surface: string; at: number } | null>(null);

  /** Maps of the same role first, then those of the same kind of content, then all others; its own comes first of all. */
  private readonly candidates = computed<Candidate[]>(() => {
    const slot = this.slot();
    if (!slot) return [];
    const all = this.surfaces().flatMap(({ id, body }) =>
      ROLES.flatMap((role) => {
        const entry = body.maps[role];
        if (!entry) return [];
        const own = id === slot.surface && role === slot.role;
        const near = role === slot.role ? 1 : ROLE_FACTS[role].components === ROLE_FACTS[slot.role].components ? 2 : 3;
        return [{ label: `${body.name}, ${ROLE_FACTS[role].label.toLowerCase()}`, role, entry, rank: own ? 0 : near }];
      }),
    );
    return all.sort((a, b) => a.rank - b.rank);
  });
  readonly current = computed(() => {
    const slot = this.slot();
    const list = this.candidates();
    if (!slot || !list.length) return null;
    return { ...list[slot.at % list.length], slot: slot.role, number: (slot.at % list.length) + 1, count: list.length };
  });

  start = (surface: string, role: Role): void => this.slot.set({ surface, role, at: 0 });
  end = (): void => this.slot.set(null);
  step(by: number): void {
    const count = this.candidates().length;
    this.slot.update((s) => s && { ...s, at: (s.at + by + count) % count });
  }

  /** The surface as it would be. */
  tried(surface: SurfaceDocument): SurfaceDocument {
    const now = this.current();
    return now && now.number > 1 ? { ...surface, maps: { ...surface.maps, [now.slot]: now.entry } } : surface;
  }

  /** What taking the map means: its file with its steps, or the file that was made for it. */
  taken(): { label: string; changes: MapChange[] } | null {
    const now = this.current();
    if (!now || now.number === 1) return null;
    const { source, steps } = recipeOfMap(now.entry);
    const { blob, fileName, normalDirection, colourSpace } = now.entry;
    const given = 'role' in source ? { source: { blob, fileName, normalDirection, colourSpace }, steps: {} } : { source, steps };
    return { label: `${ROLE_FACTS[now.slot].label} of ${now.label}`, changes: [{ role: now.slot, ...given }] };
  }
}
