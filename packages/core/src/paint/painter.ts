import type { Component } from '../coverage';
import type { Mesh } from '../mesh/mesh';
import type { MeshHit } from '../mesh/pick';
import { placeAt } from '../mesh/pick';
import type { Brush, StrokeAim } from './brush';
import { patchNoise } from './brush';
import type { Neighbourhood } from './neighbours';
import { neighbourhood } from './neighbours';
import { Stroke } from './stroke';
import { TILE_VERTICES, putTile, tileBytes, tileCount, tileRange } from './tiles';

export const CHANNEL_ORDER: readonly Component[] = ['r', 'g', 'b', 'a'];

/** What is passed on about changed colours: rgba of vertices from `first` on. */
export interface ColourRun {
  first: number;
  colours: Float32Array;
}

/**
 * Paints the vertex colours of a mesh. A dab reaches what lies within its radius and is connected to its middle within
 * it, so that the far side of a wall stays as it is. Within a stroke a vertex goes as far toward the aim as the strongest
 * dab that reached it: how often the pointer reports does not count. Colours are kept to bytes when a stroke ends.
 */
export class VertexPainter {
  /** rgba of all vertices, 0–1, as they are shown now. */
  readonly colours: Float32Array;
  private readonly before: Float32Array;
  private readonly near: Neighbourhood;
  private readonly seen: Uint32Array;
  private visit = 0;
  private readonly queue: Uint32Array;
  private stroke: (Stroke & { channel: number }) | null = null;
  /** Tiles whose colours were changed since they were passed on, and since they were kept. */
  private readonly shown = new Set<number>();
  private readonly unkept = new Set<number>();
  /** Tiles that the stroke under way has changed. */
  private readonly struck = new Set<number>();

  constructor(private readonly mesh: Mesh) {
    this.colours = mesh.geomcolor.slice();
    this.before = this.colours.slice();
    this.near = neighbourhood(mesh);
    const count = mesh.position.length / 3;
    this.seen = new Uint32Array(count);
    this.queue = new Uint32Array(count);
  }

  get vertices(): number {
    return this.mesh.position.length / 3;
  }

  /** @param limit share of every vertex that may be painted */
  begin(brush: Brush, channel: Component, aim: StrokeAim, limit: Float32Array | null = null): void {
    this.cancel();
    const { position } = this.mesh;
    const noise = (p: number) => patchNoise(brush.broken, position[p * 3], position[p * 3 + 1], position[p * 3 + 2]);
    const limits = { noise, ...(limit ? { limit: (p: number) => limit[p] } : {}) };
    this.stroke = Object.assign(new Stroke(brush, aim, limits), { channel: CHANNEL_ORDER.indexOf(channel) });
  }

  /**
   * One dab of the stroke that was begun. Gives how many places it reached.
   * @param pressure of the pen, 0–1: it weakens the dab
   */
  dab(place: MeshHit, pressure = 1): number {
    const { stroke, near, queue, seen } = this;
    if (!stroke) return 0;
    const { position, index } = this.mesh;
    const [x, y, z] = placeAt(this.mesh, place);
    const { radiusM } = stroke.brush;
    const mark = ++this.visit;
    let end = 0;
    const reach = (p: number): void => {
      if (seen[p] === mark) return;
      seen[p] = mark;
      const away = Math.hypot(position[p * 3] - x, position[p * 3 + 1] - y, position[p * 3 + 2] - z);
      if (away >= radiusM) return;
      queue[end++] = p;
      if (stroke.reach(p, away, pressure)) this.show(p);
    };
    for (let k = 0; k < 3; k++) reach(near.place[index[place.triangle * 3 + k]]);
    for (let i = 0; i < end; i++) for (let k = near.first[queue[i]]; k < near.first[queue[i] + 1]; k++) reach(near.around[k]);
    return end;
  }

