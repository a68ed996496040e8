import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import type { AssetSlot, BlendDocument } from '@pebble/core';
import { inOrder } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { NoticesService } from '../services/notices.service';
import type { NumberField } from '../ui/field';
import { Field } from '../ui/field';
import { AssetModel } from './asset-model';
import { StageSource } from './stage-source';
import { nameFrom } from '../ui/name';
import { closedByEscape } from '../ui/escape';

const SIZE: NumberField = { label: 'Times its true size', min: 0.01, max: 100, step: 0.01, unit: '×', decimals: 2, initial: 1 };

/** What sits on the slots of the asset: one opens it, all of it is set in a table. */
@Component({
  selector: 'pb-asset',
  imports: [Field],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="chips" role="group" [attr.aria-label]="'Slots of ' + assets.body()?.name">
      @if (!compact()) {
        @for (s of assets.slots(); track s.id) {
          <button
            class="pill"
            [class.on]="s.blend === model.id()"
            [disabled]="!s.body"
            [attr.aria-pressed]="s.blend === model.id()"
            (click)="open(s)"
          >
            {{ s.slot }} <small>{{ s.says }}</small>
          </button>
        }
      }
      <button class="pill" [class.on]="shown()" [attr.aria-expanded]="shown()" (click)="shown.set(!shown())">slots …</button>
    </div>
    @if (shown()) {
      <div class="popover" role="group" aria-label="Slots of the asset">
        <input
          class="field"
          aria-label="Name of the asset"
          maxlength="200"
          [value]="assets.body()?.name ?? ''"
          (change)="rename($any($event.target).value)"
        />
        <table>
          <tr>
            <th>Slot</th>
            <th>Wears</th>
            @if (assets.sets() > 1) {
              <th>UV set</th>
            }
            <th>Size</th>
            <th title="Longest side of its delivered texture">Texture</th>
            <th></th>
          </tr>
          @for (s of assets.slots(); track s.id) {
            <tr>
              <td>{{ s.slot }}</td>
              <td>
                <select class="field" [attr.aria-label]="'Blend on ' + s.slot" (change)="put(s, $any($event.target).value)">
                  <option value="" [selected]="!s.blend">nothing</option>
                  <optgroup label="Blends">
                    @for (b of blends(); track b.id) {
                      <option [value]="b.id" [selected]="b.id === s.key">{{ b.body.name }}</option>
                    }
                  </optgroup>
                  <optgroup label="Finished surfaces, once">
                    @for (f of surfaces(); track f.id) {
                      <option [value]="f.id" [selected]="f.id === s.key">{{ f.body.name }}</option>
                    }
                  </optgroup>
                  @if (dresses().length) {
                    <optgroup label="Masters and their variants">
                      @for (m of dresses(); track m.key) {
                        <option [value]="m.key" [selected]="m.key === s.key">{{ m.name }}</option>
                      }
                    </optgroup>
                  }
                </select>
              </td>
              @if (assets.sets() > 1) {
                <td>
                  <select
                    class="field set"
                    [attr.aria-label]="'Texture coordinates of ' + s.slot"
                    (change)="change(s, 'set of coordinates', { uvSet: +$any($event.target).value })"
                  >
                    @for (n of sets(); track n) {
                      <option [value]="n" [selected]="n === s.uvSet">{{ n + 1 }}</option>
                    }
                  </select>
                </td>
              }
              <td>
                <span class="token"
                  ><pb-field [field]="size(s.slot)" [value]="s.size" (done)="change(s, 'size ' + $event.toFixed(2), { size: $event })"
                /></span>
              </td>
              <td>
                <select
                  class="field side"
                  [attr.aria-label]="'Side of the delivered texture of ' + s.slot"
                  (change)="side(s, +$any($event.target).value)"
                >
                  <option value="0" [selected]="!s.side">usual</option>
                  @for (n of sides; track n) {
                    <option [value]="n" [selected]="n === s.side">{{ n }}²</option>
                  }
                </select>
              </td>
              <td>
                <button
                  class="link"
                  [title]="
                    s.finished
                      ? 'A finished surface is this slot’s own'
                      : s.body?.kind === 'master'
                        ? 'A master is dressed by its variants: make one there'
                        : ''
                  "
                  [disabled]="s.body?.kind !== 'blend'"
                  (click)="own(s)"
                  [attr.aria-label]="'own copy for ' + s.slot"
                >
                  own copy
                </button>
              </td>
            </tr>
          }
        </table>
        <p class="quiet">
          Each keeps its true size over the mesh, times the size given here; a finished surface lies once over the mesh’s own coordinates. A click on
          a part of the stage opens what sits there.
        </p>
        @if (manyLooks()) {
          <label class="many"
            ><input type="checkbox" [checked]="assets.body()?.variants" (change)="takeVariants()" /> Its model leaves with all variants of its
            masters</label
          >
        }
        <p><button class="link" (click)="remove()">Remove this asset</button></p>
      </div>
    }
  `,
  styles: `
    .chips {
      display: flex;
      flex-direction: column;
      align-items: flex-start;
      max-height: 240px;
      overflow: auto;
      gap: 1px;
    }
    .chips .pill {
      height: 28px;
      min-height: 0;
    }
    small {
      opacity: 0.75;
    }
    .popover {
      /* Over the flat, so that the specimen stays in sight. */
      position: fixed;
      left: calc(59.4% + 12px);
      top: 60px;
      width: 500px;
      max-width: calc(40.6% - 24px);
      overflow-x: auto;
      display: grid;
      grid-template-columns: minmax(0, 1fr);
      gap: 8px;
      z-index: 5;
    }
    th {
      text-align: left;
      font-weight: 500;
      color: var(--quiet);
      font-size: 12px;
    }
    td,
    th {
      padding: 2px 6px 2px 0;
    }
    table {
      width: 100%;
    }
    select {
      width: 100%;
    }
    .set {
      width: 52px;
    }
    .side {
      width: 84px;
    }
    .many {
      display: flex;
      gap: 8px;
      align-items: center;
    }
    .link {
      color: var(--glaze);
      text-decoration: underline;
      white-space: nowrap;
    }
    .link:disabled {
      color: var(--quiet);
      text-decoration: none;
    }
  `,
})
export class AssetCard {
  readonly assets = inject(AssetModel);
  readonly model = inject(StageSource);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  readonly blends = this.documents.list('blend');
  readonly surfaces = this.documents.list('surface');
  readonly shown = signal(false);
  constructor() {
    closedByEscape(() => this.shown.set(false), this.shown);
  }
  readonly sets = computed(() => Array.from({ length: this.assets.sets() }, (_, i) => i));
  private readonly sizes = new Map<string, NumberField>();
  /** The field of a slot; made once, so that it is not made anew in the middle of a gesture. */
  size(slot: string): NumberField {
    const field = this.sizes.get(slot) ?? { ...SIZE, label: `Size of what sits on ${slot}, times its true size` };
    this.sizes.set(slot, field);
    return field;
  }

  open = ({ blend, variant }: AssetSlot): void => this.assets.show(blend, this.assets.id(), variant);
  rename(text: string): void {
    const name = nameFrom(text);
    if (name) this.assets.edit(`Rename to ${name}`, (d) => void (d.name = name));
  }
  change(slot: AssetSlot & { id: string }, what: string, change: Partial<AssetSlot>): void {
    this.assets.edit(`${slot.slot}: ${what}`, (d) => void Object.assign(d.slots[slot.id], change));
  }
  /** Sides that a delivered texture may have. */
  readonly sides = [256, 512, 1024, 2048, 4096, 8192];
  /** @param side 0 for what the project says */
  side(slot: AssetSlot & { id: string }, side: number): void {
    this.assets.edit(side ? `${slot.slot}: texture of ${side}²` : `${slot.slot}: texture as the project says`, (d) => {
      if (side) d.slots[slot.id].side = side;
      else delete d.slots[slot.id].side;
    });
  }
  /** @param key of a blend, or of a master and its variant */
  put(slot: AssetSlot & { id: string }, key: string): void {
    const [blend, variant] = key.split('/');
    const name =
      [...this.blends(), ...this.surfaces()].find((b) => b.id === blend)?.body.name ?? this.dresses().find((m) => m.key === key)?.name ?? 'nothing';
    this.assets.edit(`${slot.slot}: ${name}`, (d) => {
      d.slots[slot.id].blend = blend;
      if (variant) d.slots[slot.id].variant = variant;
      else delete d.slots[slot.id].variant;
    });
  }
  private readonly masters = this.documents.list('master');
  /** Masters with each of their variants: what a slot may wear beside blends. */
  readonly dresses = computed(() =>
    this.masters().flatMap(({ id, body }) => [
      { key: id, name: body.name },
      ...inOrder(body.variants).map((v) => ({ key: `${id}/${v.id}`, name: `${body.name}: ${v.name}` })),
    ]),
  );
  /** Without the list of slots: where there is no room beside the specimen. */
  readonly compact = input(false);
  /** What sits on a slot becomes a blend of its own, so that it can go its own way. */
  async own(slot: AssetSlot & { id: string }): Promise<void> {
    const body: BlendDocument | undefined = this.blends().find((b) => b.id === slot.blend)?.body;
    if (body?.kind !== 'blend') return;
    try {
      const name = `${body.name}, ${slot.slot}`.slice(0, 200);
      const id = await this.documents.create({ ...structuredClone(body), name }, `Copy of ${body.name}`);
      this.change(slot, name, { blend: id });
      this.assets.show(id, this.assets.id());
    } catch (error) {
      this.notices.error(error);
    }
  }
  /** Whether a slot wears a master that has variants. */
  readonly manyLooks = computed(() => this.assets.slots().some(({ body }) => body?.kind === 'master' && Object.keys(body.variants).length > 0));
  takeVariants(): void {
    const all = !this.assets.body()?.variants;
    this.assets.edit(all ? 'All variants in its model' : 'Its own variants alone', (d) => {
      if (all) d.variants = true;
      else delete d.variants;
    });
  }
  remove(): void {
    const id = this.assets.id();
    if (id) void this.documents.remove(id);
    this.assets.show(this.model.id() ?? '', null);
  }
}
