import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { Account, Orbit, Places } from '@pebble/core';
import { allCarriedAt, carriedAt, eyeOf, pickMesh, rayThrough } from '@pebble/core';
import type { RemoteStage } from '@pebble/stage';
import { AssetModel } from './asset-model';
import { StageSource } from './stage-source';
import { Pointing } from './pointing';
import { StageSpecimen } from './stage-specimen';
import { Newest } from '../ui/latest';

/** A place that was clicked; its account is worked out anew whenever the blend changes. */
interface Place {
  /** How it is called: where it lies in metres of the extent. */
  name: string;
  places: Places;
  footprint: number;
  pinned: boolean;
  /** What it was when it was pinned, to be compared. */
  before: Account | null;
}
/** Pinned places at most. */
const MOST = 4;

/** Accounts of places on the stage: why each is what it is. */
@Injectable()
export class Accounts {
  private readonly source = inject(StageSource);
  private readonly specimen = inject(StageSpecimen);
  private readonly assets = inject(AssetModel);
  private readonly pointing = inject(Pointing);
  private readonly kept = signal<readonly Place[]>([]);
  private readonly told = signal<ReadonlyMap<Places, Account>>(new Map());
  /** Where accounts are worked out: the stage has the textures. */
  readonly stage = signal<Pick<RemoteStage, 'account'> | null>(null);

  /** Called with a slot of the asset on which another blend sits. */
  elsewhere: (slot: string) => void = () => undefined;

  readonly shown = computed(() =>
    this.kept().flatMap((place) => {
      const account = this.told().get(place.places);
      return account ? [{ ...place, account }] : [];
    }),
  );

  constructor() {
    const telling = new Newest();
    effect(() => {
      // Whatever changes the picture changes the accounts.
      const kept = this.kept();
      this.source.material();
      this.source.slots();
      const going = telling.begin();
      void Promise.all(kept.map(async (p) => [p.places, await untracked(() => this.of(p.places, p.footprint))] as const)).then((all) => {
        if (going()) this.told.set(new Map(all.flatMap(([places, account]) => (account ? [[places, account] as const] : []))));
      });
    });
  }

  private async of(places: Places, footprint: number): Promise<Account | null> {
    const [material, slots, stage] = [this.source.material(), this.source.slots(), this.stage()];
    return material && slots && stage ? stage.account({ material, places, footprint }, slots) : null;
  }

  /** A click on the flat. @param footprint extents a pixel of the screen */
  onFlat(u: number, v: number, footprint: number): void {
    const texcoord = Float32Array.of(u, v);
    void this.take({ texcoord, ...this.specimen.ground().along(texcoord) }, footprint, `flat, ${this.specimen.placeText()}`);
  }
  /** The coordinate that is seen at a place of the picture, where the open blend lies there. */
  coordinateAt(eye: Orbit, aspect: number, x: number, y: number): [number, number] | null {
    const mesh = this.specimen.ownMesh();
    const [ox, oy, oz] = eyeOf(eye);
    const found = pickMesh(mesh, [ox, oy, oz], rayThrough(eye, aspect, x, y));
    const at = found && carriedAt(mesh, found, 'texcoord');
    return at ? [at[0], at[1]] : null;
  }
  /** A click on the specimen, at shares of its pane. */
  onSpecimen(eye: Orbit, aspect: number, x: number, y: number): void {
    const mesh = this.specimen.mesh();
    const origin = eyeOf(eye);
    const found = pickMesh(mesh, [origin[0], origin[1], origin[2]], rayThrough(eye, aspect, x, y));
    if (!found) return;
    this.specimen.pointedAt(found.triangle);
    const slot = this.specimen.slotAt(found.triangle);
    if (slot !== null && !this.assets.slotsWith(this.source.id()).includes(slot)) return this.elsewhere(slot);
    const places: Places = allCarriedAt(mesh, found);
    // How much of the extent a pixel of a pane of about 500 pixels sees there.
    const footprint = (found.away * 2 * Math.tan(eye.field / 2)) / 500 / (this.source.body()?.extentM ?? 1);
    void this.take(places, footprint, this.specimen.placeText());
  }

  private async take(places: Places, footprint: number, where: string): Promise<void> {
    const account = await this.of(places, footprint);
    if (!account || this.pointing.take(account)) return;
    const extentM = this.source.body()?.extentM ?? 1;
    const metres = (t: number) => (t * extentM).toFixed(2);
    const name = `${where}, ${metres(places.texcoord[0])} · ${metres(places.texcoord[1])} m`;
    this.kept.update((list) => [...list.filter((p) => p.pinned).slice(1 - MOST), { name, places, footprint, pinned: false, before: null }]);
  }

  /** A pinned place stays, and shows what has changed since. */
  pin(index: number): void {
    const now = this.shown()[index]?.account ?? null;
    this.kept.update((list) => list.map((p, i) => (i === index ? { ...p, pinned: !p.pinned, before: p.pinned ? null : now } : p)));
  }
  /** Pinned places tell from now on what has changed against the state that is shown at this moment. */
  async remember(): Promise<void> {
    const pinned = this.kept().filter((p) => p.pinned);
    const now = await Promise.all(pinned.map((p) => this.of(p.places, p.footprint)));
    this.kept.update((list) => list.map((p) => (p.pinned ? { ...p, before: now[pinned.indexOf(p)] ?? p.before } : p)));
  }
  clear = (): void => this.kept.set([]);
  close(index: number): void {
    this.kept.update((list) => list.filter((_, i) => i !== index));
  }
}
