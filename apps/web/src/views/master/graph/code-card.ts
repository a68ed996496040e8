import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal } from '@angular/core';
import type { CodeLine } from '@pebble/core';
import { identifierOf, writtenShader } from '@pebble/core';
import { materialXOf } from '@pebble/usecases';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { Latest } from '../../../ui/latest';
import { saveFile } from '../../../ui/save-file';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

/** Ways in which a master leaves. */
const LEAVES = [
  { id: 'frag', name: 'GLSL', help: 'A complete fragment shader of GLSL ES 3.00 with a table of its uniforms' },
  { id: 'vert', name: 'vertex shader', help: 'The vertex shader that goes with it' },
  { id: 'mtlx', name: 'MaterialX', help: 'MaterialX 1.39: standard nodes, and ours with their definitions' },
  { id: 'json', name: 'JSON', help: 'The master itself, to be opened here again or by the command line' },
] as const;

/** The shader that a master is, with the lines of the chosen operation marked, and the files in which it leaves. */
@Component({
  selector: 'pb-code',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head">
      <b>Code</b>
      <span class="quiet">{{ says() }}</span>
      <button class="round" (click)="done.emit()" aria-label="Close">×</button>
    </div>
    <pre role="region" aria-label="Shader" tabindex="0">@for (l of lines(); track $index) {<span [class.own]="l.own">{{ l.text }}
</span>}</pre>
    <div class="leaves" role="group" aria-label="Files">
      <span class="quiet">save as</span>
      @for (l of leaves; track l.id) {
        <button class="pill" (click)="save(l.id)" [title]="l.help">{{ l.name }}</button>
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 6px;
      min-height: 0;
    }
    .head,
    .leaves {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    .head .quiet {
      flex: 1;
    }
    pre {
      flex: 1;
      min-height: 80px;
      margin: 0;
      overflow: auto;
      font: 11px/15px var(--mono);
      background: var(--ground);
      border-radius: 8px;
      padding: 6px 0;
    }
    pre span {
      display: block;
      padding: 0 8px;
      width: max-content;
      min-width: 100%;
    }
    .own {
      background: color-mix(in srgb, var(--glaze) 18%, transparent);
      box-shadow: inset 3px 0 var(--glaze);
    }
  `,
})
export class CodeCard {
  private readonly model = inject(MasterModel);
  private readonly selection = inject(Selection);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  readonly done = output<void>();
  readonly leaves = LEAVES;
  readonly lines = signal<readonly CodeLine[]>([]);
  private readonly latest = new Latest<CodeLine[]>(
    (lines) => this.lines.set(lines),
    (error) => this.notices.error(error),
  );
  readonly says = computed(() => {
    const [id, master] = [this.selection.id(), this.model.master()];
    const own = this.lines().filter((l) => l.own).length;
    return id && master ? `${own} of ${this.lines().length} lines are ${nameOf(master, id)}` : `${this.lines().length} lines`;
  });

  constructor() {
    effect(() => {
      const [ask, operation] = [this.looks.ask(), this.selection.id()];
      if (ask) this.latest.ask(() => this.service.run('code', { ...ask, operation }));
    });
  }

  save(as: (typeof LEAVES)[number]['id']): void {
    const [whole, master] = [this.model.master(), this.model.effective()];
    if (!master || !whole) return;
    const variant = this.model.chosen();
    const called = identifierOf(variant ? `${whole.name} ${whole.variants[variant].name}` : whole.name);
    try {
      const text =
        as === 'mtlx'
          ? materialXOf(master, this.model.context())
          : as === 'json'
            ? JSON.stringify(whole, null, 2)
            : writtenShader(master, this.model.context())[as === 'frag' ? 'fragment' : 'vertex'];
      saveFile(`${called}.${as}`, text);
    } catch (error) {
      this.notices.error(error);
    }
  }
}
