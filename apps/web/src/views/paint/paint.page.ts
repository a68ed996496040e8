import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { DocumentsService } from '../../services/documents.service';
import { PaintView } from './paint.view';
import { StampsView } from './stamps/stamps.view';

/** Paint, on whatever is asked for: stamps on an asset, masks and vertices on a blend. */
@Component({
  selector: 'pb-paint-page',
  imports: [PaintView, StampsView],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (asset(); as id) {
      <pb-stamps [id]="id" />
    } @else {
      <pb-paint [id]="id()" />
    }
  `,
  styles: ':host { display: block; height: 100%; }',
})
export class PaintPage {
  readonly id = input<string>();
  private readonly assets = inject(DocumentsService).list('asset');
  readonly asset = computed(() => this.assets().find((a) => a.id === this.id())?.id ?? null);
}
