import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal } from '@angular/core';
import { mdiClose, mdiPinOutline } from '@mdi/js';
import type { Account, LayerAccount, MaterialRole } from '@pebble/core';
import { EXTRA_ROLES, MATERIAL_ROLES, ROLE_FACTS, cueText, linearToSrgb } from '@pebble/core';
import { Icon } from '../../../ui/icon';
import { Accounts } from '../../../stage/accounts';
import { BlendModel } from '../blend-model';
import { inUnit } from '../sentence/cue-fields';
import { closedByEscape } from '../../../ui/escape';

/** Why one place looks as it does: every layer's cues, heights, weights and texels, and what changed since it was pinned. */
@Component({
  selector: 'pb-account-card',
  imports: [Icon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="popover" role="region" aria-label="Account of a place" (pointerdown)="$event.stopPropagation()">
      <div class="tabs">
        @for (p of accounts.shown(); track $index; let i = $index) {
          <button class="pill" [class.on]="index() === i" (click)="chosen.set(i)">
            <b class="num">{{ i + 1 }}</b> {{ p.name }}
          </button>
        }
        <span class="gap"></span>
        <button
          class="round"
          [class.on]="current()?.pinned"
          (click)="accounts.pin(index())"
          [attr.aria-pressed]="current()?.pinned"
          aria-label="Pin this place"
        >
          <pb-icon [path]="icons.pin" [size]="16" />
        </button>
        <button class="round" (click)="accounts.close(index())" aria-label="Close this account"><pb-icon [path]="icons.close" [size]="16" /></button>
      </div>
      @if (current(); as c) {
        <table>
          <thead>
            <tr>
              <th>Layer</th>
              <th>shows</th>
              <th>weight</th>
              <th>coverage</th>
              <th>height</th>
              <th>mip</th>
            </tr>
          </thead>
          <tbody>
            @for (row of rows(); track row.id) {
              <tr [class.faint]="row.share < 0.005">
                <th scope="row">{{ row.name }}</th>
                <td class="num">
                  {{ percent(row.share) }} <i>{{ row.shareChange }}</i>
                </td>
                <td class="num">{{ row.weight.toFixed(2) }}</td>
                <td class="num">{{ row.coverage.toFixed(2) }}</td>
                <td class="num">{{ (row.height * 1000).toFixed(1) }} mm</td>
                <td class="num">{{ row.level ? row.level.toFixed(1) : '·' }}</td>
              </tr>
              @for (cue of row.cues; track cue.id) {
                <tr class="cue">
                  <td colspan="3">{{ cue.words }}</td>
                  <td class="num">{{ cue.value.toFixed(2) }}</td>
                  <td class="num" colspan="2">{{ cue.input }}</td>
                </tr>
              }
              @if (row.own) {
                <tr class="cue">
                  <td colspan="6">
                    texels: <span class="chip" [style.background]="colour(row.own.baseColor)"></span> roughness {{ row.own.roughness[0].toFixed(2) }},
                    occlusion {{ row.own.occlusion[0].toFixed(2) }}, metallic {{ row.own.metallic[0].toFixed(2) }}{{ extras(row.own) }}
                  </td>
                </tr>
              }
            }
          </tbody>
        </table>
        <p class="num">
          <span class="chip" [style.background]="colour(c.account.result.baseColor)"></span>
          @for (r of results(); track r.name) {
            <span
              >{{ r.name }} {{ r.text }} <i>{{ r.change }}</i></span
            >
          }
        </p>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
    }
    .popover {
      padding: 8px 12px 10px;
      max-height: 100%;
      overflow: auto;
      pointer-events: auto;
      box-sizing: border-box;
      font-size: 12px;
    }
    .tabs {
      display: flex;
      gap: 5px;
      align-items: center;
      margin-bottom: 6px;
    }
    .gap {
      flex: 1;
    }
    .round {
      width: 24px;
      height: 24px;
    }
    .round.on {
      background: var(--lichen-soft);
    }
    table {
      border-collapse: collapse;
      width: 100%;
    }
    th {
      text-align: left;
      font-weight: 600;
      padding-right: 10px;
    }
    thead th {
      color: var(--quiet);
      font-weight: 500;
      text-align: right;
    }
    thead th:first-child {
      text-align: left;
    }
    td {
      padding: 1px 0 1px 10px;
      text-align: right;
      white-space: nowrap;
    }
    .cue td {
      color: var(--quiet);
      font-size: 11px;
    }
    .cue td:first-child {
      text-align: left;
      padding-left: 10px;
      white-space: normal;
    }
    .faint {
      color: var(--quiet);
    }
    .chip {
      display: inline-block;
      width: 14px;
      height: 14px;
      border-radius: 7px;
      vertical-align: -2px;
      border: 1px solid var(--line);
    }
    p {
      display: flex;
      gap: 10px;
      flex-wrap: wrap;
      margin: 6px 0 0;
    }
    i {
      font-style: normal;
      color: var(--warning);
    }
  `,
})
export class AccountCard {
  readonly accounts = inject(Accounts);
  private readonly model = inject(BlendModel);
  constructor() {
    closedByEscape(() => this.accounts.close(this.index()));
  }
  readonly icons = { close: mdiClose, pin: mdiPinOutline };
  /** The last one that was clicked, until another is chosen. */
  readonly chosen = linkedSignal<number, number>({ source: () => this.accounts.shown().length, computation: (count) => count - 1 });
  readonly index = computed(() => Math.max(0, Math.min(this.chosen(), this.accounts.shown().length - 1)));
  readonly current = computed(() => this.accounts.shown().at(this.index()) ?? null);

  readonly rows = computed(() => {
    const [current, blend] = [this.current(), this.model.blend()];
    if (!current || !blend) return [];
    const before = (id: string) => current.before?.layers.find((l) => l.id === id);
    return [...current.account.layers].reverse().flatMap((layer) => {
      const own = blend.layers[layer.id];
      return own ? [{ ...layer, name: own.name, shareChange: change(before(layer.id)?.share, layer.share, 100), cues: this.cuesOf(layer) }] : [];
    });
  });
  private cuesOf({ id, coverages }: LayerAccount) {
    const entry = this.model.stack()?.layers.find((l) => l.id === id);
    return coverages.flatMap((cues, k) =>
      cues.flatMap(({ id: cueId, input, value }) => {
        const cue = entry?.coverages[k]?.[cueId];
        if (!cue) return [];
        return [{ id: `${k}${cueId}`, words: cueText(cue, this.model.nameOf), value, input: input === null ? 'no picture' : inUnit(cue, input) }];
      }),
    );
  }
  readonly results = computed(() => {
    const current = this.current();
    if (!current) return [];
    const text = (role: MaterialRole, { result }: Account) =>
      role === 'height' ? `${(result.height[0] * 1000).toFixed(1)} mm` : (result[role] ?? []).map((v) => v.toFixed(2)).join(' ');
    return MATERIAL_ROLES.filter((r) => r !== 'baseColor' && r !== 'normal' && current.account.result[r]).map((role) => ({
      name: ROLE_FACTS[role].label.toLowerCase(),
      text: text(role, current.account),
      change: change(current.before?.result[role]?.[0], current.account.result[role]?.[0] ?? 0, role === 'height' ? 1000 : 1),
    }));
  });
  /** What a layer brings beside the usual six. */
  extras = (own: NonNullable<LayerAccount['own']>): string =>
    EXTRA_ROLES.flatMap((role) =>
      own[role] ? [`, ${ROLE_FACTS[role].label.toLowerCase()} ${own[role].map((v) => v.toFixed(2)).join(' ')}`] : [],
    ).join('');
  percent = (v: number): string => `${(v * 100).toFixed(0)} %`;
  colour = (linear: readonly number[]): string => `rgb(${linear.map((v) => Math.round(linearToSrgb(Math.min(1, Math.max(0, v))) * 255)).join(' ')})`;
}

/** By how much a number changed since, with its sign; empty where it did not. */
function change(before: number | undefined, now: number, scale: number): string {
  const by = before === undefined ? 0 : (now - before) * scale;
  return Math.abs(by) < 0.005 ? '' : `${by > 0 ? '+' : '−'}${Math.abs(by).toFixed(2)}`;
}
