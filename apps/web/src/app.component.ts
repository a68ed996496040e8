import { CdkMenuModule } from '@angular/cdk/menu';
import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router, RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';
import { mdiChevronDown, mdiRedo, mdiUndo } from '@mdi/js';
import { DocumentsService } from './services/documents.service';
import { JobsService } from './services/jobs.service';
import { WorkbenchService } from './services/workbench.service';
import { Icon } from './ui/icon';
import { closedByEscape } from './ui/escape';
import { Actions, useActions } from './ui/actions';
import { FindEverything } from './ui/find-everything';
import { KeysSheet } from './ui/keys-sheet';
import { VersionsSheet } from './ui/versions-sheet';
import type { WordId } from './ui/words';
import { WORDS } from './ui/words';
import { MB } from './ui/bytes';

/** The frame of all views: project, course, meter, undo, save state. */
@Component({
  selector: 'pb-root',
  imports: [
    RouterOutlet,
    RouterLink,
    RouterLinkActive,
    MatMenuModule,
    MatTooltipModule,
    CdkMenuModule,
    DatePipe,
    FindEverything,
    Icon,
    KeysSheet,
    VersionsSheet,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './app.component.html',
  styleUrl: './app.component.scss',
})
export class AppComponent {
  readonly documents = inject(DocumentsService);
  readonly workbench = inject(WorkbenchService);
  readonly jobs = inject(JobsService);
  private readonly router = inject(Router);
  readonly icons = { undo: mdiUndo, redo: mdiRedo, down: mdiChevronDown };
  readonly views = [
    { path: 'surfaces', name: 'Surfaces' },
    { path: 'blend', name: 'Blend' },
    { path: 'master', name: 'Master' },
    { path: 'paint', name: 'Paint' },
    { path: 'pack', name: 'Pack' },
    { path: 'deliver', name: 'Deliver' },
  ];
  readonly targets = this.workbench.targets;
  readonly help = signal(false);
  readonly finding = signal(false);
  readonly versions = signal(false);
  readonly setup = signal(false);
  readonly actions = inject(Actions);

  readonly project = this.workbench.project;
  readonly target = computed(() => this.workbench.target().body);
  readonly bars = computed(() => {
    const meter = this.workbench.meter();
    const target = this.target();
    if (!meter) return [];
    const bar = (text: string, share: number, word: WordId, most = '') => ({
      text,
      share: Math.min(1, share),
      over: share > 1,
      means: `${WORDS[word].means}.${most ? ` Most by ${most}.` : ''}${share > 1 ? ' Over what the target allows' : ''}`,
    });
    const mb = (bytes: number) => (bytes / MB).toFixed(bytes < 10 * MB ? 1 : 0);
    return [
      bar(`${meter.samples}/${target.samples} samples`, meter.samples / target.samples, 'samples', meter.most?.samples),
      bar(`${meter.operations}/${target.operations} ops`, meter.operations / target.operations, 'operations', meter.most?.operations),
      bar(`${mb(meter.bytes)}/${mb(target.memoryBytes)} MB`, meter.bytes / target.memoryBytes, 'memory'),
    ];
  });
  readonly barTexts = computed(() =>
    this.bars()
      .map((b) => b.text)
      .join(' '),
  );
  /** What is past its limit, and by what. */
  readonly over = computed(() => this.bars().flatMap((b) => (b.over ? [`${b.text}: ${b.means}.`] : [])));
  readonly history = computed(() => this.documents.history(this.workbench.active()));
  readonly doneSteps = computed(() =>
    this.history()
      .steps.filter((s) => s.done)
      .reverse(),
  );
  readonly undoneSteps = computed(() => this.history().steps.filter((s) => !s.done));

  constructor() {
    closedByEscape(() => this.setup.set(false), this.setup);
    const go = (path: string) => ({ down: () => void this.router.navigate([path]) });
    useActions({
      ...Object.fromEntries(this.views.map(({ path }) => [path, go(path)])),
      undo: { down: () => this.turn('undo') },
      redo: { down: () => this.turn('redo') },
      versions: { down: () => this.versions.set(!this.versions()) },
      keys: { down: () => this.help.set(!this.help()) },
      find: { down: () => this.finding.set(!this.finding()) },
    });
  }

  turn(turn: 'undo' | 'redo', times = 1): void {
    const id = this.workbench.active();
    if (id) void this.documents.turn(id, turn, times);
  }

  older(): void {
    const id = this.workbench.active();
    if (id) void this.documents.readOlder(id);
  }

  setProject(change: { name?: string; exportNormal?: 'y+' | 'y-'; target?: string }): void {
    const project = this.project();
    if (project) this.documents.edit(project.id, 'project', 'Change project set-up', (d) => Object.assign(d, change));
  }
}
