import { Injectable, computed, inject, signal } from '@angular/core';
import type { BlendDocument, Coverage, Cue, CueKind, CuePath, WeatheringName } from '@pebble/core';
import { beginsWithin, between, coveragePath, cueKind, inOrder, makeCue, weatheringCoverage } from '@pebble/core';
import { StageSpecimen } from '../../stage/stage-specimen';
import { BlendModel } from './blend-model';
import { nameFrom } from '../../ui/name';
import { newKey } from '../../ui/new';

/** The coverage that the sentence shows and edits: that of a group, one that layers share, or the chosen layer's own. */
@Injectable()
export class CoverageTarget {
  private readonly model = inject(BlendModel);
  private readonly on = inject(StageSpecimen);
  /** A group whose coverage is shown instead of the layer's. */
  readonly groupId = signal<string | null>(null);

  private readonly group = computed(() => {
    const [id, blend] = [this.groupId(), this.model.blend()];
    return id !== null && blend?.groups[id] ? blend.groups[id] : null;
  });
  readonly isGroup = computed(() => this.group() !== null);
  readonly shared = computed(() => {
    const id = this.model.selected()?.shared;
    const named = id !== null && id !== undefined ? this.model.blend()?.coverages[id] : undefined;
    return named && !this.isGroup() ? { id: id as string, name: named.name } : null;
  });
  /** Layers that a change of the coverage changes, when it is shared. */
  readonly sharers = computed(() => {
    const id = this.shared()?.id;
    return id === undefined ? [] : this.model.layers().flatMap((l) => (l.shared === id ? [l.name] : []));
  });
  readonly name = computed(() => this.group()?.name ?? this.model.selected()?.name ?? '');
  readonly coverage = computed<Coverage>(() => {
    const blend = this.model.blend();
    return (blend && this.within(blend)) ?? {};
  });
  readonly cues = computed(() => inOrder(this.coverage()));

  /** Where it stands in the blend; null while nothing is chosen. */
  readonly path = computed<Omit<CuePath, 'cue'> | null>(() => {
    if (this.isGroup()) return { of: 'groups', id: this.groupId() as string };
    const [blend, id, layer] = [this.model.blend(), this.model.selectedId(), this.model.selected()];
    return blend && id && layer ? coveragePath(blend, id, layer) : null;
  });
  /** The coverage inside a document. */
  within(d: BlendDocument): Coverage | undefined {
    const path = this.path();
    return path ? d[path.of][path.id]?.coverage : undefined;
  }

  draft(change: (coverage: Coverage) => void): void {
    this.model.draft((d) => {
      const coverage = this.within(d);
      if (coverage) change(coverage);
    });
  }
  commit(what: string): void {
    const shared = this.shared();
    this.model.commit(shared ? `${shared.name}, on ${this.sharers().join(', ')}: ${what}` : `${this.name()}: ${what}`);
  }
  edit(what: string, change: (coverage: Coverage) => void): void {
    this.draft(change);
    this.commit(what);
  }

  draftCue(id: string, change: (cue: Cue) => void): void {
    this.draft((c) => {
      if (c[id]) change(c[id]);
    });
  }
  setCue(id: string, what: string, change: (cue: Cue) => void): void {
    this.draftCue(id, change);
    this.commit(what);
  }
  /** A new cue, where it changes something on what the blend is looked at on. */
  private begun(kind: CueKind): Cue {
    return beginsWithin(makeCue(kind), this.on.mesh(), this.model.blend()?.standsAtM ?? 0);
  }
  private readonly last = (coverage: Coverage): number => inOrder(coverage).at(-1)?.order ?? 0;

  add(kind: CueKind, over: Partial<Cue> = {}): string {
    const key = newKey();
    this.edit(`add ${cueKind(kind).title}`, (c) => (c[key] = { ...this.begun(kind), ...over, order: this.last(c) + 1 } as Cue));
    return key;
  }
  addWeathering(name: WeatheringName, title: string): void {
    this.edit(`add ${title}`, (c) => {
      const made = weatheringCoverage(name);
      for (const { id } of inOrder(made)) c[newKey()] = { ...made[id], order: this.last(c) + 1 };
    });
  }
  /** Another kind of cue in its place: what joins it, and how much it counts, stays. */
  become(id: string, kind: CueKind): void {
    this.edit(`look at ${cueKind(kind).title} instead`, (c) => {
      const { order, join, amount } = c[id];
      c[id] = { ...this.begun(kind), order, join, amount };
    });
  }
  remove = (id: string): void => this.edit('remove a cue', (c) => void delete c[id]);

  /** Moves a cue among the others; indices count from the first. */
  move(from: number, to: number): void {
    const list = this.cues();
    if (from === to || to < 0 || to >= list.length) return;
    const { id } = list[from];
    const others = list.filter((c) => c.id !== id);
    this.edit('order of cues', (c) => (c[id].order = between(others[to - 1]?.order, others[to]?.order)));
  }
  /** A whole other coverage. */
  replace(coverage: Coverage): void {
    this.edit('another sentence', (c) => {
      for (const id of Object.keys(c)) delete c[id];
      Object.assign(c, coverage);
    });
  }

  /** Gives the coverage of the chosen layer a name, so that other layers can share it. */
  nameIt(text: string): void {
    const [id, name] = [this.model.selectedId(), nameFrom(text, 80)];
    if (!id || !name) return;
    const key = newKey();
    this.model.edit(`Name a coverage: ${name}`, (d) => {
      d.coverages[key] = { name, coverage: structuredClone(d.layers[id].coverage) };
      d.layers[id].shared = key;
    });
  }
  /** Shares a named coverage, or goes back to one of the layer's own that starts as the shared one was. */
  share(key: string | null): void {
    const id = this.model.selectedId();
    if (!id) return;
    this.model.edit(key === null ? `${this.name()}: a coverage of its own` : `${this.name()}: share a coverage`, (d) => {
      const layer = d.layers[id];
      if (key === null && layer.shared !== null && d.coverages[layer.shared]) layer.coverage = structuredClone(d.coverages[layer.shared].coverage);
      layer.shared = key;
    });
  }
}
