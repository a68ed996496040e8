import { IMAGE_ENDINGS } from '@pebble/formats/images';
import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, output, signal, untracked, viewChild } from '@angular/core';
import type { GreyPicture, UploadedFile } from '@pebble/contracts';
import type { Cue, CueControl, CueKind, Role, UvSet } from '@pebble/core';
import { ROLES, ROLE_FACTS, cueKind, cueKinds, pictureOf } from '@pebble/core';
import { ApiService } from '../../../services/api.service';
import { NoticesService } from '../../../services/notices.service';
import { Field } from '../../../ui/field';
import { BlendModel } from '../blend-model';
import { newSeed } from '../../../ui/new';
import { CoverageTarget } from '../coverage-target';
import type { CueField } from './cue-fields';
import { controlsOf, inUnit, moreFields } from './cue-fields';
import { CueLooks, PREVIEW, histogram, rangeOf } from './cue-look';
import { LaidBy } from './laid-by';
import { MaskPainting } from '../brush/mask-painting';
import { Pointing } from '../../../stage/pointing';
import { Prices } from '../prices';
import { StageSpecimen } from '../../../stage/stage-specimen';

const BINS = 56;
const PLOT = { width: 224, height: 72 };
const REST_MS = 120;

/** One cue up close: what it looks at on the specimen, its ramp, and all that can be set of it. */
@Component({
  selector: 'pb-cue-card',
  imports: [Field, LaidBy],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './cue-card.html',
  styleUrl: './cue-card.scss',
})
export class CueCard {
  readonly files = IMAGE_ENDINGS.join();
  readonly model = inject(BlendModel);
  readonly target = inject(CoverageTarget);
  readonly specimen = inject(StageSpecimen);
  readonly pointing = inject(Pointing);
  private readonly masks = inject(MaskPainting);
  private readonly looks = inject(CueLooks);
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  readonly cueId = input.required<string>();
  readonly closed = output();
  private readonly plot = viewChild.required<ElementRef<HTMLCanvasElement>>('plot');
  private readonly preview = viewChild.required<ElementRef<HTMLCanvasElement>>('preview');
  readonly plotSize = PLOT;
  readonly previewSize = PREVIEW;

  readonly cue = computed<Cue | null>(() => this.target.coverage()[this.cueId()] ?? null);
  readonly index = computed(() => this.target.cues().findIndex((c) => c.id === this.cueId()));
  readonly fields = computed(() => {
    const cue = this.cue();
    return cue ? moreFields(cue) : [];
  });
  readonly kinds = cueKinds();
  readonly facts = computed(() => cueKind(this.cue()?.kind ?? 'constant'));
  /** Controls that only this kind has, but for numbers. */
  readonly controls = computed(() => {
    const cue = this.cue();
    return cue ? controlsOf(cue) : [];
  });
  /** A field of one kind of cue, by its name. */
  readonly at = (cue: Cue, key: string): string | number => (cue as unknown as Record<string, string | number>)[key];
  /** Ends of the histogram, in the unit of the cue; null while nothing is there to draw. */
  readonly range = signal<[number, number] | null>(null);
  readonly message = signal('Looking …');

  /** Surfaces that have a map for this cue, each with its roles. */
  readonly sources = computed(() => {
    const only = this.controls().find((c) => c.as === 'map')?.role ?? null;
    return Object.entries(this.model.surfaces()).flatMap(([id, s]) => {
      const roles = ROLES.filter((r) => s.maps[r] && (only === null || r === only));
      return roles.length ? [{ id, name: s.name, roles }] : [];
    });
  });
  readonly roleName = (role: Role): string => ROLE_FACTS[role].label;
  /** Channels of the chosen map. */
  readonly channels = computed(() => {
    const cue = this.cue();
    const count =
      cue?.kind === 'mask' ? Math.max(ROLE_FACTS[cue.role].components, this.model.surfaces()[cue.surface]?.maps[cue.role]?.channels ?? 1) : 1;
    return ['red', 'green', 'blue', 'alpha'].slice(0, count);
  });
  private readonly prices = inject(Prices);
  readonly price = (kind: string): string => this.prices.cue(kind as CueKind);
  readonly inUnit = inUnit;

  constructor() {
    let timer: ReturnType<typeof setTimeout> | undefined;
    effect(() => {
      // Anything that changes the picture is looked at again once it rests.
      const [stack, sources] = [this.model.stack(), this.model.sources()];
      const [id, group] = [this.cueId(), this.target.groupId()];
      this.specimen.mesh();
      clearTimeout(timer);
      if (stack && sources) timer = setTimeout(() => void this.look(id, group), REST_MS);
    });
    inject(DestroyRef).onDestroy(() => {
      clearTimeout(timer);
      this.pointing.end();
    });
  }

  private async look(id: string, group: string | null): Promise<void> {
    const stack = untracked(this.model.stack);
    const place = stack && this.looks.placeOf(stack, id, group);
    if (!place) {
      this.range.set(null);
      return this.message.set('Switched off: nothing of it is on the stage.');
    }
    const seen = await this.looks.look(place);
    const cue = untracked(this.cue);
    if (!seen || !cue) return;
    this.message.set('');
    const canvas = this.preview().nativeElement;
    const { data, width, height } = seen.picture;
    canvas.getContext('2d')?.putImageData(new ImageData(data, width, height), 0, 0);
    this.range.set(seen.inputs && !cueKind(cue.kind).numbers ? rangeOf(seen.inputs, cue.centre, cue.width) : null);
    if (seen.inputs && this.range()) this.draw(seen.inputs, cue);
  }