  /** Colour of a place as far as the stroke has taken it. */
  private show(p: number): void {
    const { stroke, near, before, colours } = this;
    if (!stroke) return;
    const { channel } = stroke;
    const around = () => {
      const [from, to] = [near.first[p], near.first[p + 1]];
      let sum = 0;
      for (let k = from; k < to; k++) sum += before[near.around[k] * 4 + channel];
      return to > from ? sum / (to - from) : before[p * 4 + channel];
    };
    this.each(p, (v) => {
      colours[v * 4 + channel] = stroke.take(p, before[v * 4 + channel], around);
      this.touch(v);
    });
  }

  private each(p: number, take: (vertex: number) => void): void {
    for (let v = p; ; v = this.near.next[v]) {
      take(v);
      if (this.near.next[v] === v) return;
    }
  }
  private touch(vertex: number): void {
    const tile = Math.floor(vertex / TILE_VERTICES);
    this.shown.add(tile);
    this.unkept.add(tile);
    this.struck.add(tile);
  }

  /** Ends the stroke: what it did stays. */
  end(): void {
    this.stroke = null;
    for (const tile of this.struck) this.settle(tile);
    this.struck.clear();
  }

  /** Gives the stroke up: everything is as before it. */
  cancel(): void {
    const { stroke, before, colours } = this;
    if (!stroke) return;
    for (const p of stroke.touched)
      this.each(p, (v) => {
        colours[v * 4 + stroke.channel] = before[v * 4 + stroke.channel];
        this.shown.add(Math.floor(v / TILE_VERTICES));
      });
    this.stroke = null;
    this.struck.clear();
    this.unkept.clear();
  }

  /** Colours of a tile become what bytes hold of them. */
  private settle(tile: number): void {
    putTile(this.colours, tile, tileBytes(this.colours, tile));
    const [first, end] = tileRange(tile, this.vertices);
    this.before.set(this.colours.subarray(first * 4, end * 4), first * 4);
    this.shown.add(tile);
  }

  private all(change: (rgba: Float32Array, at: number) => void): void {
    this.cancel();
    for (let i = 0; i < this.colours.length; i += 4) change(this.colours, i);
    for (let tile = 0; tile < tileCount(this.vertices); tile++) {
      this.unkept.add(tile);
      this.settle(tile);
    }
  }
  fill(channel: Component, value: number): void {
    const c = CHANNEL_ORDER.indexOf(channel);
    this.all((rgba, at) => (rgba[at + c] = value));
  }
  invert(channel: Component): void {
    const c = CHANNEL_ORDER.indexOf(channel);
    this.all((rgba, at) => (rgba[at + c] = 1 - rgba[at + c]));
  }
  swap(one: Component, other: Component): void {
    const [a, b] = [CHANNEL_ORDER.indexOf(one), CHANNEL_ORDER.indexOf(other)];
    this.all((rgba, at) => ([rgba[at + a], rgba[at + b]] = [rgba[at + b], rgba[at + a]]));
  }

  /** Takes over colours that were made elsewhere, such as those of another window; a stroke that is under way goes on upon them. */
  take(tile: number, bytes: Uint8Array | null): void {
    const [first, end] = tileRange(tile, this.vertices);
    if (bytes) putTile(this.before, tile, bytes);
    else this.before.set(this.mesh.geomcolor.subarray(first * 4, end * 4), first * 4);
    this.colours.set(this.before.subarray(first * 4, end * 4), first * 4);
    this.shown.add(tile);
    if (this.stroke) for (const p of this.stroke.touched) this.show(p);
  }

  /** Colours that changed since they were last asked for. */
  takeShown(): ColourRun[] {
    const runs = [...this.shown].map((tile) => {
      const [first, end] = tileRange(tile, this.vertices);
      return { first, colours: this.colours.slice(first * 4, end * 4) };
    });
    this.shown.clear();
    return runs;
  }

  /** Tiles that changed since they were last asked for, as bytes. */
  takeUnkept(): { tile: number; bytes: Uint8Array<ArrayBuffer> }[] {
    const tiles = [...this.unkept].sort((a, b) => a - b).map((tile) => ({ tile, bytes: tileBytes(this.colours, tile) }));
    this.unkept.clear();
    return tiles;
  }
}
