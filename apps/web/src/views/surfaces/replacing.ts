import { Injectable, inject, signal } from '@angular/core';
import type { KnownMap } from './intake';
import { NoticesService } from '../../services/notices.service';
import { Intake } from './intake';
import type { MapRow } from './map-rows';
import { stepsText } from './mends';

/** Another image that is put behind a map: which map, then the places where its present image is used. */
@Injectable()
export class Replacing {
  private readonly intake = inject(Intake);
  private readonly notices = inject(NoticesService);
  readonly row = signal<MapRow | null>(null);
  readonly asked = signal<{ oldName: string; newName: string; here: KnownMap; places: KnownMap[] } | null>(null);

  /** A file was chosen for the map. @param surface id of the one that it belongs to */
  async with(event: Event, surface: string | null): Promise<void> {
    const box = event.target as HTMLInputElement;
    const [files, row] = [[...(box.files ?? [])], this.row()];
    box.value = '';
    if (!files.length || !row || !surface) return;
    const sent = (await this.intake.send([files.slice(0, 1)]))?.at(0);
    if (!sent) return;
    if (!sent.blob) return this.notices.error(sent.problem ?? 'This file cannot be read');
    const places = this.intake.usesOf(row.entry, { ...sent, blob: sent.blob });
    const here = places.find((p) => p.surface === surface && p.role === row.role);
    if (!here) return this.notices.error(`This map is made of ${stepsText(row.entry) || 'another map'}: replace the image behind its source`);
    this.asked.set({ oldName: here.oldName, newName: sent.fileName, here, places });
  }

  /** Puts it behind some of the places. */
  take(places: readonly KnownMap[]): void {
    this.asked.set(null);
    void this.intake.reread(places);
  }
}
