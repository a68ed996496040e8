import { Injectable, computed, inject, signal } from '@angular/core';
import type { BlendDocument, Mesh, Stack, Standing } from '@pebble/core';
import {
  MOST_SKY_VERTICES,
  SPECIMENS,
  SPECIMEN_MODELS,
  SPECIMEN_TITLES,
  SpreadGround,
  boundsOf,
  inOrder,
  isSpecimenName,
  makeSpecimen,
  partNames,
  readsGround,
  specimenMesh,
  vertexSpacing,
  withGround,
} from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { MeshService } from '../../services/mesh.service';
import { NoticesService } from '../../services/notices.service';
import { BroughtIn } from './brought-in';
import { PaintedColours } from './painted-colours';

/** Vertices that are looked at between two words about how far it is. */
const AT_ONCE = 1024;
/** Meshes whose bend and sky are remembered. */
const KEPT = 6;

/** What the open blend lies on: the mesh, its parts, and what it knows of its places once a coverage asks. */
@Injectable()
export class StageSpecimen {
  private readonly documents = inject(DocumentsService);
  private readonly brought = inject(BroughtIn);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  private readonly painted = inject(PaintedColours);
  private readonly asked = signal({ name: 'patch', extentM: 1 }, { equal: (a, b) => a.name === b.name && a.extentM === b.extentM });
  private readonly wanted = signal({ bend: false, sky: false }, { equal: (a, b) => a.bend === b.bend && a.sky === b.sky });
  private readonly known = signal<ReadonlyMap<string, Float32Array>>(new Map());
  private running = '';
  /** How far the look at the sky is, 0–1; null when none is under way. */
  readonly progress = signal<number | null>(null);

  readonly list = computed<{ id: string; name: string }[]>(() => [
    ...SPECIMENS.map((id) => ({ id, name: SPECIMEN_TITLES[id] })),
    ...this.brought.list().map(({ id, body }) => ({ id, name: body.name })),
  ]);
  /** One of our own, made once for the mesh and the names of its parts. */
  private readonly own = computed(() => {
    const { name, extentM } = this.asked();
    return isSpecimenName(name) ? { name, extentM, model: SPECIMEN_MODELS[name](extentM) } : null;
  });
  /** As it came; another stands in for one that is still read. */
  private readonly came = computed<{ mesh: Mesh; itself: boolean }>(() => {
    const own = this.own();
    if (own) return { mesh: specimenMesh(own.name, own.model, own.extentM), itself: true };
    const { name, extentM } = this.asked();
    const mesh = this.brought.mesh(name, extentM);
    return mesh ? { mesh, itself: true } : { mesh: makeSpecimen('patch', extentM), itself: false };
  });
  private readonly bare = computed<Mesh>(() => this.painted.mesh() ?? this.came().mesh);
  /** Tell one mesh from another by what it is made of. */
  private readonly keyOf = (mesh: Mesh): string => {
    const { name, extentM } = this.asked();
    return `${name}:${isSpecimenName(name) ? extentM : ''}:${mesh.position.length}`;
  };
  private readonly cameKey = computed(() => this.keyOf(this.came().mesh));
  private readonly key = computed(() => this.keyOf(this.bare()));
  /** The mesh with what is known of its places, in the colours that it came with. */
  readonly form = computed<Mesh>(() => {
    const [{ bend, sky }, known, key] = [this.wanted(), this.known(), this.key()];
    const curvature = (bend ? known.get(`bend ${key}`) : null) ?? null;
    const open = (sky ? known.get(`sky ${key}`) : null) ?? null;
    return curvature || open ? withGround(this.bare(), curvature, open) : this.bare();
  });
  readonly mesh = computed<Mesh>(() => ({ ...this.form(), geomcolor: this.painted.colours() }));
  private readonly spread = computed(() => new SpreadGround(this.form()));
  /** What lies where in texture space. */
  readonly ground = computed(() => new SpreadGround(this.mesh(), this.spread()));
  readonly parts = computed<readonly string[]>(() => {
    const own = this.own();
    if (own) return partNames(own.model);
    const body = this.documents.body(this.asked().name, 'specimen');
    return body ? inOrder(body.parts).flatMap((p) => (p.level === 0 ? [p.name] : [])) : [];
  });
  readonly bounds = computed(() => boundsOf(this.bare()));
  readonly standing = computed<Standing>(() => ({ groundM: this.bounds().lo[1], parts: this.parts() }));
  readonly vertices = computed(() => ({ count: this.bare().position.length / 3, spacingM: vertexSpacing(this.bare()) }));
  /** What cannot be worked out here, for people; null when nothing is wrong. */
  readonly refusal = computed(() =>
    this.wanted().sky && this.vertices().count > MOST_SKY_VERTICES
      ? `Occlusion is worked out for up to ${MOST_SKY_VERTICES.toLocaleString('en')} vertices; this one has ${this.vertices().count.toLocaleString('en')}. All the sky counts as open`
      : null,
  );

  /** Takes up what a blend lies on and what its coverages ask of it. Called within an effect. */
  follow(blend: BlendDocument | undefined | null, stack: Stack | null): void {
    if (blend) {
      this.asked.set({ name: blend.specimen, extentM: blend.extentM });
      const { mesh, itself } = this.came();
      this.painted.follow(mesh, this.cameKey(), itself ? (blend.paint?.[blend.specimen] ?? null) : null);
    }
    if (stack) this.wanted.set(readsGround(stack));
    const key = this.key();
    const { bend, sky } = this.wanted();
    const lacks = { bend: bend && !this.known().has(`bend ${key}`), sky: sky && !this.refusal() && !this.known().has(`sky ${key}`) };
    const run = `${key} ${lacks.bend} ${lacks.sky}`;
    if ((!lacks.bend && !lacks.sky) || this.running === run) return;
    void this.learn(run, key, this.bare(), lacks);
  }

  /** Stops looking; what depends on it stays as it is. */
  cancel(): void {
    this.running = '';
    this.progress.set(null);
  }

  private async learn(run: string, key: string, { position, normal, index }: Mesh, lacks: { bend: boolean; sky: boolean }): Promise<void> {
    this.running = run;
    const count = position.length / 3;
    const keep = (name: string, values: Float32Array) => this.known.update((m) => new Map([...[...m].slice(1 - KEPT), [`${name} ${key}`, values]]));
    try {
      const curvature = await this.meshes.run('ground', { key, mesh: { position, normal, index }, sky: lacks.sky });
      if (lacks.bend) keep('bend', curvature);
      if (!lacks.sky) return;
      const sky = new Float32Array(count);
      for (let i = 0; i < count; i += AT_ONCE) {
        if (this.running !== run) return;
        this.progress.set(i / count);
        sky.set(await this.meshes.run('sky', { key, range: [i, Math.min(count, i + AT_ONCE)] }), i);
      }
      keep('sky', sky);
    } catch (error) {
      this.notices.error(error);
    } finally {
      if (this.running === run) this.cancel();
    }
  }
}