  private draw(inputs: Float32Array, cue: Cue): void {
    const canvas = this.plot().nativeElement;
    const context = canvas.getContext('2d');
    const [least, most] = this.range() as [number, number];
    if (!context) return;
    const style = getComputedStyle(canvas);
    const { width, height } = PLOT;
    context.clearRect(0, 0, width, height);
    const bins = histogram(inputs, least, most, BINS);
    const top = Math.max(...bins) || 1;
    context.fillStyle = style.getPropertyValue('--edge');
    bins.forEach((share, i) => {
      const h = Math.sqrt(share / top) * (height - 6);
      context.fillRect((i * width) / BINS, height - h, width / BINS - 1, h);
    });
    context.strokeStyle = style.getPropertyValue('--glaze');
    context.lineWidth = 2;
    context.beginPath();
    for (let x = 0; x <= width; x++) {
      const v = least + ((most - least) * x) / width;
      const t = cue.width < 1e-6 ? Number(v >= cue.centre) : Math.min(1, Math.max(0, (v - cue.centre) / cue.width + 0.5));
      const c = cue.shape === 'smooth' ? t * t * (3 - 2 * t) : t;
      context.lineTo(x, 3 + (1 - (cue.inverted ? 1 - c : c)) * (height - 6));
    }
    context.stroke();
  }

  /** A press on the histogram puts the centre there. */
  aim(event: PointerEvent): void {
    const range = this.range();
    if (!range) return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const centre = range[0] + ((range[1] - range[0]) * (event.clientX - box.left)) / box.width;
    this.set('centre', (c) => (c.centre = +centre.toPrecision(4)));
  }
  /** The next press on the stage sets the centre to what is there. */
  point(): void {
    const [id, group] = [this.cueId(), this.target.groupId()];
    this.pointing.begin(`Click where ${this.facts().title} shall be one half`, (account) => {
      const stack = this.model.stack();
      const place = stack && this.looks.placeOf(stack, id, group);
      const found = account.layers.find((l) => l.id === place?.layer)?.coverages[place?.coverage ?? 0]?.find((c) => c.id === id);
      if (found?.input !== null && found?.input !== undefined)
        this.set('centre by pointing', (c) => (c.centre = +(found.input as number).toPrecision(4)));
    });
  }

  set(what: string, change: (cue: Cue) => void): void {
    this.target.setCue(this.cueId(), what, change);
  }
  draft(field: CueField, value: number): void {
    this.target.draftCue(this.cueId(), (c) => field.set(c, value));
  }
  done(field: CueField, value: number): void {
    this.set(field.label.toLowerCase(), (c) => field.set(c, value));
  }
  become(kind: CueKind): void {
    this.target.become(this.cueId(), kind);
  }
  remove(): void {
    this.closed.emit();
    this.target.remove(this.cueId());
  }
  reroll = (key: string): void => this.own('re-roll', { [key]: newSeed() });
  /** One of some choices; those of numbers stay numbers. */
  choose({ key, label, of }: Extract<CueControl, { as: 'choice' }>, chosen: string): void {
    // What is usual is not said.
    const value = of.find((o) => String(o.value) === chosen)?.value;
    this.own(label.toLowerCase(), { [key]: value === '' ? undefined : value });
  }
  putAt = (key: string, label: string, value: string): void => this.own(label, { [key]: value });
  /** Whole fields of one kind of cue. */
  own(what: string, change: object): void {
    this.set(what, (c) => Object.assign(c, change));
  }
  pickMap(text: string): void {
    const [surface, role] = text.split('/');
    const only = this.controls().some((c) => c.as === 'map' && c.role);
    this.own('another map', only ? { surface } : { surface, role, channel: 0 });
  }
  layBy(set: UvSet | undefined): void {
    this.set('what a map is laid by', (cue) => {
      const c = cue as { set?: UvSet };
      if (set) c.set = set;
      else delete c.set;
    });
  }
  /** Takes the brush out for the mask. */
  paint(): void {
    const path = this.target.path();
    if (path) this.masks.take({ ...path, cue: this.cueId() });
    this.closed.emit();
  }
  readonly sending = signal(false);
  /** A grey picture becomes the mask of a painted cue; what cannot be read is said, and changes nothing. */
  async bring(files: FileList | null): Promise<void> {
    const file = files?.[0];
    if (!file) return;
    this.sending.set(true);
    try {
      const [sent] = await this.api.upload<UploadedFile[]>([file], () => undefined, new AbortController().signal);
      if (!sent.blob || sent.problem || !sent.width)
        throw new Error(sent.problem ?? `${file.name} is no picture. Choose a PNG, JPEG, TIFF, TGA, EXR or HDR`);
      const { hash } = await this.api.post<GreyPicture>(`/blobs/${sent.blob}/grey`, {});
      this.own('picture of the mask', { picture: hash });
    } catch (error) {
      this.notices.error(error);
    } finally {
      this.sending.set(false);
    }
  }
  /** Arrow keys on the list of maps step through all of them, live. */
  chosenMap = computed(() => {
    const cue = this.cue();
    const picture = cue && pictureOf(cue);
    return !picture || picture.kind === 'painted' ? '' : `${picture.surface}/${picture.kind === 'id' ? 'id' : picture.role}`;
  });
}
