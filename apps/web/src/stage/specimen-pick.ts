import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { makeAsset } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { NoticesService } from '../services/notices.service';
import { AssetModel } from './asset-model';
import { StageSource } from './stage-source';
import { StageSpecimen } from './stage-specimen';

/** What the open blend is looked at on: a specimen, or an asset with other blends beside it. */
@Component({
  selector: 'pb-specimen-pick',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <select class="pill pick" aria-label="Specimen" (change)="lookOn($any($event.target).value)">
      <optgroup label="Specimens">
        @for (s of on.list(); track s.id) {
          <option [value]="s.id" [selected]="!assets.body() && source.body()?.specimen === s.id">{{ s.name }}</option>
        }
      </optgroup>
      <optgroup label="Assets: a blend on each slot">
        @for (a of assets.list(); track a.id) {
          <option [value]="'asset:' + a.id" [selected]="assets.body() && assets.id() === a.id">{{ a.body.name }}</option>
        }
        <option value="make:">make one of this specimen</option>
      </optgroup>
    </select>
  `,
  styles: `
    :host {
      display: contents;
    }
    select {
      border: 0;
      background: transparent;
      max-width: 172px;
    }
    option,
    optgroup {
      background: var(--raise);
      color: var(--ink);
    }
  `,
})
export class SpecimenPick {
  readonly source = inject(StageSource);
  readonly on = inject(StageSpecimen);
  readonly assets = inject(AssetModel);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);

  /** Another specimen for the blend, an asset that it is looked at on, or a new asset of what it lies on. */
  async lookOn(value: string): Promise<void> {
    const shown = this.source.id();
    const [what, chosen] = value.split(':');
    if (!shown) return;
    if (what === 'asset') return this.assets.show(shown, chosen);
    if (what !== 'make') {
      this.setSpecimen(value);
      if (this.assets.body()) this.assets.show(shown, null);
      return;
    }
    const specimen = this.on.name();
    const name = this.on.list().find((s) => s.id === specimen)?.name ?? specimen;
    try {
      const body = makeAsset(`${name}, whole`, specimen, this.assets.slotsOf(specimen), shown);
      this.assets.show(shown, await this.documents.create(body, `Make an asset of ${name}`));
    } catch (error) {
      this.notices.error(error);
    }
  }
  private setSpecimen(id: string): void {
    const called = this.on
      .list()
      .find((s) => s.id === id)
      ?.name.toLowerCase();
    this.source.lookOn(id, called ?? id);
  }
}
