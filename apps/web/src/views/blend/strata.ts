import type { CdkDragDrop } from '@angular/cdk/drag-drop';
import { CdkDrag, CdkDropList } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { mdiDotsHorizontal, mdiPlus } from '@mdi/js';
import type { Cue, Role, SurfaceDocument } from '@pebble/core';
import { between, inOrder, layerSamples, makeCue, makeLayer } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { Icon } from '../../ui/icon';
import { BlendModel } from './blend-model';
import { lifted } from './section-panel';

/** The layers as strata, from the top; dragged to reorder. */
@Component({
  selector: 'pb-strata',
  imports: [CdkDrag, CdkDropList, MatMenuModule, Icon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="list" cdkDropList (cdkDropListDropped)="drop($event)" role="listbox" aria-label="Layers from the top">
      @for (layer of model.layers(); track layer.id; let i = $index) {
        <div
          class="layer"
          cdkDrag
          cdkDragLockAxis="y"
          role="option"
          [class.on]="layer.id === model.selectedId()"
          [class.off]="!layer.on"
          [attr.aria-selected]="layer.id === model.selectedId()"
          (click)="model.selectedId.set(layer.id)"
          [attr.data-layer]="layer.name"
        >
          <button
            class="swatch"
            [style.--tone]="tone(layer.surface)"
            [class.off]="!layer.on"
            [attr.aria-label]="(layer.on ? 'Switch off ' : 'Switch on ') + layer.name"
            [attr.aria-pressed]="layer.on"
            (click)="toggle(layer.id, $event)"
          ></button>
          <button class="name" (keydown)="key($event, layer.id)">{{ layer.name }}</button>
          @if (layer.solo) {
            <span class="tag warn">solo</span>
          }
          @if (model.prices()[layer.id]; as p) {
            <small class="num" [attr.title]="p.samples + ' samples, ' + p.operations + ' operations'">{{ p.samples }} · {{ p.operations }}</small>
          }
          <button
            class="round more"
            [matMenuTriggerFor]="menu"
            [matMenuTriggerData]="{ id: layer.id, index: i }"
            (click)="$event.stopPropagation()"
            [attr.aria-label]="'More for ' + layer.name"
          >
            <pb-icon [path]="icons.more" [size]="16" />
          </button>
        </div>
      }
    </div>
    <button class="pill add" [matMenuTriggerFor]="addMenu" [disabled]="model.layers().length >= 16">
      <pb-icon [path]="icons.plus" [size]="16" /> Layer
    </button>

    <mat-menu #menu="matMenu">
      <ng-template matMenuContent let-id="id" let-index="index">
        <button mat-menu-item (click)="solo(id)">{{ model.blend()?.layers?.[id]?.solo ? 'End solo' : 'Solo' }}</button>
        <button mat-menu-item (click)="duplicate(id)" [disabled]="model.layers().length >= 16">Duplicate</button>
        <button mat-menu-item [matMenuTriggerFor]="surfaceMenu" [matMenuTriggerData]="{ id }">Show another surface</button>
        <button mat-menu-item (click)="move(index, index - 1)" [disabled]="index === 0">Move up</button>
        <button mat-menu-item (click)="move(index, index + 1)" [disabled]="index === model.layers().length - 1">Move down</button>
        <button mat-menu-item (click)="remove(id)">Remove</button>
      </ng-template>
    </mat-menu>
    <mat-menu #surfaceMenu="matMenu">
      <ng-template matMenuContent let-id="id">
        @for (s of surfaces(); track s.id) {
          <button mat-menu-item (click)="change(id, s.id, s.body.name)">{{ s.body.name }}</button>
        }
      </ng-template>
    </mat-menu>
    <mat-menu #addMenu="matMenu">
      @for (s of surfaces(); track s.id) {
        <button mat-menu-item (click)="add(s.id, s.body.name)">
          {{ s.body.name }} <span class="tag">+{{ samples(s.body) }} samples</span>
        </button>
      }
    </mat-menu>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      padding: 10px 6px 6px 12px;
      min-height: 0;
      overflow: auto;
      gap: 4px;
    }
    .list {
      display: flex;
      flex-direction: column;
      gap: 3px;
    }
    .layer {
      display: flex;
      align-items: center;
      gap: 8px;
      height: 30px;
      padding: 0 2px 0 6px;
      border-radius: 15px;
      cursor: pointer;
    }
    .layer:hover {
      background: color-mix(in srgb, var(--raise) 60%, transparent);
    }
    .layer.on {
      background: var(--raise);
      box-shadow: inset 0 0 0 1px var(--edge);
    }
    .swatch {
      background: var(--tone);
    }
    .swatch.off {
      background: transparent;
      border: 2px solid var(--tone);
    }
    .name {
      font-weight: 600;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
      flex: 1;
      text-align: left;
    }
    .off .name {
      color: var(--quiet);
      font-weight: 500;
    }
    small {
      color: var(--quiet);
      font-size: 11px;
      white-space: nowrap;
    }
    .more {
      width: 24px;
      height: 24px;
    }
    .add {
      align-self: flex-start;
    }
    .cdk-drag-preview {
      box-shadow: var(--shadow);
      background: var(--raise);
    }
    .cdk-drag-placeholder {
      opacity: 0.35;
    }
  `,
})
export class Strata {
  readonly model = inject(BlendModel);
  readonly surfaces = inject(DocumentsService).list('surface');
  readonly icons = { more: mdiDotsHorizontal, plus: mdiPlus };
  tone = (surface: string): string => lifted(this.model.surfaces()[surface]?.tone ?? '#808080');

  samples = (surface: SurfaceDocument): number => layerSamples(Object.keys(surface.maps) as Role[]);

  private name = (id: string): string => this.model.blend()?.layers[id]?.name ?? 'layer';

  toggle(id: string, event: Event): void {
    event.stopPropagation();
    const on = !this.model.blend()?.layers[id]?.on;
    this.model.edit(`Switch ${on ? 'on' : 'off'} ${this.name(id)}`, (d) => {
      d.layers[id].on = on;
    });
  }
  solo(id: string): void {
    const solo = !this.model.blend()?.layers[id]?.solo;
    this.model.edit(solo ? `Solo ${this.name(id)}` : `End solo of ${this.name(id)}`, (d) => {
      for (const [key, layer] of Object.entries(d.layers)) layer.solo = solo && key === id;
    });
  }
  duplicate(id: string): void {
    const key = crypto.randomUUID().slice(0, 8);
    this.model.edit(`Duplicate ${this.name(id)}`, (d) => {
      const above = inOrder(d.layers).find((l) => l.order > d.layers[id].order)?.order;
      d.layers[key] = { ...structuredClone(d.layers[id]), name: `${d.layers[id].name} copy`, order: between(d.layers[id].order, above), solo: false };
    });
    this.model.selectedId.set(key);
  }
  remove(id: string): void {
    this.model.edit(`Remove ${this.name(id)}`, (d) => {
      delete d.layers[id];
    });
  }
  add(surface: string, name: string): void {
    const key = crypto.randomUUID().slice(0, 8);
    this.model.edit(`Add ${name}`, (d) => {
      const top = inOrder(d.layers).at(-1);
      const coverage: Record<string, Cue> = top ? { c1: makeCue('noise', { width: 0.25, seed: Math.floor(Math.random() * 0xffff) }) } : {};
      d.layers[key] = makeLayer(surface, name, between(top?.order, undefined), { coverage });
    });
    this.model.selectedId.set(key);
  }
  change(id: string, surface: string, name: string): void {
    this.model.edit(`Show ${name} in ${this.name(id)}`, (d) => {
      d.layers[id].surface = surface;
      d.layers[id].name = name;
    });
  }
  drop = (event: CdkDragDrop<unknown>): void => this.move(event.previousIndex, event.currentIndex);

  /** Moves a layer; indices count from the top. */
  move(from: number, to: number): void {
    const list = this.model.layers();
    if (from === to || to < 0 || to >= list.length) return;
    const { id } = list[from];
    const others = list.filter((l) => l.id !== id);
    const order = between(others[to]?.order, others[to - 1]?.order);
    this.model.edit(`Move ${this.name(id)} ${to < from ? 'up' : 'down'}`, (d) => {
      d.layers[id].order = order;
    });
  }
  key(event: KeyboardEvent, id: string): void {
    const index = this.model.layers().findIndex((l) => l.id === id);
    if (event.altKey && event.key === 'ArrowUp') this.move(index, index - 1);
    else if (event.altKey && event.key === 'ArrowDown') this.move(index, index + 1);
    else return;
    event.preventDefault();
  }
}
