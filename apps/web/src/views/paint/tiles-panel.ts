import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, viewChild } from '@angular/core';
import type { Mesh } from '@pebble/core';
import { boundsOf, cividis } from '@pebble/core';
import type { NumberField } from '../../ui/field';
import { Field } from '../../ui/field';
import { BlendModel } from '../blend/blend-model';
import type { TileTable } from '../../workers/terrain-protocol';
import { TerrainTiles } from './terrain-tiles';

const TILE: NumberField = { label: 'Side of a tile in metres', min: 0.5, max: 4096, step: 1, unit: 'm', decimals: 1, initial: 32 };
const LIMIT: NumberField = { label: 'Layers that a tile draws at most', min: 1, max: 16, step: 1, whole: true, unit: '', decimals: 0, initial: 4 };
const MAP_PX = 168;
const hex = (rgb: number): string => `#${rgb.toString(16).padStart(6, '0')}`;

const mostLayers = (table: TileTable | null): number => Math.max(1, ...(table?.tiles.map((t) => t.layers.length) ?? [1]));
/** Where a number of layers lies between one and the most that there are. */
const shareOf = (layers: number, most: number): number => (most > 1 ? (layers - 1) / (most - 1) : 0);

/** Colours of the vertices of a terrain by how many layers their tiles draw, rgba. */
export function tileColours(table: TileTable, { position }: Pick<Mesh, 'position'>): Float32Array {
  const { lo } = boundsOf({ position });
  const most = mostLayers(table);
  const at = new Map(table.tiles.map((t) => [t.row * table.columns + t.column, t]));
  const out = new Float32Array((position.length / 3) * 4);
  const along = (v: number, low: number, count: number) => Math.min(count - 1, Math.max(0, Math.floor((v - low) / table.tileM)));
  for (let i = 0; i < position.length / 3; i++) {
    const column = along(position[i * 3], lo[0], table.columns);
    const row = along(position[i * 3 + 2], lo[2], table.rows);
    const rgb = cividis(shareOf(at.get(row * table.columns + column)?.layers.length ?? 1, most));
    out.set([(rgb >> 16) / 255, ((rgb >> 8) & 255) / 255, (rgb & 255) / 255, 1], i * 4);
  }
  return out;
}

/** The map of a terrain's tiles: how many layers each draws, what that costs, and which draw too many. */
@Component({
  selector: 'pb-tiles',
  imports: [Field],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './tiles-panel.html',
  styleUrl: './tiles-panel.scss',
})
export class TilesPanel {
  readonly tiles = inject(TerrainTiles);
  private readonly model = inject(BlendModel);
  readonly fields = { tile: TILE, limit: LIMIT };
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('map');
  readonly size = computed(() => {
    const table = this.tiles.table();
    if (!table) return { width: MAP_PX, height: MAP_PX };
    const most = Math.max(table.columns, table.rows);
    return { width: Math.round((MAP_PX * table.columns) / most), height: Math.round((MAP_PX * table.rows) / most) };
  });
  readonly most = computed(() => mostLayers(this.tiles.table()));
  readonly ramp = computed(() =>
    Array.from({ length: this.most() }, (_, i) => ({ layers: i + 1, colour: hex(cividis(shareOf(i + 1, this.most()))) })),
  );
  readonly permutations = computed(() => new Set(this.tiles.table()?.tiles.map((t) => t.layers.join()) ?? []).size);
  names = (ids: readonly string[]): string => ids.map((id) => this.model.blend()?.layers[id]?.name ?? id).join(', ');

  constructor() {
    effect(() => {
      const [canvas, table, chosen, limit] = [this.canvas()?.nativeElement, this.tiles.table(), this.tiles.chosen(), this.tiles.limit()];
      const context = canvas?.getContext('2d');
      if (!canvas || !context || !table) return;
      const { width, height } = this.size();
      const [w, h] = [width / table.columns, height / table.rows];
      context.clearRect(0, 0, canvas.width, canvas.height);
      context.save();
      context.scale(canvas.width / width, canvas.height / height);
      for (const { column, row, layers } of table.tiles) {
        const [x, y] = [column * w, row * h];
        context.fillStyle = hex(cividis(shareOf(layers.length, this.most())));
        context.fillRect(x, y, Math.ceil(w), Math.ceil(h));
        // Told by more than colour.
        if (layers.length > limit) {
          context.strokeStyle = '#fff';
          context.lineWidth = 1.5;
          context.strokeRect(x + 1.5, y + 1.5, w - 3, h - 3);
          context.strokeStyle = '#1c1f1c';
          context.lineWidth = 1;
          context.beginPath();
          context.moveTo(x + 2, y + h - 2);
          context.lineTo(x + w - 2, y + 2);
          context.stroke();
        }
      }
      if (chosen) {
        context.strokeStyle = '#d9613b';
        context.lineWidth = 2;
        context.strokeRect(chosen.column * w, chosen.row * h, w, h);
      }
      context.restore();
    });
  }

  pick(event: MouseEvent): void {
    const table = this.tiles.table();
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    if (!table) return;
    const [column, row] = [((event.clientX - box.left) / box.width) * table.columns, ((event.clientY - box.top) / box.height) * table.rows].map(
      Math.floor,
    );
    this.tiles.chosen.set(table.tiles.find((t) => t.column === column && t.row === row) ?? null);
  }
  /** Arrow keys go from tile to tile. */
  key(event: KeyboardEvent): void {
    const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key] ?? [0, 0];
    const table = this.tiles.table();
    if ((!dx && !dy) || !table) return;
    event.preventDefault();
    const { column, row } = this.tiles.chosen() ?? { column: 0, row: 0 };
    this.tiles.chosen.set(table.tiles.find((t) => t.column === column + dx && t.row === row + dy) ?? this.tiles.chosen());
  }
}
