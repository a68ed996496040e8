import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { BlendDocument, BlendPlace } from '@pebble/core';
import { blendPlaces, toParameter } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { newKey } from '../../ui/new';
import { BlendModel } from './blend-model';

/** Beside a number of a blend: makes it a parameter of the master that shows the blend. Not there while none does. */
@Component({
  selector: 'pb-to-parameter',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (masters()[0]; as m) {
      <button
        (click)="expose()"
        [attr.aria-label]="'Make a parameter of ' + called() + ' in ' + m.name"
        [title]="'Make a parameter of it in ' + m.name"
      >
        <i></i>
      </button>
    }
  `,
  styles: `
    :host {
      display: inline-flex;
    }
    button {
      width: 16px;
      height: 18px;
      display: grid;
      place-items: center;
      opacity: 0.45;
    }
    button:hover,
    button:focus-visible {
      opacity: 1;
    }
    i {
      width: 10px;
      height: 8px;
      border: 1.5px solid currentColor;
      border-radius: 58% 42% 55% 45%/60% 52% 48% 40%;
    }
  `,
})
export class ToParameter {
  private readonly model = inject(BlendModel);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  /** What turning the number does: tells which of the blend's numbers it is. */
  readonly turn = input.required<(blend: BlendDocument) => void>();
  readonly called = input.required<string>();
  private readonly all = this.documents.list('master');

  /** Masters that show the open blend, and by which operation. */
  readonly masters = computed(() => {
    const blend = this.model.id();
    return this.all().flatMap(({ id, body }) => {
      const found = Object.entries(body.operations).find(([, op]) => op.step === 'blend' && op.settings['blend'] === blend);
      return found ? [{ id, name: body.name, operation: found[0] }] : [];
    });
  });

  private place(): BlendPlace | undefined {
    const blend = this.model.blend();
    if (!blend) return undefined;
    const turned = structuredClone(blend);
    this.turn()(turned);
    const value = ({ holds }: BlendPlace) => (holds.kind === 'map' ? '' : JSON.stringify(holds.value));
    const after = new Map(blendPlaces(turned).map((p) => [p.path, value(p)]));
    return blendPlaces(blend).find((p) => after.has(p.path) && after.get(p.path) !== value(p));
  }

  expose(): void {
    const [master, place] = [this.masters()[0], this.place()];
    if (!master || !place) return this.notices.say('This number cannot be a parameter: it says which picture is meant, not how much');
    const name = `${place.layer} ${place.label}`.toLowerCase();
    let given: string | null = null;
    this.documents.draft(master.id, 'master', (d) => {
      if (!d.operations[master.operation].inputs[place.path])
        given = toParameter(d, { operation: master.operation, port: place.path }, newKey(), { name, holds: place.holds });
    });
    if (given === null) {
      this.documents.dropDraft(master.id);
      return this.notices.say(`It is a parameter of ${master.name} already`);
    }
    this.documents.commit(master.id, `Parameter ${String(given)}`);
    this.notices.say(`${String(given)} is a parameter of ${master.name} now`);
  }
}
