import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import { clipMatrix, eyeOf } from '@pebble/core';
import { vec4 } from 'gl-matrix';
import { MeshService } from '../../../services/mesh.service';
import { Accounts } from '../../../stage/accounts';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { Latest } from '../../../ui/latest';
import type { Traced } from '../../../workers/mesh-protocol';
import { BlendModel } from '../blend-model';
import { alongCut } from './stage-cut';
import { keep, kept } from '../../../ui/keep';

const KEPT = 'pebble-marks';
/** How far the flat's ground is known, in extents around the first one. */
const KNOWN = [-1, 2] as const;
const inFirst = (v: number): number => v - Math.floor(v);

/** A mark on the picture, in pixels. */
export interface Mark {
  x: number;
  y: number;
  /** Number of the account; null for where the pointer is. */
  number: number | null;
}

/** What flat and section point at, drawn on the specimen too, and what the pointer is at on the specimen for them. */
@Injectable()
export class SpecimenMarks {
  private readonly model = inject(BlendModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly scene = inject(StageScene);
  private readonly accounts = inject(Accounts);
  private readonly meshes = inject(MeshService);
  /** Whether the cut and marks are drawn over the specimen. */
  readonly shown = signal(kept(KEPT) !== 'no');
  /** The pointer is over the specimen. */
  readonly pointing = signal(false);
  /** Handing a large mesh over takes time that nobody pays who neither sees marks nor points. */
  private readonly wanted = signal(false);
  private readonly key = signal('');
  private stood = 0;
  private readonly found = signal<Traced | null>(null);
  /** What fails here is said by who draws the specimen. */
  private readonly tracing = new Latest<Traced | null>(
    (traced) => this.found.set(traced),
    () => this.found.set(null),
  );
  private readonly looking = new Latest<[number, number] | null>(
    (at) => this.point(at),
    () => this.point(null),
  );

  /** Places of texture space that are marked: of the accounts, and last where the pointer is. */
  private readonly places = computed(() => {
    const accounts = this.accounts.shown().map(({ places }) => [places.texcoord[0], places.texcoord[1]] as const);
    const [cut, along, at] = [this.model.cut(), this.model.along(), this.model.pointer()];
    // On the specimen itself the pointer is seen.
    if (this.pointing()) return accounts;
    if (along !== null && cut) return [...accounts, [cut.ax + (cut.bx - cut.ax) * along, cut.ay + (cut.by - cut.ay) * along] as const];
    return at ? [...accounts, [at.u, at.v] as const] : accounts;
  });

  constructor() {
    effect(() => keep(KEPT, this.shown() ? 'yes' : 'no'));
    effect(() => this.shown() && this.wanted.set(true));
    effect(() => {
      const { position, texcoord, index } = this.specimen.form();
      if (!this.wanted() || !this.specimen.itself() || !this.scene.seen()) return;
      const own = this.specimen.worn().index;
      const key = `${++this.stood}`;
      this.found.set(null);
      void this.meshes.run('stand', { key, mesh: { position, texcoord, index }, own }).then(
        () => key === `${this.stood}` && this.key.set(key),
        () => undefined,
      );
    });
    effect(() => {
      const [key, cut, places, eye] = [this.key(), this.model.cut(), this.places(), this.scene.eye()];
      if (!key || !this.shown()) return untracked(() => this.found.set(null));
      const [x, y, z] = eyeOf(eye);
      const line = cut ? ([cut.ax, cut.ay, cut.bx, cut.by] as const) : null;
      this.tracing.ask(() => this.meshes.run('trace', { key, line, places, eye: [x, y, z] }));
    });
  }

  /** From metres to pixels of the pane as it is seen now; null behind the eye. */
  private readonly seen = computed(() => {
    const { width, height } = this.scene.size();
    const pane = width * this.scene.split;
    const matrix = clipMatrix(this.scene.eye(), pane / Math.max(1, height));
    const point = vec4.create();
    return (x: number, y: number, z: number): [number, number] | null => {
      vec4.transformMat4(point, [x, y, z, 1], matrix);
      return point[3] > 0 ? [((point[0] / point[3] + 1) / 2) * pane, ((1 - point[1] / point[3]) / 2) * height] : null;
    };
  });
  /** The cut as far as it is seen, as the path of an SVG. */
  readonly cut = computed(() => {
    const [traced, to] = [this.found(), this.seen()];
    if (!traced) return '';
    const { ends, seen } = traced;
    let path = '';
    let last = '';
    for (let i = 0; i < seen.length; i++) {
      if (!seen[i]) continue;
      const [a, b] = [0, 3].map((k) =>
        to(ends[i * 6 + k], ends[i * 6 + k + 1], ends[i * 6 + k + 2])
          ?.map((v) => v.toFixed(1))
          .join(' '),
      );
      if (!a || !b) continue;
      path += `${a === last ? '' : `M${a}`}L${b}`;
      last = b;
    }
    return path;
  });
  readonly marks = computed<Mark[]>(() => {
    const [traced, to, accounts] = [this.found(), this.seen(), this.accounts.shown().length];
    return (traced?.places ?? []).flatMap((place, i) => {
      const at = place?.seen ? to(...place.at) : null;
      return at ? [{ x: at[0], y: at[1], number: i < accounts ? i + 1 : null }] : [];
    });
  });

  /** The pointer moves over the specimen. @param x and `y` in shares of its pane */
  hover(x: number, y: number): void {
    const key = this.key();
    this.wanted.set(true);
    this.pointing.set(true);
    const { width, height } = this.scene.size();
    const [orbit, aspect] = [this.scene.eye(), (width * this.scene.split) / Math.max(1, height)];
    if (key) this.looking.ask(() => this.meshes.run('under', { key, orbit, aspect, x, y }));
  }
  leave(): void {
    this.pointing.set(false);
    this.point(null);
  }
  private point(at: readonly [number, number] | null): void {
    // An answer that comes after the pointer left says nothing.
    if (!at || !this.pointing()) {
      if (at) return;
      this.model.pointer.set(null);
      return this.model.along.set(null);
    }
    const known = at.every((v) => v >= KNOWN[0] && v <= KNOWN[1]);
    const [u, v] = known ? at : at.map(inFirst);
    this.model.pointer.set({ u, v });
    const cut = this.model.cut();
    this.model.along.set(alongCut(cut, u, v) ?? alongCut(cut, inFirst(u), inFirst(v)));
  }
}
