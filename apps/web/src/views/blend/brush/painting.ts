import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { Brush, BrushPoint, ColourRun, Component, PaintedVertices, EyeView, StrokeAim } from '@pebble/core';
import { DEFAULT_BRUSH, fedBy, makeCue, nextOrder, tileBytes, tileCount, tileSums, withSpans } from '@pebble/core';
import type { RemoteStage } from '@pebble/stage';
import { MeshService } from '../../../services/mesh.service';
import { NoticesService } from '../../../services/notices.service';
import { WorkerClient } from '../../../services/worker-client';
import { saveFile } from '../../../ui/save-file';
import type { Changed, PaintRequests, WholeChange } from '../../../workers/paint-protocol';
import { BlendModel } from '../blend-model';
import { newKey } from '../../../ui/new';
import { Neighbours } from '../../../stage/neighbours';
import { PaintedColours } from '../../../stage/painted-colours';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import type { OnPicture } from '../../../stage/on-picture';
import { pressOnMesh } from './on-mesh';
import { KEEP_MS, OpenStroke } from './open-stroke';
import { PaintRules } from './paint-rules';
import { Strokes } from './stroke';
import { reachOf } from './reach';
import { keep } from '../../../ui/keep';

export const CHANNELS: readonly { id: Component; name: string }[] = [
  { id: 'r', name: 'red' },
  { id: 'g', name: 'green' },
  { id: 'b', name: 'blue' },
  { id: 'a', name: 'alpha' },
];
const nameOf = (channel: Component): string => CHANNELS.find((c) => c.id === channel)?.name ?? channel;
const KEPT_BRUSH = 'pebble-brush';

/** What was painted on vertices in a stroke that is no step yet. */
interface OpenVertices {
  blend: string;
  specimen: string;
  label: string;
  painted: PaintedVertices;
}
const AIM_WORDS: Record<StrokeAim, string> = { add: 'Paint', erase: 'Erase', set: 'Set', smooth: 'Smooth' };

