import { Injectable, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import type { BlendDocument, GraphContext, LoweredMaster, MasterDocument, Material, ParameterContent } from '@pebble/core';
import {
  MasterMaterials,
  asVariant,
  masterKey,
  mastersWithin,
  materialOf,
  nextVariant,
  optimise,
  probedGraph,
  reached,
  readsOf,
  shownChannel,
  shownGraph,
  lookedUp,
  setInVariant,
  stepValue,
} from '@pebble/core';
import { blendSurfaces } from '@pebble/usecases';
import { DocumentsService } from '../../services/documents.service';
import { PagePrograms } from '../../services/page-programs.service';
import { materialFeed, wantPixels } from '../../stage/material-feed';
import { runtimeBytes } from '../../stage/runtime-bytes';
import type { StageSource } from '../../stage/stage-source';
import { StageSpecimen } from '../../stage/stage-specimen';

/** What is looked at: the whole, what the chosen step gives, or where it reaches. */
export type Shows = 'result' | 'step' | 'probe';

/** Everything that the stage is given of the open master, and the ways in which it is edited. */
@Injectable()
export class MasterModel implements StageSource {
  private readonly documents = inject(DocumentsService);
  private readonly specimen = inject(StageSpecimen);
  readonly id = signal<string | null>(null);
  private readonly allSurfaces = this.documents.list('surface');
  private readonly allBlends = this.documents.list('blend');
  private readonly allMasters = this.documents.list('master');

  readonly master = computed(() => this.documents.body(this.id(), 'master'));
  readonly body = computed(() => this.master() ?? null);
  /** The variant that is looked at and turned; null for what all of them inherit. */
  readonly variant = linkedSignal<string | null, string | null>({ source: this.id, computation: () => null });
  /** The variant that is there: one that was removed is none. */
  readonly chosen = computed(() => {
    const [variant, master] = [this.variant(), this.master()];
    return variant && master?.variants[variant] ? variant : null;
  });
  /** To the variant before or after, what all inherit standing before the first. */
  goVariant(by: 1 | -1): void {
    const master = this.master();
    if (master) this.variant.set(nextVariant(master, this.chosen(), by));
  }
  /** The master as the variant that is looked at. */
  readonly effective = computed(() => {
    const master = this.master();
    return master && asVariant(master, this.chosen());
  });
  readonly surfaces = computed(() => Object.fromEntries(this.allSurfaces().map((s) => [s.id, s.body])));
  readonly blends = computed<Record<string, BlendDocument>>(() => Object.fromEntries(this.allBlends().map((b) => [b.id, b.body])));
  readonly known = computed(() => blendSurfaces(this.surfaces()));
  /** All masters but the open one, and those that are made of it: what may be an operation of it. */
  readonly usable = computed(() => {
    const id = this.id();
    const all = Object.fromEntries(this.allMasters().map((m) => [m.id, m.body]));
    return this.allMasters().filter((m) => m.id !== id && !(id && mastersWithin(all[m.id], all).has(id)));
  });
  /** Masters that the open one is made of. */
  private readonly masters = computed(
    () => {
      const all = Object.fromEntries(this.allMasters().map((m) => [m.id, m.body]));
      const master = this.master();
      return master ? Object.fromEntries([...mastersWithin(master, all)].map((id) => [id, all[id]])) : {};
    },
    // The open one changes with every step; those within it seldom.
    { equal: (a, b) => Object.keys(a).length === Object.keys(b).length && Object.keys(a).every((id) => a[id] === b[id]) },
  );
  readonly context = computed<GraphContext>(() => ({ surfaces: this.known(), blends: this.blends(), masters: this.masters() }));
  readonly nameOf = (id: string): string => this.surfaces()[id]?.name ?? this.blends()[id]?.name ?? id;

  readonly shows = signal<Shows>('result');
  /** The output that is looked at, where it is not the whole. */
  readonly looked = signal<{ operation: string; port: string } | null>(null);

  private readonly materials = new MasterMaterials();
  readonly lowered = computed<LoweredMaster | null>(() => {
    const master = this.effective();
    return master ? this.materials.lowering(master, this.context(), true) : null;
  });
  /** The last material without a mistake: while one stands in the way of a picture, the last good one stays. */
  private good: Material | null = null;
  private goodId = '';
  readonly material = computed<Material | null>(() => {
    const [master, lowered] = [this.effective(), this.lowered()];
    if (!master || !lowered) return null;
    const id = this.id() as string;
    if (lowered.error && this.good && this.goodId === id) return this.good;
    const [shows, looked] = [this.shows(), this.looked()];
    const key = masterKey(master, this.context());
    const made = this.standIn(key, lowered, master, shows, looked);
    if (!lowered.error) [this.good, this.goodId] = [made, id];
    return made;
  });

  private readonly graphs = new WeakMap<LoweredMaster, Map<string, LoweredMaster['far']>>();
  /** The material, or what stands in for it while a step is looked at; the same graph while it is the same step. */
  private standIn(
    key: string,
    lowered: LoweredMaster,
    master: MasterDocument,
    shows: Shows,
    looked: { operation: string; port: string } | null,
  ): Material {
    const value = looked && shows !== 'result' ? stepValue(lowered, looked.operation, looked.port) : null;
    if (!value || !looked) return materialOf(key, lowered, master, this.context());
    const name = `${shows} ${looked.operation} ${looked.port}`;
    const known = this.graphs.get(lowered) ?? new Map<string, LoweredMaster['far']>();
    this.graphs.set(lowered, known);
    const graph = known.get(name) ?? (shows === 'probe' ? probedGraph(lowered.far, value) : shownGraph(lowered.far, value));
    known.set(name, graph);
    // What no output needs is part of it now.
    const whole = masterKey(master, this.context(), new Set([...reached(master), ...Object.keys(master.operations)]));
    return materialOf(`${whole}\n${name}`, lowered, master, this.context(), graph);
  }
  /** The channel in which a step is seen as it is. */
  readonly stepChannel = computed(() => {
    const [lowered, looked] = [this.lowered(), this.looked()];
    const value = lowered && looked ? stepValue(lowered, looked.operation, looked.port) : null;
    return value ? shownChannel(value) : 'lit';
  });

  private readonly feed = materialFeed(this.material, () => untracked(this.material));
  readonly shaped = this.feed.shaped;
  readonly values = this.feed.values;
  readonly parallax = this.feed.parallax;
  readonly program = this.feed.program;
  readonly slots = this.feed.slots;
  readonly shown = this.feed.shown;
  readonly sources = this.feed.sources;
  /** Of the whole, whatever is looked at. */
  readonly bytes = runtimeBytes(() => {
    const lowered = this.lowered();
    return lowered && { reads: readsOf(optimise(lowered.far.outputs).outputs), slots: lookedUp(lowered) };
  }, this.surfaces);
  readonly programs = inject(PagePrograms);
  readonly beside = signal<readonly Material[]>([]);

  constructor() {
    wantPixels(this.material, this.beside, this.surfaces);
    effect(() => {
      const { material } = this.shaped();
      this.specimen.follow(this.id(), this.body(), material ? [material.reads] : []);
    });
  }

  draft(change: (d: MasterDocument) => void): void {
    const id = this.id();
    if (id) this.documents.draft(id, 'master', change);
  }
  commit(label: string): void {
    const id = this.id();
    if (id) this.documents.commit(id, label);
  }
  edit(label: string, change: (d: MasterDocument) => void): void {
    this.draft(change);
    this.commit(label);
  }
  /** Changes what a parameter holds: in the variant that is chosen, or for all that inherit it. */
  holds(id: string, change: (holds: ParameterContent) => void): void {
    const variant = this.chosen();
    this.draft((d) => {
      const { holds } = asVariant(d, variant).parameters[id];
      const own = structuredClone(holds);
      change(own);
      if (variant) setInVariant(d, variant, id, own);
      else d.parameters[id].holds = own;
    });
  }
  /** What an edit of it is called: where it counts is part of that. */
  called(what: string): string {
    const variant = this.chosen();
    return variant ? `${what} in ${this.master()?.variants[variant].name ?? ''}` : what;
  }
  lookOn(specimen: string, called: string): void {
    this.edit(`Look at it on: ${called}`, (d) => void (d.specimen = specimen));
  }
}
