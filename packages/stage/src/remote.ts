import type {
  Account,
  CarriedDag,
  ColourRun,
  LightData,
  Material,
  MaterialGraph,
  Mesh,
  PackedPicture,
  PackedSet,
  PackedSurface,
  Places,
  Span,
  Values,
} from '@pebble/core';
import { Accountant, Recent, carried, sourcesOfPacked, uncarried } from '@pebble/core';
import type { Pane, StageLook } from './look';
import type { Other } from './material';
import type { FrameReport, ProgramRequest } from './frames';
import { Stage } from './stage';
import type { MaskRegion } from './live-mask';
import { patchedPicture } from './live-mask';
import type { Tried, TriedPicture } from './tried';

type Panes = { specimen: Pane; flat: Pane };

/** A slot under a key that changes with its pixels. */
export interface Keyed<T> {
  key: string;
  packed: T;
  /** Stands in for what is on its way, and is let go of when that is there. */
  transient?: boolean;
  /** A mask that differs from one under another key by regions: these alone go over. */
  patch?: Patch;
}
export interface Patch {
  of: string;
  regions: readonly MaskRegion[];
  /** Whether that one is still to be shown. */
  kept: boolean;
  /** By what that one differs from one before it, which may never have gone over. */
  before?: Patch | undefined;
}
/** Everything that a program looks up, by slot, with keys. */
export interface KeyedSet {
  surfaces: readonly Keyed<PackedSurface>[];
  masks: readonly Keyed<PackedPicture>[];
  ids: readonly Keyed<PackedPicture>[];
}
type KeysOf = { [K in keyof KeyedSet]: readonly string[] };

type Program = ProgramRequest<KeyedSet>['program'];
/** A program with its nodes in a list: those that are worked out once a frame, then the outputs of its graph. */
interface ToldProgram {
  glsl: Program['glsl'];
  drawn: Program['drawn'];
  names: readonly string[];
  outputs: readonly string[] | null;
  dag: CarriedDag;
}
function toldProgram({ glsl, hoisted, graph, drawn }: Program): ToldProgram {
  const dag = carried([...hoisted.map((h) => h.node), ...Object.values(graph ?? {})]);
  return { glsl, drawn, names: hoisted.map((h) => h.name), outputs: graph && Object.keys(graph), dag };
}
function heardProgram({ glsl, drawn, names, outputs, dag }: ToldProgram): Program {
  const nodes = uncarried(dag);
  const graph = outputs && Object.fromEntries(outputs.map((name, i) => [name, nodes[names.length + i]]));
  return { glsl, drawn, hoisted: names.map((name, i) => ({ name, node: nodes[i] })), graph: graph as Program['graph'] };
}

/** What the page tells the stage in its worker. Surfaces go over once and are named by a key from then on. */
type ToStage =
  | { type: 'open'; canvas: OffscreenCanvas; light: LightData; panes: Panes }
  | { type: 'size'; width: number; height: number }
  | { type: 'surface'; key: string; packed: PackedSurface | PackedPicture }
  | ({ type: 'patch'; key: string } & Omit<Patch, 'before'>)
  | { type: 'forget'; keys: readonly string[] }
  | { type: 'program'; request: Omit<ProgramRequest<KeysOf>, 'program'>; program: ToldProgram }
  | { type: 'values'; values: Values }
  | { type: 'now'; values: Values }
  | { type: 'others'; spans: readonly Span[] | null; others: readonly (Omit<Other, 'slots'> & { keys: KeysOf })[] }
  | { type: 'specimen'; mesh: Mesh; flat: Mesh }
  | { type: 'look'; look: StageLook; moving: boolean }
  | { type: 'colours'; of: 'specimen' | 'flat'; runs: readonly ColourRun[]; moving: boolean }
  | { type: 'relief'; position: Float32Array | null }
  | { type: 'light'; light: LightData }
  /** A picture that is tried goes over once, and is known by its key until another does. */
  | { type: 'picture'; key: string; picture: TriedPicture }
  | { type: 'tried'; tried: Tried | null }
  | { type: 'draw' }
  | { type: 'account'; question: number; ask: Told; keys: KeysOf }
  | { type: 'close' };
