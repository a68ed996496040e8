import { Injectable, computed, inject, signal } from '@angular/core';
import type { Mesh, PaintedVertices } from '@pebble/core';
import { misfit, putTile, tileRange } from '@pebble/core';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import { bytesOf } from '../workers/blob';
import { ByKey, Newest } from '../ui/latest';

interface Asked {
  /** The specimen as it came, or what stands in while that is read. */
  bare: Mesh;
  itself: boolean;
  key: string;
  painted: PaintedVertices | null;
}
type Tiles = Readonly<Record<string, string>>;
const sameAsked = (a: Asked | null, b: Asked | null) =>
  a?.bare === b?.bare && a?.itself === b?.itself && a?.key === b?.key && JSON.stringify(a?.painted) === JSON.stringify(b?.painted);

/** What was painted on the specimen of the open blend: the mesh, made finer where it was, and its vertex colours. */
@Injectable()
export class PaintedColours {
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  private readonly asked = signal<Asked | null>(null, { equal: sameAsked });
  private readonly finer = signal<{ key: string; mesh: Mesh } | null>(null);
  private readonly making = new ByKey((error) => this.notices.error(error));
  /** Colours that were read, with the tiles that they came from. */
  private readonly read = signal<{ mesh: Mesh; tiles: Tiles; colours: Float32Array } | null>(null);
  private readonly reading = new Newest();
  /** Called with tiles that came from elsewhere; null where one is as the specimen came. */
  onCame: (tiles: readonly (readonly [number, Uint8Array | null])[]) => void = () => undefined;

  private readonly finerKey = computed(() => {
    const asked = this.asked();
    return asked?.painted?.finer ? `${asked.key}:${asked.painted.finer}` : null;
  });
  /** The specimen as it came; null before anything was asked for. */
  readonly bare = computed<Mesh | null>(() => this.asked()?.bare ?? null);
  /** How often the mesh that is shown was made finer. */
  readonly finerTimes = computed(() => (this.mesh() === this.asked()?.bare ? 0 : (this.asked()?.painted?.finer ?? 0)));
  /** As it came, or finer once that is made; null before anything was asked for. Its colours are those that it came with. */
  readonly mesh = computed<Mesh | null>(() => {
    const [key, finer] = [this.finerKey(), this.finer()];
    return key !== null && finer?.key === key ? finer.mesh : (this.asked()?.bare ?? null);
  });
  /** Whether the mesh is the one that is wanted, not one that stands in until it is read or made. */
  readonly whole = computed(() => this.asked()?.itself === true && (this.finerKey() === null || this.finer()?.key === this.finerKey()));
  /** Why what was painted cannot be shown; null while all is well. */
  readonly problem = computed(() => {
    const [painted, mesh] = [this.asked()?.painted, this.mesh()];
    return painted && mesh && this.whole() ? misfit(painted, mesh.position.length / 3) : null;
  });
  readonly tiles = computed<Tiles>(() => {
    const read = this.read();
    return read && read.mesh === this.mesh() ? read.tiles : {};
  });
  /** rgba of every vertex. */
  readonly colours = computed<Float32Array>(() => {
    const [read, mesh] = [this.read(), this.mesh()];
    return read && read.mesh === mesh ? read.colours : (mesh?.geomcolor ?? new Float32Array());
  });

  /** Takes up what is painted on what; nothing is where another mesh stands in. Called within an effect. */
  follow({ mesh: bare, itself }: { mesh: Mesh; itself: boolean }, key: string, all: PaintedVertices | null): void {
    const painted = itself ? all : null;
    this.asked.set({ bare, itself, key, painted });
    const finerKey = this.finerKey();
    if (finerKey !== null && this.finer()?.key !== finerKey) {
      const make = () => this.meshes.run('finer', { mesh: bare, times: painted?.finer ?? 0 });
      this.making.ask('finer', finerKey, make, (mesh) => this.finer.set({ key: finerKey, mesh }));
    }
    const mesh = this.mesh();
    if (mesh && this.whole()) void this.load(mesh, this.problem() ? {} : (painted?.tiles ?? {}));
  }

  private async load(mesh: Mesh, tiles: Tiles): Promise<void> {
    const going = this.reading.begin();
    const known = this.tiles();
    const other = [...new Set([...Object.keys(known), ...Object.keys(tiles)])].filter((tile) => known[tile] !== tiles[tile]);
    if (!other.length) return;
    try {
      const bytes = await Promise.all(other.map(async (tile) => [Number(tile), tile in tiles ? await bytesOf(tiles[tile]) : null] as const));
      if (!going()) return;
      const colours = this.colours().slice();
      for (const [tile, values] of bytes) {
        const [first, end] = tileRange(tile, colours.length / 4);
        if (values) putTile(colours, tile, values);
        else colours.set(mesh.geomcolor.subarray(first * 4, end * 4), first * 4);
      }
      this.read.set({ mesh, tiles, colours });
      this.onCame(bytes);
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** The last colours that were painted here: the stage has them already. */
  own: Float32Array | null = null;

  /** Takes over colours that were painted here, with the tiles that they are kept as. */
  adopt(tiles: Tiles, colours: Float32Array): void {
    const mesh = this.mesh();
    this.reading.end();
    this.own = colours;
    if (mesh) this.read.set({ mesh, tiles: { ...this.tiles(), ...tiles }, colours });
  }
}
