import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { Router } from '@angular/router';
import { mdiChevronDown } from '@mdi/js';
import { isSpecimenName } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { Icon } from '../../ui/icon';

/** What is painted on: masks and vertices of a blend, or what a mesh wears by stamps. */
@Component({
  selector: 'pb-paint-pick',
  imports: [Icon, MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button class="pill" [matMenuTriggerFor]="menu" aria-label="What is painted on">{{ name() }} <pb-icon [path]="down" [size]="14" /></button>
    <mat-menu #menu="matMenu">
      @for (b of blends(); track b.id) {
        <button mat-menu-item (click)="go(b.id)">{{ b.body.name }} <span class="tag">masks, vertices</span></button>
      }
      @for (a of meshes(); track a.id) {
        <button mat-menu-item (click)="go(a.id)">{{ a.body.name }} <span class="tag">stamps</span></button>
      }
    </mat-menu>
  `,
  styles: `
    :host {
      min-width: 0;
    }
    .pill {
      max-width: 100%;
      overflow: hidden;
      text-overflow: ellipsis;
    }
  `,
})
export class PaintPick {
  private readonly documents = inject(DocumentsService);
  private readonly router = inject(Router);
  readonly open = input.required<string | null>();
  readonly down = mdiChevronDown;
  readonly blends = this.documents.list('blend');
  private readonly assets = this.documents.list('asset');
  /** Those on meshes that were brought in: others have no texture of their own. */
  readonly meshes = computed(() => this.assets().filter((a) => !isSpecimenName(a.body.specimen)));
  readonly name = computed(() => [...this.blends(), ...this.meshes()].find((d) => d.id === this.open())?.body.name ?? '');

  go = (id: string): void => void this.router.navigate(['/paint', id]);
}
