import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal } from '@angular/core';
import type { Answer, Finding, LookedAt, Role, SurfaceOrigin, SentFile } from '@pebble/core';
import { ROLES, ROLE_FACTS, cellsAgree, tallOf } from '@pebble/core';
import type { ImportPlan, PlanGroup, PlanRow } from '@pebble/usecases';
import { channelsOf, hasAlpha, inkOf, matchSlots, planImport, planQuestions, planRequests, plannedGroups } from '@pebble/usecases';
import { ScrubField } from '../../ui/scrub-field';
import type { KnownMap } from './intake';

/** A mesh that surfaces may be hooked up to. */
export interface HookedMesh {
  id: string;
  name: string;
  slots: readonly string[];
  /** Whether it came with the files. */
  along: boolean;
  /** Where each slot lies on its texture, as far as that is known. */
  covers?: ReadonlyMap<string, Uint8Array>;
}
/** What slots of a mesh shall wear: surfaces by their place among those that are made. */
export interface Hooking {
  specimen: string;
  wears: readonly (readonly [slot: string, surface: number])[];
}

/** Up to so many files all are laid open. */
const MANY = 30;

const WHY = { name: 'by its name', layout: 'by its layout', 'only one': 'the only one', 'left over': 'the only one left' } as const;

const choice = (id: Role) => ({ id, label: ROLE_FACTS[id].label });

/** The form that shows what was recognised of dropped files and asks what is doubtful, before anything is imported. */
@Component({
  selector: 'pb-import-form',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './import-form.html',
  styleUrl: './import-form.scss',
})
export class ImportForm {
  readonly files = input.required<readonly SentFile[]>();
  readonly looked = input.required<readonly LookedAt[]>();
  readonly known = input<readonly KnownMap[]>([]);
  /** Meshes that surfaces may be hooked up to. */
  readonly meshes = input<readonly HookedMesh[]>([]);
  readonly accepted = output<{ requests: ReturnType<typeof planRequests>; again: readonly KnownMap[]; hookings: readonly Hooking[] }>();
  readonly closed = output<void>();
  readonly roles = ROLES.map(choice);
  readonly greys = ROLES.filter((id) => ROLE_FACTS[id].components === 1).map(choice);
  readonly origins: { key: keyof SurfaceOrigin; label: string; hint: string }[] = [
    { key: 'author', label: 'Author', hint: 'who made them' },
    { key: 'source', label: 'Source', hint: 'where they come from' },
    { key: 'licence', label: 'Licence', hint: 'CC0, own work …' },
  ];
  readonly plan = signal<ImportPlan>(planImport([], []));
  /** A surface whose last file was moved elsewhere is no longer shown. */
  readonly shownGroups = computed(() => this.plan().groups.filter((g) => this.plan().rows.some((r) => r.group === g.key)));
  readonly changed = computed(() => this.known().filter((k) => k.changed));
  readonly left = signal<ReadonlySet<KnownMap>>(new Set());
  readonly questions = computed(() => (this.plan().rows.length || !this.changed().length ? planQuestions(this.plan()) : []));
  readonly asked = computed(() => this.plan().rows.filter((r) => this.open(r)).length);
  readonly channelsOf = channelsOf;
  readonly hasAlpha = hasAlpha;
  readonly unfolded = signal<ReadonlySet<string>>(new Set());

  constructor() {
    effect(() => {
      const plan = planImport(this.files(), this.looked());
      this.plan.set(plan);
      // Of many files only surfaces with a question are laid open; nobody reads two hundred rows that are right.
      this.unfolded.set(
        new Set(plan.groups.flatMap((g) => (plan.rows.length <= MANY || plan.rows.some((r) => r.group === g.key && this.open(r)) ? [g.key] : []))),
      );
    });
  }

  /** What slots wear by their names. */
  private readonly matched = computed(() => {
    const plan = this.plan();
    const finished = plannedGroups(plan).map(({ key, name }) => ({ key, name }));
    const inks = new Map(finished.map(({ key }) => [key, inkOf(plan, key)]));
    return new Map(
      this.meshes().map((mesh) => {
        const agrees = (slot: string, key: string) => {
          const [ink, covered] = [inks.get(key), mesh.covers?.get(slot)];
          return ink && covered ? cellsAgree(ink, covered) : null;
        };
        const found = [...matchSlots(mesh.slots, finished, mesh.name, agrees)];
        // Of several meshes, and of one that happens to be open, it is not plain that all is for it: names and layouts say so.
        const plain = mesh.along && this.meshes().length === 1;
        return [mesh.id, new Map(found.filter(([, { by }]) => plain || by === 'name' || by === 'layout'))] as const;
      }),
    );
  });
  /** What somebody chose instead, by mesh and slot; empty for nothing. */
  private readonly chosen = signal<ReadonlyMap<string, string>>(new Map());
  /** Each mesh with what its slots will wear. */
  readonly hooked = computed(() => {
    const groups = plannedGroups(this.plan());
    return this.meshes().map((mesh) => ({
      ...mesh,
      wears: mesh.slots.map((slot) => {
        const match = this.matched().get(mesh.id)?.get(slot);
        const key = this.chosen().get(`${mesh.id}/${slot}`) ?? match?.key ?? '';
        const at = groups.findIndex((g) => g.key === key);
        return { slot, key: at < 0 ? '' : key, at, why: match?.key === key && at >= 0 ? WHY[match.by] : '' };
      }),
    }));
  });
  readonly finished = computed(() => plannedGroups(this.plan()));
  wear(mesh: HookedMesh, slot: string, key: string): void {
    this.chosen.update((m) => new Map(m).set(`${mesh.id}/${slot}`, key));
  }

