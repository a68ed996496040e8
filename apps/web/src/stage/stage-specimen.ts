import { Injectable, computed, inject, signal } from '@angular/core';
import type {
  BlendDocument,
  Mesh,
  Ground,
  MaterialReads,
  MeshPart,
  MeshPlace,
  SlotLaying,
  SlottedMesh,
  Span,
  Standing,
  TerrainFacts,
} from '@pebble/core';
import {
  FLAT_GROUND,
  MAX_SKY_VERTICES,
  SPECIMENS,
  SPECIMEN_MODELS,
  SPECIMEN_TITLES,
  SpreadGround,
  boundsOf,
  finerSpans,
  inOrder,
  isSpecimenName,
  largestSlot,
  makeSpecimen,
  partNames,
  partOf,
  placeName,
  partPlaces,
  specimenMesh,
  specimenSlots,
  vertexSpacing,
  withMeshFacts,
  withPlace,
  withSpans,
} from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import { AssetModel } from './asset-model';
import { BroughtIn } from './brought-in';
import { PaintedColours } from './painted-colours';

interface Asked {
  name: string;
  extentM: number;
  /** How each slot of an asset is laid; null where one blend lies on all of it. */
  lays: Record<string, SlotLaying> | null;
  /** Slots of the asset that the open blend sits on. */
  own: string[];
}
const SAME_MESH = { equal: (a: { mesh: Mesh; itself: boolean }, b: { mesh: Mesh; itself: boolean }) => a.mesh === b.mesh && a.itself === b.itself };
/** Vertices that are looked at between two words about how far it is. */
const AT_ONCE = 1024;
/** Meshes whose bend and sky are remembered. */
const MAX_KNOWN = 6;
/** How the plane without a mesh is called. */
export const EXTENT = 'over the extent';

