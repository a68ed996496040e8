import { ApplicationRef, ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { Router } from '@angular/router';
import { mdiChevronDown } from '@mdi/js';
import type { MasterDocument, Named } from '@pebble/core';
import { MASTER_OUTPUTS, identifierOf, makeMaster, startFrom, uniqueName } from '@pebble/core';
import { EXAMPLE_MASTERS, STILL_MASTERS } from '@pebble/usecases';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { AssetModel } from '../../stage/asset-model';
import { StageSource } from '../../stage/stage-source';
import { Frame } from '../../ui/frame';
import { Icon } from '../../ui/icon';
import { useActions } from '../../ui/actions';
import { nameFrom } from '../../ui/name';
import { newKey } from '../../ui/new';
import { Acts } from './acts';
import { CodeCard } from './graph/code-card';
import { GraphCanvas } from './graph/graph-canvas';
import { SearchCard } from './graph/search-card';
import { SimplifyCard } from './graph/simplify-card';
import { Looks, nameOf } from './looks';
import { MasterModel } from './master-model';
import { Motion } from './motion';
import { CardLayout } from './places';
import { Selection } from './selection';
import { OperationCard } from './tray/operation-card';
import { Outline } from './tray/outline';
import { ParametersPanel } from './tray/parameters-panel';
import { PlotPanel } from './tray/plot-panel';
import { StepPictures } from './tray/step-pictures';
import { closedByEscape } from '../../ui/escape';
import { STAGE } from '../../stage/providers';

const KINDS: Record<Named, string> = {
  operations: 'operation',
  parameters: 'parameter',
  switches: 'switch',
  groups: 'group',
  published: 'published',
  frames: 'frame',
  variants: 'variant',
};

/** Masters: the graph above; what the chosen step is, looks like and does to numbers below. */
@Component({
  selector: 'pb-master',
  imports: [
    Frame,
    Icon,
    MatMenuModule,
    CodeCard,
    SimplifyCard,
    GraphCanvas,
    SearchCard,
    OperationCard,
    ParametersPanel,
    Outline,
    StepPictures,
    PlotPanel,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [MasterModel, { provide: StageSource, useExisting: MasterModel }, Selection, Acts, Looks, Motion, CardLayout, ...STAGE],
  templateUrl: './master.view.html',
  styleUrl: './master.view.scss',
})
export class MasterView {
  readonly id = input<string>();
  /** The asset that it is looked at on, and the variant that is looked at. */
  readonly asset = input<string>();
  readonly variant = input<string>();
  readonly model = inject(MasterModel);
  readonly selection = inject(Selection);
  readonly acts = inject(Acts);
  readonly layout = inject(CardLayout);
  private readonly assets = inject(AssetModel);
  private readonly looks = inject(Looks);
  readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly router = inject(Router);
  private readonly app = inject(ApplicationRef);
  readonly graph = viewChild(GraphCanvas);
  private readonly card = viewChild(OperationCard);
  readonly icons = { down: mdiChevronDown };
  /** What is looked at beside the graph. */
  readonly beside = signal<'simplify' | 'code' | null>(null);
  show = (what: 'simplify' | 'code'): void => this.beside.update((now) => (now === what ? null : what));
  readonly masters = this.documents.list('master');
  readonly surfaces = this.documents.list('surface');
  readonly blends = this.documents.list('blend');
  readonly tab = signal<'operation' | 'parameters' | 'outline'>('operation');
  readonly tabs = [
    { id: 'operation', name: 'Operation' },
    { id: 'parameters', name: 'Parameters' },
    { id: 'outline', name: 'Outline' },
  ] as const;
  private begun: string | null = null;
  readonly kindName = (kind: Named): string => KINDS[kind];
  readonly open = computed(() => {
    const asked = this.id();
    return this.masters().find((m) => m.id === asked)?.id ?? this.masters().at(0)?.id ?? null;
  });
  readonly count = computed(() => Object.keys(this.model.master()?.operations ?? {}).length);
  readonly samplers = computed(() => this.looks.all()?.samplers ?? 0);
  readonly samplerHelp = computed(() =>
    this.samplers() > 16
      ? `A fragment shader has 16 textures for certain, and this takes ${this.samplers()}. Pack maps of one surface together, or use one surface less`
      : 'Textures that a target binds for it, packed maps being one each',
  );
  /** What pushes it past the budget. */
  readonly over = computed(() => {
    const [looks, target] = [this.looks.all(), this.workbench.target().body];
    if (!looks) return null;
    const { samples, operations } = looks.price;
    if (samples <= target.samples && operations <= target.operations) return null;
    const names = this.looks.dearest().map(({ name, price }) => `${name} ${price.operations}`);
    return `over ${target.name}: most by ${names.join(', ')} ops`;
  });
  readonly mistake = computed(() => {
    const [lowered, master] = [this.model.lowered(), this.model.master()];
    const error = lowered?.error;
    if (!error || !master) return null;
    const where = error.operation ? `${nameOf(master, error.operation)}: ` : '';
    return { id: error.operation || `>${error.port ?? 'surface'}`, text: `${where}${error.message}. The last good picture stays.` };
  });

  constructor() {
    closedByEscape(
      () => this.beside.set(null),
      () => this.beside() !== null,
    );
    effect(() => {
      this.model.id.set(this.open());
      untracked(() => {
        this.selection.choose(null);
        this.model.shows.set('result');
        this.acts.renamed.set([]);
        this.acts.aim.set(null);
      });
    });
    // What feeds the first output is looked at to begin with: nobody starts before empty panels.
    effect(() => {
      const laid = this.layout.laid();
      const id = this.model.id();
      if (!laid || this.begun === id) return;
      this.begun = id;
      untracked(() => {
        const master = this.model.master();
        const source = master && MASTER_OUTPUTS.map((name) => master.outputs[name]).find((s) => s?.from === 'link');
        if (source?.from === 'link' && !this.selection.cardId()) this.selection.choose(source.operation);
      });
    });
    effect(() => this.assets.id.set(this.asset() ?? null));
    effect(() => this.assets.variant.set(this.model.chosen()));
    effect(() => {
      const [variant] = [this.variant(), this.open()];
      if (variant !== undefined) untracked(() => this.model.variant.set(variant));
    });
    effect(() => this.workbench.open(this.open()));
    // Somebody who chooses a step wants to see it.
    effect(() => {
      if (this.selection.cardId()) untracked(() => this.tab() === 'parameters' && this.tab.set('operation'));
    });
    const shows = (kind: 'result' | 'step' | 'probe') => ({ down: () => this.model.shows.set(kind) });
    const variant = (by: 1 | -1) => ({ down: () => this.model.goVariant(by) });
    useActions({ result: shows('result'), step: shows('step'), probe: shows('probe'), before: variant(-1), next: variant(1) });
  }

  focusGraph = (): void => this.graph()?.focus();
  /** At once, so that no key is lost that follows. */
  edit(first: string | void): void {
    this.tab.set('operation');
    this.app.tick();
    const card = this.card();
    if (!card) return;
    card.back = this.focusGraph;
    card.edit(first || undefined);
  }
  rename(text: string): void {
    const name = nameFrom(text);
    if (name) this.model.edit(`Rename to ${name}`, (d) => void (d.name = name));
  }
  readonly examples = Object.values({ ...EXAMPLE_MASTERS, ...STILL_MASTERS });
  /** A copy of an example. */
  async copyOf(example: MasterDocument | undefined): Promise<void> {
    if (!example) return;
    const name = uniqueName(example.name, new Set(this.masters().map((m) => identifierOf(m.body.name))));
    await this.made({ ...structuredClone(example), name });
  }
  async create(kind: 'nothing' | 'surface' | 'blend', of = ''): Promise<void> {
    if (kind !== 'nothing' && !of) return;
    const from =
      kind === 'surface'
        ? this.surfaces().find((s) => s.id === of)?.body
        : kind === 'blend'
          ? this.blends().find((b) => b.id === of)?.body
          : undefined;
    const extent = !from ? 1 : from.kind === 'surface' ? from.sizeM : from.extentM;
    const body = makeMaster(from ? `${from.name} master` : 'New master', {
      extentM: extent,
      ...(from?.kind === 'blend' ? { specimen: from.specimen } : {}),
    });
    if (kind !== 'nothing') startFrom(body, kind, of, newKey());
    await this.made(body);
  }
  private async made(body: MasterDocument): Promise<void> {
    try {
      await this.router.navigate(['/master', await this.documents.create(body, body.name)]);
    } catch (error) {
      this.notices.error(error);
    }
  }
  remove(): void {
    const id = this.open();
    if (id) void this.documents.remove(id);
  }
  loadDemo = (): void => void this.jobs.start('demo');
  go = (id: string): void => void this.router.navigate(['/master', id]);
}
