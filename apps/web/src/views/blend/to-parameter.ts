import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { blendPlaces, toParameter } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { newKey } from '../../ui/new';
import { BlendModel } from './blend-model';

/**
 * Over the corner of a number of a blend, where it takes no room: makes it a parameter of the master that shows the blend,
 * and says so where it is one, as the master then has another number there. Not there while no master shows the blend.
 */
@Component({
  selector: 'pb-to-parameter',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (master(); as m) {
      @if (m.parameter; as name) {
        <button
          class="is"
          (click)="say(name, m.name)"
          [attr.aria-label]="called() + ' follows ' + name + ' in ' + m.name"
          [title]="follows(name, m.name)"
        >
          <i></i>
        </button>
      } @else {
        <button
          (click)="expose(m)"
          [attr.aria-label]="'Make a parameter of ' + called() + ' in ' + m.name"
          [title]="'Make a parameter of it in ' + m.name"
        >
          <i></i>
        </button>
      }
    }
  `,
  styles: `
    /* As high as the token, whatever it stands in, so that the mark straddles its edge and lies over no digit. */
    :host {
      position: relative;
      width: 0;
      align-self: stretch;
    }
    button {
      position: absolute;
      right: -6px;
      top: -12px;
      width: 20px;
      height: 18px;
      display: grid;
      place-items: center;
      border-radius: 9px;
      background: var(--raise);
      opacity: 0;
    }
    /* Shown with the token that it belongs to. */
    :host-context(.token:hover) button,
    :host-context(.token:focus-within) button,
    button.is {
      opacity: 1;
    }
    i {
      width: 11px;
      height: 9px;
      border: 1.6px solid var(--ink);
      border-radius: 58% 42% 55% 45%/60% 52% 48% 40%;
    }
    .is i,
    button:hover i {
      background: var(--lichen);
    }
  `,
})
export class ToParameter {
  private readonly model = inject(BlendModel);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  /** Where the number stands in the blend, with points. */
  readonly path = input.required<string>();
  readonly called = input.required<string>();
  private readonly all = this.documents.list('master');

  /** The first master that shows the open blend, by which operation, and what the number follows there. */
  readonly master = computed(() => {
    const [blend, path] = [this.model.id(), this.path()];
    for (const { id, body } of this.all())
      for (const [operation, { step, settings, inputs }] of Object.entries(body.operations)) {
        if (step !== 'blend' || settings['blend'] !== blend) continue;
        const source = inputs[path];
        return { id, name: body.name, operation, parameter: source?.from === 'parameter' ? (body.parameters[source.parameter]?.name ?? null) : null };
      }
    return null;
  });

  readonly follows = (parameter: string, master: string): string => `${master} has its own number here: its parameter ${parameter}`;
  say = (parameter: string, master: string): void => this.notices.say(`${this.follows(parameter, master)}. Turn it there`);

  expose({ id, name: master, operation }: { id: string; name: string; operation: string }): void {
    const blend = this.model.blend();
    const place = blend && blendPlaces(blend).find((p) => p.path === this.path());
    if (!place) return this.notices.say('This number cannot be a parameter: it says which picture is meant, not how much');
    const wanted = `${place.layer} ${place.label}`.toLowerCase();
    this.documents.edit(
      id,
      'master',
      `Parameter ${wanted}`,
      (d) => void toParameter(d, { operation, port: place.path }, newKey(), { name: wanted, holds: place.holds }),
    );
    this.notices.say(`${wanted} is a parameter of ${master} now`);
  }
}
