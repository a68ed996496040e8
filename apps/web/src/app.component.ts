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
import { useKeys } from './ui/keys';
import { MB } from './ui/bytes';

/** The frame of all views: project, course, meter, undo, save state. */
@Component({
  selector: 'pb-root',
  imports: [RouterOutlet, RouterLink, RouterLinkActive, MatMenuModule, MatTooltipModule, CdkMenuModule, DatePipe, Icon],
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
    { path: 'pack', name: 'Pack' },
  ];
  readonly targets = this.workbench.targets;
  readonly help = signal(false);

  readonly project = this.workbench.project;
  readonly target = computed(() => this.workbench.target().body);
  readonly bars = computed(() => {
    const meter = this.workbench.meter();
    const target = this.target();
    if (!meter) return [];
    const bar = (text: string, share: number) => ({ text, share: Math.min(1, share), over: share > 1 });
    const mb = (bytes: number) => (bytes / MB).toFixed(bytes < 10 * MB ? 1 : 0);
    return [
      bar(`${meter.samples}/${target.samples} samples`, meter.samples / target.samples),
      bar(`${meter.operations}/${target.operations} ops`, meter.operations / target.operations),
      bar(`${mb(meter.bytes)}/${mb(target.memoryBytes)} MB`, meter.bytes / target.memoryBytes),
    ];
  });
  readonly history = computed(() => this.documents.history(this.workbench.active()));
  readonly doneSteps = computed(() =>
    this.history()
      .steps.filter((s) => s.done)
      .reverse(),
  );
  readonly undoneSteps = computed(() => this.history().steps.filter((s) => !s.done));

  constructor() {
    const go = (i: number) => ({ down: () => void this.router.navigate([this.views[i].path]) });
    useKeys({
      Digit1: go(0),
      Digit2: go(1),
      Digit3: go(2),
      Digit4: go(3),
      'Ctrl+KeyZ': { down: () => this.turn('undo') },
      'Ctrl+Shift+KeyZ': { down: () => this.turn('redo') },
      'Shift+Slash': { down: () => this.help.set(!this.help()) },
      Escape: { down: () => this.help.set(false) },
    });
  }

  turn(turn: 'undo' | 'redo', times = 1): void {
    const id = this.workbench.active();
    if (id) void this.documents.turn(id, turn, times);
  }

  setProject(change: { name?: string; exportNormal?: 'y+' | 'y-'; target?: string }): void {
    const project = this.project();
    if (project) this.documents.edit(project.id, 'project', 'Change project set-up', (d) => Object.assign(d, change));
  }
}