/** A place of a material that shall be accounted for. */
export interface AccountRequest {
  material: Pick<Material, 'key' | 'values' | 'layers' | 'far'>;
  places: Places;
  footprint: number;
}
/** The same as it is told: a graph goes over once. */
type Told = Omit<AccountRequest, 'material'> & Omit<AccountRequest['material'], 'far'> & { graph: MaterialGraph | null };
/** Graphs that both ends remember, the same ones in the same order. */
const MAX_GRAPHS = 6;
type FromStage =
  | { type: 'pulse' }
  | { type: 'restored' }
  | { type: 'account'; question: number; account: Account }
  | { type: 'frame'; report: FrameReport; compiles: number }
  | { type: 'error'; message: string };

/** How often the worker is asked whether it is there, and after how many questions without an answer it is not. */
const PULSE_MS = 5000;
const DEAD_AFTER = 4;

/** The part of a worker that both ends need. */
interface Port {
  postMessage(message: unknown, transfer?: Transferable[]): void;
  addEventListener(type: 'message', listener: (event: MessageEvent) => void): void;
}

/**
 * A stage that draws in a worker, so that neither drawing nor presenting a frame ever holds the page. Has the shape of
 * `Stage`.
 */
export class RemoteStage {
  onFrame: (report: FrameReport) => void = () => undefined;
  onError: (message: string) => void = () => undefined;
  /** The worker has ended, or hangs: what it drew last is all that will ever be seen. Called once. */
  onDead: () => void = () => undefined;
  /** The graphics card was lost and is back: all is drawn again, but for colours of vertices that were painted since. */
  onRestored: () => void = () => undefined;
  private unanswered = 0;
  private readonly pulse: ReturnType<typeof setInterval>;
  compiles = 0;
  ready = false;
  private sent = 0;
  private shown = 0;
  private waiting: { tag: number; resolve: () => void }[] = [];
  private readonly known = new Set<string>();
  /** Keys of what was handed over and is let go of when it is not shown any more, and of all that the blend and its neighbours show now. */
  private readonly transient = new Set<string>();
  private shownKeys: { own: readonly KeysOf[]; others: readonly KeysOf[] } = { own: [], others: [] };
  private readonly questions = new Map<number, (account: Account) => void>();

  constructor(
    private readonly worker: Port & { terminate?(): void },
    canvas: HTMLCanvasElement,
    light: LightData,
    panes: Panes,
  ) {
    const offscreen = canvas.transferControlToOffscreen();
    worker.addEventListener('message', ({ data }: MessageEvent<FromStage>) => {
      this.unanswered = 0;
      if (data.type === 'pulse') return;
      if (data.type === 'restored') return this.onRestored();
      if (data.type === 'error') return this.onError(data.message);
      if (data.type === 'account') {
        this.questions.get(data.question)?.(data.account);
        return void this.questions.delete(data.question);
      }
      this.ready = true;
      this.compiles = data.compiles;
      this.onFrame(data.report);
      if (data.report.scale < 1 || data.report.pending) return;
      this.shown = data.report.tag;
      const done = this.waiting.filter((w) => w.tag <= this.shown);
      this.waiting = this.waiting.filter((w) => w.tag > this.shown);
      done.forEach((w) => w.resolve());
    });
    this.post({ type: 'open', canvas: offscreen, light, panes }, [offscreen]);
    this.pulse = setInterval(() => this.feel(), PULSE_MS);
  }

  /** Questions, not time: a page that slept asks again first. */
  private feel(): void {
    if (++this.unanswered > DEAD_AFTER) {
      clearInterval(this.pulse);
      return this.onDead();
    }
    this.worker.postMessage({ type: 'pulse' });
  }

  private post(message: ToStage, transfer: Transferable[] = []): void {
    this.worker.postMessage({ ...message, tag: ++this.sent }, transfer);
  }

  /** Resolves once a full frame shows everything asked for so far, with the program that is wanted. */
  settled(): Promise<void> {
    return new Promise((resolve) => {
      this.waiting.push({ tag: this.sent, resolve });
      this.draw();
    });
  }

  /** Hands a slot over. All but the heights of a surface that stays is moved, not copied: the page keeps what the section needs. */
  private provide({ key, packed, transient, patch }: Keyed<PackedSurface | PackedPicture>): string {
    if (this.known.has(key)) return key;
    this.known.add(key);
    const since = patch && this.since(patch);
    if (since) {
      this.transient.add(key);
      this.post({ type: 'patch', key, ...since });
      return key;
    }
    if (transient || !('colour' in packed)) this.transient.add(key);
    const moved =
      'colour' in packed && !transient
        ? [...packed.colour, ...packed.shape, ...packed.rare, ...(packed.glow ?? [])].map((l) => l.data.buffer as ArrayBuffer)
        : [];
    this.post({ type: 'surface', key, packed }, [...new Set(moved)]);
    return key;
  }