/** The brush on the stage: vertex colours of the specimen, a stroke a step. */
@Injectable()
export class Painting {
  private readonly model = inject(BlendModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly painted = inject(PaintedColours);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  private readonly neighbours = inject(Neighbours);
  private readonly rules = inject(PaintRules);
  private readonly scene = inject(StageScene);
  private readonly brushWorker = new WorkerClient<PaintRequests>(
    () => new Worker(new URL('../../../workers/paint.worker', import.meta.url), { type: 'module' }),
  );
  /** Where colours are shown at once. */
  readonly stage = signal<Pick<RemoteStage, 'setColours'> | null>(null);

  readonly on = signal(false);
  readonly brush = signal<Brush>({ ...DEFAULT_BRUSH, ...(JSON.parse(localStorage.getItem(KEPT_BRUSH) ?? '{}') as Partial<Brush>) });
  readonly channel = signal<Component>('r');
  readonly aim = signal<StrokeAim>('add');
  /** A key is held that erases meanwhile. */
  readonly erasing = signal(false);
  /** What the stage shows while the brush is out: the blend, all colours, or the channel alone. */
  readonly view = signal<'look' | 'all' | 'channel'>('look');
  /** Whether a mask has the brush. */
  readonly onMask = signal(false);
  /** Getting the mesh ready, or what was painted to the server. */
  readonly opening = signal(false);
  /** Whether a press would do nothing yet: the brush does not have the mesh that is wanted. */
  readonly waiting = computed(() => this.opening() || !this.painted.whole() || this.opened() !== this.painted.mesh());
  /** Whether a press paints. */
  readonly takes = computed(() => !this.waiting());
  readonly keeping = signal(false);
  readonly refining = signal(false);
  /** Metres from the eye to where the pointer is; null beside the mesh. */
  readonly away = signal<number | null>(null);
  private readonly edges = signal<number | null>(null);
  private readonly strokes = new Strokes<BrushPoint>();
  private readonly openStroke = new OpenStroke<OpenVertices>('pebble-open-stroke');
  /** Copy of the colours that strokes go on in. */
  private live = new Float32Array();
  /** The mesh that the brush has. */
  private readonly opened = signal<unknown>(null);
  private openedSpans = '';
  private stepping: Promise<void> = Promise.resolve();
  private keepingAll: Promise<Record<string, string>> = Promise.resolve({});

  readonly vertices = computed(() => this.specimen.vertices());
  private readonly entry = computed<PaintedVertices | null>(() => {
    const blend = this.model.blend();
    return blend?.paint?.[this.specimen.name()] ?? null;
  });
  private readonly onAsset = computed(() => this.specimen.spans() !== null);
  readonly isPainted = computed(() => this.entry() !== null);
  /** Sums of tiles that were added up already, by number and blob; those of the mesh as it came have none. */
  private readonly sums = { mesh: null as unknown, of: new Map<string, readonly number[]>() };
  private readonly shares = computed<readonly number[]>(() => {
    const [mesh, colours, tiles] = [this.painted.mesh(), this.painted.colours(), this.painted.tiles()];
    if (this.sums.mesh !== mesh) Object.assign(this.sums, { mesh, of: new Map() });
    const total = [0, 0, 0, 0];
    for (let tile = 0; tile < tileCount(colours.length / 4); tile++) {
      const key = `${tile}:${tiles[tile] ?? ''}`;
      const known = this.sums.of.get(key) ?? tileSums(colours, tile);
      this.sums.of.set(key, known);
      known.forEach((v, c) => (total[c] += v));
    }
    return total.map((v) => (v * 4) / Math.max(4, colours.length));
  });
  /** Whom each channel feeds, and how much of the vertices it covers. */
  readonly wells = computed(() => {
    const [blend, shares] = [this.model.blend(), this.shares()];
    return blend ? CHANNELS.map(({ id, name }, c) => ({ id, name, feeds: fedBy(blend, id), share: shares[c] })) : [];
  });
  /** What to say when a dab would reach too few vertices, and what more of them cost. */
  readonly density = computed(() => reachOf(this.brush().radiusM, this.vertices(), { edges: this.edges(), finer: this.entry()?.finer ?? 0 }));

  constructor() {
    this.painted.onCame = (tiles) => {
      if (this.opened() !== this.painted.mesh()) return;
      this.live.set(this.painted.colours());
      // A stroke that is under way goes on upon them, and is shown again.
      this.trying(this.brushWorker.run('take', { tiles }).then((changed) => this.show(changed, false)));
    };
    effect(() => keep(KEPT_BRUSH, JSON.stringify(this.brush())));
    effect(() => {
      // What is seen comes first; while a mask has the brush, no vertices are made ready.
      const wanted = this.on() && !this.onMask() && this.scene.seen() && this.specimen.itself();
      const [mesh, spans] = wanted ? [this.painted.mesh(), JSON.stringify(this.specimen.ownSpans())] : [null, ''];
      if (mesh && (mesh !== this.opened() || spans !== this.openedSpans)) untracked(() => void this.open());
    });
    effect(() => {
      const [id, blend] = [this.model.id(), this.model.blend()];
      if (id && blend) untracked(() => this.recover(id));
    });
    // A stroke that is still on its way to the server gets there.
    inject(DestroyRef).onDestroy(() => void this.stepping.catch(() => undefined).then(() => this.brushWorker.end()));
  }

  private async open(): Promise<void> {
    const mesh = this.painted.mesh();
    if (!mesh) return;
    this.opened.set(mesh);
    this.openedSpans = JSON.stringify(this.specimen.ownSpans());
    this.opening.set(true);
    this.edges.set(null);
    const colours = this.painted.colours();
    this.live = colours.slice();
    const spans = untracked(this.specimen.ownSpans);
    const { position, index, geomcolor } = spans ? withSpans(mesh, spans) : mesh;
    const tiles = Object.keys(this.painted.tiles()).map((tile) => [Number(tile), tileBytes(colours, Number(tile))] as const);
    try {
      const { edges } = await this.brushWorker.run('open', { mesh: { position, index, geomcolor }, whole: mesh.index, tiles });
      if (this.opened() === mesh) this.edges.set(edges);
    } catch (error) {
      this.opened.set(null);
      this.notices.error(error);
    } finally {
      if (this.opened() === mesh || !this.opened()) this.opening.set(false);
    }
  }

  /** Shows colours that came from the brush. */
  private show({ runs }: Changed, moving: boolean): void {
    for (const { first, colours } of runs) this.live.set(colours, first * 4);
    this.stage()?.setColours('specimen', runs as ColourRun[], moving, true);
  }

  /** The pointer hovers over the picture. */
  async hover(point: { x: number; y: number }, sight: EyeView): Promise<void> {
    if (this.asking || this.waiting() || !this.on()) return;
    this.asking = true;
    this.away.set(await this.brushWorker.run('away', { ...point, sight }).catch(() => null));
    this.asking = false;
  }
  private asking = false;

  /** A press on the picture of the specimen. */
  press(event: PointerEvent, on: OnPicture): void {
    if (this.waiting()) return;
    pressOnMesh(event, on, (press) => {
      const label = this.label();
      let kept: Record<string, string> = {};
      let last = performance.now();
      const stroke = this.strokes.begin({
        begin: this.beginning(),
        send: async (points) => {
          const changed = await this.brushWorker.run('stroke', { points, sight: on.sight() });
          press.heard(changed.reached);
          this.show(changed, true);
          if (!press.paints || performance.now() - last <= KEEP_MS) return;
          last = performance.now();
          void this.keep(true).then(
            (hashes) => {
              kept = { ...kept, ...hashes };
              if (stroke.open) this.remember(label, kept);
            },
            // What is kept on the way is kept again at the end, which says what is wrong.
            () => undefined,
          );
        },
        end: async (whole) => {
          if (press.paints) await this.finish(whole, label);
          else await this.brushWorker.run('lost', null);
        },
        fail: this.failed,
      });
      return stroke;
    });
  }
  /** What a stroke does, held from when it begins. */
  readonly aimed = (): StrokeAim => (this.erasing() ? 'erase' : this.aim());
  private beginning(): () => Promise<null> {
    const asked = { brush: this.brush(), channel: this.channel(), aim: this.aimed() };
    return async () => this.brushWorker.run('begin', { ...asked, limit: await this.rules.limits(null) });
  }
  /** The brush has what nobody kept: it begins again from what there is. */
  private beginAgain(): void {
    this.stage()?.setColours('specimen', [{ first: 0, colours: this.painted.colours() }], false, true);
    this.opened.set(null);
  }
  private readonly failed = (error: unknown): void => {
    this.notices.error(error);
    this.beginAgain();
  };
  private trying = (work: Promise<void>): void => void work.catch((error: unknown) => this.notices.error(error));

  /** One dab in the middle of the picture, for the keyboard. */
  async dab(sight: EyeView): Promise<void> {
    if (this.waiting()) return;
    const label = this.label();
    let reached = false;
    const stroke = this.strokes.begin({
      begin: this.beginning(),
      send: async (points) => {
        const changed = await this.brushWorker.run('stroke', { points, sight });
        reached = changed.reached !== null;
        this.show(changed, true);
      },
      end: () => this.finish(reached, label),
      fail: this.failed,
    });
    stroke.add({ x: 0.5, y: 0.5, pressure: 1 });
    stroke.end(true);
    await stroke.done;
  }

  private readonly label = (): string => `${AIM_WORDS[this.aimed()]} ${nameOf(this.channel())}`;

  private async finish(kept: boolean, label: string): Promise<void> {
    this.show(await this.brushWorker.run(kept ? 'end' : 'lost', null), false);
    if (kept) return this.step(label);
    // What was sent of it already is nobody's.
    await this.keepingAll.catch(() => undefined);
    this.keepingAll = Promise.resolve({});
    this.openStroke.forget();
    this.painted.adopt({}, this.live.slice());
  }

  /** Does something to all vertices. */
  async whole(change: WholeChange): Promise<void> {
    if (this.waiting()) return;
    this.show(await this.brushWorker.run('whole', change), false);
    const name = nameOf(change.channel);
    await this.step(
      change.what === 'fill'
        ? `Fill ${name} with ${change.value.toFixed(2)}`
        : change.what === 'invert'
          ? `Invert ${name}`
          : `Swap ${name} and ${nameOf(change.other)}`,
    );
  }

  /** Tiles go to the server one lot after the other; what comes later counts. */
  private keep(underWay: boolean): Promise<Record<string, string>> {
    const before = this.keepingAll.catch(() => ({}));
    this.keepingAll = before.then(async (all) => ({ ...all, ...(await this.brushWorker.run('keep', { underWay })) }));
    return this.keepingAll;
  }

  /** What was painted since the last step becomes one. */
  private step(label: string): Promise<void> {
    this.stepping = this.becomeStep(label);
    return this.stepping;
  }
  private async becomeStep(label: string): Promise<void> {
    this.keeping.set(true);
    try {
      const tiles = await this.keep(false);
      this.keepingAll = Promise.resolve({});
      if (!Object.keys(tiles).length) return;
      const next = this.withTiles(tiles);
      this.painted.adopt(tiles, this.live.slice());
      this.enter(label, next);
    } finally {
      this.keeping.set(false);
      this.openStroke.forget();
    }
  }
  private withTiles(tiles: Readonly<Record<string, string>>): PaintedVertices {
    const before = this.entry();
    return { vertices: this.live.length / 4, finer: before?.finer ?? 0, tiles: { ...before?.tiles, ...tiles } };
  }
  private enter(label: string, painted: PaintedVertices | null): void {
    const specimen = this.specimen.name();
    this.model.draft((d) => {
      d.paint ??= {};
      if (painted) d.paint[specimen] = painted;
      else delete d.paint[specimen];
    });
    this.model.commit(label, true);
  }

  private remember(label: string, tiles: Readonly<Record<string, string>>): void {
    const [blend, specimen] = [this.model.id(), this.specimen.name()];
    if (!blend) return;
    this.openStroke.remember({ blend, specimen, label, painted: this.withTiles(tiles) });
  }
  /** A stroke in the middle of which the page was left becomes a step, as far as it was kept. */
  private recover(id: string): void {
    if (this.keeping() || this.opened()) return;
    const kept = this.openStroke.take(id);
    if (kept && this.specimen.name() === kept.specimen) this.enter(`${kept.label}, as far as it was kept`, kept.painted);
  }

  /** Cuts every triangle into four; what was painted goes along. */
  async refine(): Promise<void> {
    const { form, mesh } = this.specimen;
    const before = this.entry();
    const finer = (before?.finer ?? 0) + 1;
    const count = this.vertices().count;
    this.refining.set(true);
    try {
      const { vertices, tiles } = before
        ? await this.meshes.run('finerColours', { mesh: { ...form(), geomcolor: mesh().geomcolor }, times: 1 })
        : { vertices: count + (this.edges() ?? 0), tiles: {} };
      this.enter(`Finer mesh: ${count.toLocaleString('en')} → ${vertices.toLocaleString('en')} vertices`, { vertices, finer, tiles });
    } catch (error) {
      this.notices.error(error);
    } finally {
      this.refining.set(false);
    }
  }

  /** The specimen with the colours as they are shown, as binary glTF to be saved. */
  async save(): Promise<void> {
    const name = `${this.model.blend()?.name ?? 'blend'}_${this.specimen.name()}`.replace(/[^A-Za-z0-9]+/g, '_').toLowerCase();
    try {
      const mesh = this.specimen.mesh();
      const texcoord = await this.specimen.cameWith(mesh);
      const geomcolor = this.onAsset() ? this.neighbours.over(mesh.geomcolor) : mesh.geomcolor;
      const slots = this.specimen.partSlots();
      const parts = this.specimen.parts().map((part, i) => ({ name: part, slot: slots[i] ?? 'surface' }));
      const bytes = await this.meshes.run('glb', { name, mesh: { ...mesh, texcoord, geomcolor }, parts });
      saveFile(`${name}.glb`, bytes, 'model/gltf-binary');
    } catch (error) {
      this.notices.error(error);
    }
  }
  clear = (): void => this.enter('Clear what was painted', null);

  /** The chosen layer looks at a channel. */
  feed(channel: Component): void {
    const [id, layer] = [this.model.selectedId(), this.model.selected()];
    if (!id || !layer) return;
    this.model.edit(`${layer.name}: where ${nameOf(channel)} is painted`, (d) => {
      const { coverage, shared } = d.layers[id];
      const into = (shared !== null ? d.coverages[shared]?.coverage : undefined) ?? coverage;
      const order = nextOrder(into);
      into[newKey()] = makeCue('vertexColour', { channel, order });
    });
  }

  setBrush = (change: Partial<Brush>): void => this.brush.update((b) => ({ ...b, ...change }));
  /** A wider or narrower brush, by a tenth. */
  resize = (times: number): void => this.setBrush({ radiusM: Math.min(50, Math.max(0.001, this.brush().radiusM * times)) });
}