  unfold(key: string): void {
    this.unfolded.update((all) => new Set([...all, key]));
  }
  /** What the files of a surface hold, in words. */
  summaryOf(group: PlanGroup): string {
    const rows = this.rowsOf(group).filter((r) => r.holds !== 'skip');
    const held = rows.map((r) =>
      r.holds === 'channels' || !r.holds || r.holds === 'skip' ? 'several channels' : ROLE_FACTS[r.holds].label.toLowerCase(),
    );
    return `${rows.length} ${rows.length === 1 ? 'file' : 'files'}: ${held.join(', ')}`;
  }

  /** Metres that what is made of a group will be high, where it is not square. */
  highOf(group: PlanGroup): number | null {
    const sizes = this.rowsOf(group).flatMap(({ holds, file }) =>
      holds === 'skip' ? [] : [[holds === 'channels' ? ('id' as const) : holds, file] as const],
    );
    const tall = tallOf(Object.fromEntries(sizes));
    return tall === 1 ? null : group.sizeM * tall;
  }
  rowsOf = (group: PlanGroup): PlanRow[] => this.plan().rows.filter((r) => r.group === group.key);
  accept(): void {
    this.accepted.emit({
      requests: this.plan().rows.length ? planRequests(this.plan()) : [],
      again: this.changed().filter((k) => !this.left().has(k)),
      hookings: this.hooked().flatMap(({ id, wears }) => {
        const on = wears.flatMap(({ slot, at }) => (at < 0 ? [] : [[slot, at] as const]));
        return on.length ? [{ specimen: id, wears: on }] : [];
      }),
    });
  }
  leave(map: KnownMap, on: boolean): void {
    this.left.update((all) => new Set(on ? [...all].filter((m) => m !== map) : [...all, map]));
  }
  open = (row: PlanRow): boolean =>
    row.holds !== 'skip' &&
    (!row.holds || !row.settled || (hasAlpha(row) && row.alpha === null) || (row.holds === 'normal' && row.normalDirection === 'unknown'));
  isColour = ({ holds }: PlanRow): boolean => holds !== null && holds !== 'skip' && holds !== 'channels' && ROLE_FACTS[holds].colourSpace === 'srgb';
  ending = (message: string): string => (/[.?]$/.test(message) ? '' : '.');
  /** Marks of findings: a question, something wrong, something to know. */
  readonly MARKS: Readonly<Record<Finding['severity'], string>> = { question: '?', warning: '!', info: 'i' };
  /** What a question can be answered by: what it offers, and what is proposed. */
  answersOf = (row: PlanRow, { answers = [] }: Finding): Answer[] => {
    const held = row.holds && row.holds !== 'skip' ? row.holds : null;
    return [...new Set<Answer>([...answers, ...(answers.length || !held ? [] : [held])])];
  };
  answerText = (answer: Answer): string =>
    answer === 'skip'
      ? 'leave it out'
      : answer === 'channels'
        ? 'several, by channel'
        : answer === 'y+'
          ? 'green up, Y+'
          : answer === 'y-'
            ? 'green down, Y−'
            : ROLE_FACTS[answer].label.toLowerCase();
  /** Whether its alpha was asked about, and can be said otherwise. */
  asksAlpha = ({ findings }: PlanRow): boolean => findings.some((f) => f.code === 'alpha');
  /** Whether a question of a row waits: that of alpha is one by itself. */
  asking = (row: PlanRow, { code }: Pick<Finding, 'code'>): boolean =>
    code === 'alpha'
      ? hasAlpha(row) && row.alpha === null
      : !row.settled || !row.holds || (row.holds === 'normal' && row.normalDirection === 'unknown');
  answer(row: PlanRow, { code }: Pick<Finding, 'code'>, answer: Answer): void {
    if (code === 'alpha') this.setRow(row, { alpha: answer as Role | 'skip' });
    else if (answer !== 'skip')
      this.setRow(row, answer === 'y+' || answer === 'y-' ? { normalDirection: answer, settled: true } : { holds: answer, settled: true });
  }
  /** What was proposed at first, open again. */
  askAgain(row: PlanRow): void {
    const fresh = planImport(this.files(), this.looked()).rows.find((r) => r.file === row.file || r.file.blob === row.file.blob);
    if (fresh)
      this.setRow(row, { holds: fresh.holds, channels: fresh.channels, normalDirection: fresh.normalDirection, alpha: fresh.alpha, settled: false });
  }
  /** What browsers show of a file by themselves. */
  pictureOf = ({ file }: PlanRow): string | null => (/\.(png|jpe?g)$/i.test(file.fileName) ? `/api/blobs/${file.blob}` : null);

  setGroup(group: PlanGroup, change: Partial<PlanGroup>): void {
    this.plan.update((p) => ({ ...p, groups: p.groups.map((g) => (g.key === group.key ? { ...g, ...change } : g)) }));
  }

  setRow(row: PlanRow, change: Partial<PlanRow>): void {
    this.plan.update((p) => ({ ...p, rows: p.rows.map((r) => (r === row ? { ...r, ...change } : r)) }));
  }

  setChannel(row: PlanRow, name: 'r' | 'g' | 'b' | 'a', role: Role | 'skip'): void {
    this.setRow(row, { channels: { ...row.channels, [name]: role }, settled: true });
  }

  setOrigin(key: keyof SurfaceOrigin, text: string): void {
    this.plan.update((p) => ({ ...p, origin: { ...p.origin, [key]: text } }));
  }
}