  /** All regions since one that has gone over; null where none has. */
  private since({ of, regions, kept, before }: Patch): Omit<Patch, 'before'> | null {
    if (this.known.has(of)) return { of, regions, kept };
    const earlier = before && this.since(before);
    return earlier ? { ...earlier, regions: [...earlier.regions, ...regions] } : null;
  }

  private provideAll(slots: KeyedSet): KeysOf {
    const keysOf = (list: readonly Keyed<PackedSurface | PackedPicture>[]) => list.map((slot) => this.provide(slot));
    return { surfaces: keysOf(slots.surfaces), masks: keysOf(slots.masks), ids: keysOf(slots.ids) };
  }

  /** As that of `Stage`. */
  setProgram({ program, ...request }: ProgramRequest<KeyedSet>): void {
    const keys = this.provideAll(request.slots);
    this.post({ type: 'program', request: { ...request, slots: keys }, program: toldProgram(program) });
    this.forget({ ...this.shownKeys, own: [keys] });
  }
  /** Pictures that are not shown any more are let go of, as every move of a brush makes another; surfaces that were moved stay, unless they only stood in. */
  private forget(shown: RemoteStage['shownKeys']): void {
    this.shownKeys = shown;
    const used = new Set([...shown.own, ...shown.others].flatMap((k) => [...k.surfaces, ...k.masks, ...k.ids]));
    const keys = [...this.transient].filter((key) => !used.has(key));
    for (const key of keys) for (const set of [this.transient, this.known]) set.delete(key);
    if (keys.length) this.post({ type: 'forget', keys });
  }
  /** Why a place looks as it does, worked out where the textures are. */
  account({ material, ...ask }: AccountRequest, slots: KeyedSet): Promise<Account> {
    const question = this.sent;
    const { key, values, layers } = material;
    const graph = this.graphs.get(key) ? null : this.graphs.set(key, material.far);
    return new Promise((resolve) => {
      this.questions.set(question, resolve);
      this.post({ type: 'account', question, ask: { ...ask, key, values, layers, graph }, keys: this.provideAll(slots) });
    });
  }
  private readonly graphs = new Recent<string, MaterialGraph>(MAX_GRAPHS);
  /** @param given the runs are handed over, not copied */
  setColours(of: 'specimen' | 'flat', runs: readonly ColourRun[], moving = false, given = false): void {
    this.post({ type: 'colours', of, runs, moving }, given ? runs.map((r) => r.colours.buffer as ArrayBuffer) : []);
  }
  setOthers(spans: readonly Span[] | null, others: readonly (Omit<Other, 'slots'> & { slots: KeyedSet })[]): void {
    const told = others.map(({ slots, ...of }) => ({ ...of, keys: this.provideAll(slots) }));
    this.post({ type: 'others', spans, others: told });
    this.forget({ ...this.shownKeys, others: told.map(({ keys }) => keys) });
  }
  /** As that of `Stage`. */
  setNow = (values: Values): void => this.post({ type: 'now', values });
  setValues = (values: Values): void => this.post({ type: 'values', values });
  setSpecimen = (mesh: Mesh, flat: Mesh): void => this.post({ type: 'specimen', mesh, flat });
  setSize = (width: number, height: number): void => this.post({ type: 'size', width, height });
  /** A look that is the same as before is no reason to draw. */
  setLook(look: StageLook, moving: boolean): void {
    const text = JSON.stringify(look);
    if (!moving && text === this.looked) return;
    this.looked = text;
    this.post({ type: 'look', look, moving });
  }
  private looked = '';
  setRelief = (position: Float32Array | null): void => this.post({ type: 'relief', position }, position ? [position.buffer as ArrayBuffer] : []);
  setLight = (light: LightData): void => this.post({ type: 'light', light });
  /** As that of `Stage`. */
  setTried(tried: Tried | null, picture: TriedPicture | null): void {
    if (tried && picture && tried.key !== this.triedKey) this.post({ type: 'picture', key: (this.triedKey = tried.key), picture });
    this.post({ type: 'tried', tried: picture && tried });
  }
  private triedKey = '';
  draw = (): void => this.post({ type: 'draw' });
  dispose(): void {
    clearInterval(this.pulse);
    this.post({ type: 'close' });
    this.worker.terminate?.();
  }
}