/** What the open blend lies on: the mesh, its parts, and what it knows of its places once a coverage asks. */
@Injectable()
export class StageSpecimen {
  private readonly documents = inject(DocumentsService);
  private readonly brought = inject(BroughtIn);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  private readonly painted = inject(PaintedColours);
  private readonly assets = inject(AssetModel);
  private readonly asked = signal<Asked>(
    { name: 'patch', extentM: 1, lays: null, own: [] },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
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
  private readonly standsIn = computed(() => makeSpecimen('patch', this.asked().extentM));
  /** As it came; another stands in for one that is still read. Edits of documents do not make it another. */
  private readonly came = computed<{ mesh: Mesh; itself: boolean; spans: SlottedMesh['spans'] | null }>(() => {
    const own = this.own();
    const { name, extentM, lays } = this.asked();
    const usual: SlotLaying = { set: 0, by: extentM, in: 'metres' };
    if (own && lays) return { ...specimenSlots(own.name, own.model, own.extentM, (slot) => lays[slot] ?? usual), itself: true };
    if (own) return { mesh: specimenMesh(own.name, own.model, own.extentM), itself: true, spans: null };
    const slotted = lays ? this.brought.slotted(name, lays) : null;
    if (slotted) return { ...slotted, itself: true };
    const mesh = lays ? null : this.brought.mesh(name, extentM);
    return mesh ? { mesh, itself: true, spans: null } : { mesh: this.standsIn(), itself: false, spans: null };
  }, SAME_MESH);
  /** Whether it is the mesh that was asked for, and not one that stands in for it. */
  readonly itself = computed(() => this.came().itself);
  /** Which triangles of the mesh belong to which slot; null where one blend lies on all of it. */
  readonly spans = computed<Record<string, Span[]> | null>(() => {
    const { spans } = this.came();
    const times = this.painted.finerTimes();
    return spans && Object.fromEntries(Object.entries(spans).map(([slot, list]) => [slot, finerSpans(list, times)]));
  });
  /** Triangles that the open blend lies on; null all of them. */
  readonly ownSpans = computed<Span[] | null>(() => {
    const [spans, { own }] = [this.spans(), this.asked()];
    return spans && own.flatMap((slot) => spans[slot] ?? []);
  });
  private readonly bare = computed<Mesh>(() => this.painted.mesh() ?? this.came().mesh);
  /** Tell one mesh from another by what it is made of. */
  private readonly keyOf = (mesh: Mesh): string => {
    const { name, extentM, lays } = this.asked();
    return `${name}:${isSpecimenName(name) ? extentM : ''}:${mesh.position.length}:${lays ? JSON.stringify(lays) : ''}`;
  };
  private readonly cameKey = computed(() => this.keyOf(this.came().mesh));
  private readonly key = computed(() => this.keyOf(this.bare()));
  /** The mesh with what is known of its places, in the colours that it came with. */
  readonly form = computed<Mesh>(() => {
    // What was found out stays: a mesh that changed with every switch of a layer would be handed over each time.
    const [known, key] = [this.known(), this.key()];
    const curvature = known.get(`bend ${key}`) ?? null;
    const open = known.get(`sky ${key}`) ?? null;
    return curvature || open ? withMeshFacts(this.bare(), curvature, open) : this.bare();
  });
  readonly mesh = computed<Mesh>(() => ({ ...this.form(), geomcolor: this.painted.colours() }));
  /** As far as the open blend lies on it. */
  readonly ownMesh = computed<Mesh>(() => {
    const [mesh, spans] = [this.mesh(), this.ownSpans()];
    return spans ? withSpans(mesh, spans) : mesh;
  });
  /** Names and slots of its parts, by number. */
  private readonly meshParts = computed<readonly MeshPart[]>(() => this.parts().map((name, i) => ({ name, slot: this.partSlots()[i] ?? name })));
  /** Places by name that flat and section can show: slots that the open blend lies on, and their parts. */
  readonly places = computed<readonly MeshPlace[]>(() => {
    const [{ lays, own }, all] = [this.asked(), partPlaces(this.meshParts())];
    return lays ? all.filter((p) => own.includes(p.slot)) : all;
  });
  /** Name of what was chosen or pointed at last. */
  private readonly picked = signal<string | null>(null);
  /** The place that flat, section and account show; null over the extent, where no mesh is. */
  readonly place = computed<MeshPlace | null>(() =>
    this.picked() === EXTENT ? null : (this.places().find((p) => placeName(p) === this.picked()) ?? this.largest()),
  );
  /** What is shown before somebody chooses. */
  private readonly largest = computed<MeshPlace | null>(() => {
    const [places, parts, spans] = [this.places(), this.meshParts(), this.ownSpans()];
    if (places.length < 2) return places.at(0) ?? null;
    const { slot } = largestSlot(spans ? withSpans(this.bare(), spans) : this.bare(), parts);
    return places.find((p) => p.slot === slot) ?? places[0];
  });
  /** How it is called. */
  readonly placeText = computed(() => {
    const place = this.place();
    return place ? placeName(place) : EXTENT;
  });
  pick = (name: string): void => this.picked.set(name);
  /** Shows the place that was pointed at on the specimen. */
  pointedAt(triangle: number): void {
    const { index } = this.form();
    const [shown, part] = [this.place(), this.meshParts().at(partOf(this.form(), index[triangle * 3]))];
    // What is shown over the extent stays there; whoever looks at a part by itself goes on with parts.
    if (!shown || !part) return;
    const name = placeName(shown.part === undefined ? { slot: part.slot } : { slot: part.slot, part: part.name });
    const place = this.places().find((p) => placeName(p) === name) ?? this.places().find((p) => p.slot === part.slot);
    if (place) this.picked.set(placeName(place));
  }
  private placed(mesh: Mesh): Mesh {
    const [place, spans, parts] = [this.place(), this.ownSpans(), this.meshParts()];
    const own = spans ? withSpans(mesh, spans) : mesh;
    return place && partPlaces(parts).length > 1 ? withPlace(own, parts, place) : own;
  }
  /** As far as flat and section show it. */
  readonly worn = computed<Mesh>(() => this.placed(this.form()));
  private readonly spread = computed(() => new SpreadGround(this.worn()));
  /** What lies where in texture space. */
  readonly ground = computed<Ground>(() => (this.place() ? new SpreadGround(this.placed(this.mesh()), this.spread()) : FLAT_GROUND));
  /** The slot that a triangle belongs to; null where one blend lies on all of it. */
  slotAt(triangle: number): string | null {
    const inside = ([first, count]: Span) => triangle * 3 >= first && triangle * 3 < first + count;
    return Object.entries(this.spans() ?? {}).find(([, spans]) => spans.some(inside))?.[0] ?? null;
  }
  /** The heights that it is made of, where it is a terrain that is looked at as it came; null for all else. */
  readonly terrain = computed<{ terrain: TerrainFacts; heights: string } | null>(() => {
    const { name, lays } = this.asked();
    const body = this.documents.body(name, 'specimen');
    if (!body?.terrain || lays || !this.itself() || this.wanted().sky || this.painted.colours() !== this.came().mesh.geomcolor) return null;
    return { terrain: body.terrain, heights: body.file.blob };
  });
  readonly parts = computed<readonly string[]>(() => {
    const own = this.own();
    if (own) return partNames(own.model);
    const body = this.documents.body(this.asked().name, 'specimen');
    return body ? inOrder(body.parts).flatMap((p) => (p.level === 0 ? [p.name] : [])) : [];
  });
  /** Slots of the parts. */
  readonly partSlots = computed<readonly string[]>(() => {
    const own = this.own();
    if (own) return own.model.lods[0].map((p) => p.slot);
    const body = this.documents.body(this.asked().name, 'specimen');
    return body ? inOrder(body.parts).flatMap((p) => (p.level === 0 ? [p.slot] : [])) : [];
  });
  /** Coordinates of the mesh as it came: of the set that it is looked at by, of the first where each slot is laid by itself. */
  async cameWith({ texcoord, uv1 }: Mesh): Promise<Float32Array> {
    const { name, extentM, lays } = this.asked();
    if (lays && uv1) return uv1;
    const body = this.documents.body(name, 'specimen');
    if (!body) return texcoord;
    const source = { model: body.model, level: 0, set: body.uvSet, unitM: body.unitM, up: body.up };
    const { density } = await this.meshes.run('layout', { source });
    const times = (density?.mean ?? 1) * extentM;
    return texcoord.map((v) => v * times);
  }
  /** The same object while they stay: the eye is put anew when they change. */
  readonly bounds = computed(() => boundsOf(this.bare()), { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) });
  /** Vertices that the open blend lies on, 1 each; null all of them. */
  readonly ownVertices = computed<Uint8Array | null>(() => {
    const spans = this.ownSpans();
    if (!spans) return null;
    const { index, position } = this.form();
    const own = new Uint8Array(position.length / 3);
    for (const [first, count] of spans) for (let k = first; k < first + count; k++) own[index[k]] = 1;
    return own;
  });
  readonly standing = computed<Standing>(() => ({ groundM: this.bounds().lo[1], parts: this.parts() }));
  readonly vertices = computed(() => ({ count: this.bare().position.length / 3, spacingM: vertexSpacing(this.bare()) }));
  /** What cannot be worked out here, for people; null when nothing is wrong. */
  readonly refusal = computed(() =>
    this.wanted().sky && this.vertices().count > MAX_SKY_VERTICES
      ? `Occlusion is worked out for up to ${MAX_SKY_VERTICES.toLocaleString('en')} vertices; this one has ${this.vertices().count.toLocaleString('en')}. All the sky counts as open`
      : null,
  );

  /** What painted colours are kept under. */
  readonly name = computed(() => this.asked().name);
  readonly extentM = computed(() => this.asked().extentM);

  /** Takes up what a blend lies on and what coverages on the stage ask of it. Called within an effect. */
  follow(id: string | null, blend: Pick<BlendDocument, 'specimen' | 'extentM' | 'paint'> | undefined | null, reads: readonly MaterialReads[]): void {
    if (blend) {
      const asset = this.assets.body();
      const name = asset?.specimen ?? blend.specimen;
      this.asked.set({ name, extentM: blend.extentM, lays: asset && this.assets.lays(blend), own: asset ? this.assets.slotsWith(id) : [] });
      this.painted.follow(this.came(), this.cameKey(), blend.paint?.[name] ?? null);
    }
    if (reads.length) this.wanted.set({ bend: reads.some((r) => r.mesh.has('curvature')), sky: reads.some((r) => r.mesh.has('occlusion')) });
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
    const keep = (name: string, values: Float32Array) =>
      this.known.update((m) => new Map([...[...m].slice(1 - MAX_KNOWN), [`${name} ${key}`, values]]));
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
