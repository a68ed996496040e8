import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { ColourMode, Extra, Layer, MaterialRole } from '@pebble/core';
import {
  BLEND_ROLES,
  COLOUR_MODES,
  ROLE_FACTS,
  constantOf,
  laidOver,
  shownId,
  stackExtras,
  usesLevels,
  usesRoughness,
  usesTint,
  waterOf,
} from '@pebble/core';
import { BlendModel } from '../blend-model';
import { CONSTANT_FIELDS, LOOK_FIELDS, MORE_SEAM_FIELDS, PLACE_FIELDS } from './layer-fields';
import { LayerLayingCard } from './layer-laying';
import { LayerToken } from './layer-token';
import { Prices } from '../prices';

const MODE_WORDS: Record<ColourMode, string> = { mix: 'mix', multiply: 'multiply', screen: 'screen', overlay: 'overlay' };

/** How the chosen layer looks before it meets others, and what it may touch. */
@Component({
  selector: 'pb-layer-card',
  imports: [LayerLayingCard, LayerToken],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (layer(); as layer) {
      <div class="sheet" role="group" [attr.aria-label]="'Look of ' + layer.name">
        <div class="column">
          <h4>Colour</h4>
          @if (constantOf(layer); as c) {
            <label
              >Base colour <input type="color" aria-label="Base colour" [value]="c.baseColor" (change)="setConstant($any($event.target).value)"
            /></label>
            @for (field of constants; track field.label) {
              <label
                >{{ field.word }} <span class="token"><pb-layer-token [field]="field" [layer]="layer" /></span
              ></label>
            }
          }
          @if (!isGround() && !waterOf(layer)) {
            <label
              >Laid over by
              <select class="field" aria-label="Colour mode" (change)="setMode($any($event.target).value)">
                @for (m of modes(); track m.id) {
                  <option [value]="m.id" [selected]="m.id === layer.mode">{{ m.word }}{{ m.price }}</option>
                }
              </select></label
            >
          }
          @if (!waterOf(layer)) {
            <label
              >Tint
              <span
                ><span class="tag">{{ usesTint(layer.look) ? 'used' : price('tint') }}</span>
                <input type="color" aria-label="Tint" [value]="layer.look.tint" (change)="setTint($any($event.target).value)" /></span
            ></label>
            @for (field of looks; track field.label) {
              <label
                >{{ field.word }} <span class="token"><pb-layer-token [field]="field" [layer]="layer" /></span
              ></label>
            }
            <p class="quiet">{{ lookPrice(layer) }}</p>
          }
          @if (layer.shows.kind === 'surface') {
            <pb-layer-laying [layer]="layer" />
          }
        </div>
        <div class="column">
          @if (shownId(layer)) {
            <h4>Lies</h4>
            @for (field of places; track field.label) {
              <label
                >{{ field.word }} <span class="token"><pb-layer-token [field]="field" [layer]="layer" /></span
              ></label>
            }
            <p class="quiet">{{ lies() }}</p>
          }
          @if (!isGround()) {
            @if (!waterOf(layer)) {
              <h4>Seam</h4>
              @for (field of seams; track field.label; let i = $index) {
                <label
                  ><span
                    >{{ field.word }}
                    @if (!field.get(layer)) {
                      <br /><span class="tag">{{ price(i === 0 ? 'detail' : 'seamNormal') }}</span>
                    }
                  </span>
                  <span class="token"><pb-layer-token [field]="field" [layer]="layer" /></span
                ></label>
              }
            }
            <h4>Touches</h4>
            <div class="roles">
              @for (r of roles(); track r.id) {
                <label class="check"
                  ><input type="checkbox" [checked]="!layer.untouched[r.id]" (change)="touch(r.id, $any($event.target).checked)" />
                  {{ r.name }}</label
                >
              }
            </div>
          }
        </div>
      </div>
    }
  `,
  styles: `
    .sheet {
      display: grid;
      grid-template-columns: 236px 236px;
      gap: 22px;
      padding: 12px 16px;
      max-height: 70vh;
      overflow: auto;
    }
    .column {
      display: grid;
      grid-template-columns: minmax(0, 1fr);
      gap: 6px;
      align-content: start;
    }
    h4 {
      margin: 2px 0 0;
      font-size: 12px;
      color: var(--quiet);
      font-weight: 600;
    }
    label {
      display: flex;
      justify-content: space-between;
      align-items: center;
      gap: 10px;
    }
    .roles {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px;
    }
    .check {
      justify-content: flex-start;
    }
    p {
      margin: 0;
      font-size: 12px;
    }
    input[type='color'] {
      width: 42px;
      height: 22px;
      padding: 0;
      border: 1px solid var(--edge);
      border-radius: 6px;
      background: none;
    }
  `,
})
export class LayerCard {
  private readonly model = inject(BlendModel);
  readonly layer = this.model.selected;
  readonly isGround = computed(() => this.model.selectedId() === this.model.groundId());
  readonly constants = CONSTANT_FIELDS;
  readonly looks = LOOK_FIELDS;
  readonly places = PLACE_FIELDS;
  readonly seams = MORE_SEAM_FIELDS;
  readonly usesTint = usesTint;
  readonly constantOf = constantOf;
  readonly waterOf = waterOf;
  readonly shownId = shownId;
  /** Channels that the blend has: a layer may keep off those that others bring, too. */
  readonly roles = computed(() => {
    const stack = this.model.stack();
    return [...BLEND_ROLES, ...(stack ? stackExtras(stack) : [])].map((id) => ({ id, name: ROLE_FACTS[id].label }));
  });
  private readonly prices = inject(Prices);
  readonly price = (extra: Extra): string => this.prices.extra(extra);
  readonly modes = computed(() => COLOUR_MODES.map((id) => ({ id, word: MODE_WORDS[id], price: id === 'mix' ? '' : ` (${this.price(id)})` })));
  lookPrice({ look }: Layer): string {
    const free = 'Strength of the normal is free.';
    if (usesLevels(look) && usesRoughness(look)) return free;
    return `Levels ${usesLevels(look) ? 'are used' : `cost ${this.price('levels')}`}, roughness ${usesRoughness(look) ? 'is used' : this.price('roughness')}. ${free}`;
  }
  /** How it really lies: sizes and turns snap so that the blend still tiles. */
  readonly lies = computed(() => {
    const [layer, blend] = [this.layer(), this.model.blend()];
    const shown = layer && shownId(layer);
    const sizeM = shown && (this.model.surfaces()[shown]?.sizeM ?? this.model.blends()[shown]?.extentM);
    if (!layer || !blend || !sizeM) return '';
    const tall = this.model.known()[shown]?.tall ?? 1;
    const { a, b, c, d } = laidOver(blend.extentM, sizeM, layer.look, tall);
    const high = tall === 1 ? '' : ` × ${(blend.extentM / Math.hypot(c, d)).toFixed(2)}`;
    const times = Math.hypot(a, b);
    const turned = (Math.atan2(b, a) * 180) / Math.PI;
    return `Snapped to ${(blend.extentM / times).toFixed(2)}${high} m a repetition${b ? `, turned ${turned.toFixed(1)}°` : ''}, so that it tiles. A turn costs ${this.price('turn')}; size and moves are free.`;
  });

  private edit(what: string, change: (layer: Layer) => void): void {
    const id = this.model.selectedId() as string;
    this.model.edit(`${this.layer()?.name}: ${what}`, (d) => change(d.layers[id]));
  }
  setMode = (mode: ColourMode): void => this.edit('colour mode', (l) => void (l.mode = mode));
  setTint = (tint: string): void => this.edit('tint', (l) => void (l.look.tint = tint));
  setConstant = (baseColor: string): void =>
    this.edit('base colour', ({ shows }) => void (shows.kind === 'constant' && (shows.baseColor = baseColor)));
  touch(role: MaterialRole, on: boolean): void {
    this.edit(on ? `touch ${role}` : `leave ${role} as it is`, (l) => {
      if (on) delete l.untouched[role];
      else l.untouched[role] = true;
    });
  }
}