/** What a stage is told again when its graphics card was lost and is back, in this order; surfaces are remembered by themselves. */
const TOLD_AGAIN = ['open', 'size', 'light', 'specimen', 'relief', 'others', 'program', 'values', 'now', 'picture', 'tried', 'look'] as const;

/** Runs a stage at the other end: called once by the worker's script. */
export function hostStage(port: Port): void {
  let stage: Stage | null = null;
  let canvas: OffscreenCanvas | null = null;
  const slots = new Map<string, PackedSurface | PackedPicture>();
  const of = <T>(keys: readonly string[]) => keys.map((k) => slots.get(k) as T);
  const setOf = ({ surfaces, masks, ids }: KeysOf): PackedSet => ({ surfaces: of(surfaces), masks: of(masks), ids: of(ids) });
  const accountant = new Accountant();
  const graphs = new Recent<string, MaterialGraph>(MAX_GRAPHS);
  const say = (message: FromStage) => port.postMessage(message);
  /** The last of each thing that was said, for a graphics card that comes back knowing nothing. */
  const said = new Map<string, ToStage>();
  const open = ({ canvas: on, light, panes }: ToStage & { type: 'open' }) => {
    stage = new Stage(on, light);
    stage.panes = panes;
    stage.onFrame = (report) => say({ type: 'frame', report, compiles: stage?.compiles ?? 0 });
    stage.onError = (message) => say({ type: 'error', message });
  };
  const restore = (): void => {
    const tag = stage?.tag ?? 0;
    stage?.end();
    for (const kind of TOLD_AGAIN) {
      const data = said.get(kind);
      if (data?.type === 'open') open(data);
      else if (data) handle(data);
    }
    if (stage) stage.tag = tag;
    say({ type: 'restored' });
    stage?.draw();
  };
  const handle = (data: ToStage): void => {
    if (data.type === 'open') {
      canvas = data.canvas;
      open(data);
      canvas.addEventListener('webglcontextlost', (event) => event.preventDefault());
      canvas.addEventListener('webglcontextrestored', restore);
    } else if (!stage) return;
    else if (data.type === 'size') {
      stage.setSize(data.width, data.height);
    } else if (data.type === 'surface') slots.set(data.key, data.packed);
    else if (data.type === 'patch') slots.set(data.key, patchedPicture(slots.get(data.of) as PackedPicture, data.regions, data.kept));
    else if (data.type === 'forget') data.keys.forEach((key) => slots.delete(key));
    else if (data.type === 'program') {
      stage.setProgram({ ...data.request, program: heardProgram(data.program), slots: setOf(data.request.slots) });
    } else if (data.type === 'colours') stage.setColours(data.of, data.runs, data.moving);
    else if (data.type === 'values') stage.setValues(data.values);
    else if (data.type === 'now') stage.setNow(data.values);
    else if (data.type === 'others')
      stage.setOthers(
        data.spans,
        data.others.map(({ keys, ...of }) => ({ ...of, slots: setOf(keys) })),
      );
    else if (data.type === 'relief') stage.setRelief(data.position);
    else if (data.type === 'light') stage.setLight(data.light);
    else if (data.type === 'picture') stage.setTriedPicture(data.key, data.picture);
    else if (data.type === 'tried') stage.setTried(data.tried);
    else if (data.type === 'specimen') stage.setSpecimen(data.mesh, data.flat);
    else if (data.type === 'look') {
      stage.look = data.look;
      if (data.moving) stage.moved();
      else stage.draw();
    } else if (data.type === 'account') {
      const { key, values, layers, places, footprint, graph } = data.ask;
      const far = graph ? graphs.set(key, graph) : graphs.get(key);
      if (!far) throw new Error('Why this place looks so cannot be told any more. Click it again');
      const [account] = accountant.at({ key, values, layers, far }, sourcesOfPacked(setOf(data.keys)), places, footprint);
      say({ type: 'account', question: data.question, account });
    } else if (data.type === 'draw') stage.draw();
    else stage.dispose();
  };
  port.addEventListener('message', ({ data }: MessageEvent<(ToStage & { tag: number }) | { type: 'pulse' }>) => {
    if (data.type === 'pulse') return say({ type: 'pulse' });
    try {
      said.set(data.type, data);
      handle(data);
      if (stage) stage.tag = data.tag;
    } catch (error) {
      say({ type: 'error', message: (error as Error).message });
    }
  });
}
