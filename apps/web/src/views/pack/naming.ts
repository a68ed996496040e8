import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import type { NameCase, RecipeDocument } from '@pebble/core';
import { NAME_CASES, NAME_TOKENS, codesText, nameSlug, parseCodes, templateProblem, versionProblem } from '@pebble/core';

/** A change of a recipe, and what the step is called. */
export interface RecipeEdit {
  label: string;
  change: (recipe: RecipeDocument) => void;
}

/** How files of a recipe are called: template, rule of case, and what tokens that need it stand for. */
@Component({
  selector: 'pb-naming',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="line">
      <label class="token" [class.wrong]="templateWrong()" [title]="tokens"
        >name
        <input
          class="template num"
          [value]="recipe().template"
          aria-label="Name template"
          maxlength="120"
          (change)="setTemplate($any($event.target).value)"
      /></label>
      <label class="token" title="How words of a name are joined"
        >as
        <select class="num" aria-label="How words of a name are joined" (change)="setCase($any($event.target).value)">
          @for (c of cases; track c.id) {
            <option [value]="c.id" [selected]="c.id === (recipe().case ?? 'snake')">{{ c.name }}</option>
          }
        </select></label
      >
      <ng-content />
    </div>
    @if (recipe().template.includes('{code}')) {
      <label class="token" [class.wrong]="codesWrong()" title="Own letters for {code}: roughness=RGH, normal=NRM"
        >codes
        <input
          class="codes num"
          [value]="codesText(recipe().codes)"
          aria-label="Own codes of maps"
          placeholder="usual"
          maxlength="200"
          (change)="setCodes($any($event.target).value)"
      /></label>
    }
    @if (recipe().template.includes('{version}')) {
      <label class="token" [class.wrong]="versionWrong()" title="What {version} stands for: v1, v2, 2026-11"
        >version
        <input
          class="codes num"
          [value]="recipe().edition ?? 'v1'"
          aria-label="Version in names"
          maxlength="24"
          (change)="setVersion($any($event.target).value)"
      /></label>
    }
    @if (templateWrong() ?? codesWrong() ?? versionWrong(); as wrong) {
      <p class="error">{{ wrong }}.</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 8px;
      justify-items: start;
    }
    .line {
      display: flex;
      gap: 6px;
      align-items: center;
      flex-wrap: wrap;
    }
    input,
    select {
      border: 0;
      background: none;
      color: var(--glaze);
    }
    option {
      background: var(--raise);
      color: var(--ink);
    }
    .template {
      width: 116px;
    }
    .codes {
      width: 190px;
    }
    .token.wrong {
      border-color: var(--error);
    }
    .error {
      margin: 0;
      color: var(--error);
    }
  `,
})
export class Naming {
  readonly recipe = input.required<RecipeDocument>();
  readonly done = output<RecipeEdit>();
  readonly cases = NAME_CASES.map((id) => ({ id, name: nameSlug('Like this', id) }));
  readonly tokens = Object.entries(NAME_TOKENS)
    .map(([token, about]) => `{${token}} ${about}`)
    .join('\n');
  readonly templateWrong = computed(() => templateProblem(this.recipe().template));
  /** What is wrong with codes as they were typed last, and with the version. */
  readonly codesWrong = signal<string | null>(null);
  readonly versionWrong = signal<string | null>(null);
  codesText = codesText;

  setTemplate(template: string): void {
    if (template) this.done.emit({ label: 'Name template', change: (d) => void (d.template = template) });
  }
  setCase(rule: NameCase): void {
    this.done.emit({ label: `Names like ${nameSlug('this one', rule)}`, change: (d) => void (d.case = rule) });
  }
  setVersion(text: string): void {
    const version = text.trim();
    this.versionWrong.set(versionProblem(version));
    if (!this.versionWrong()) this.done.emit({ label: `Version ${version}`, change: (d) => void (d.edition = version) });
  }
  setCodes(text: string): void {
    try {
      const codes = parseCodes(text);
      this.codesWrong.set(null);
      const change = (d: RecipeDocument) => {
        if (Object.keys(codes).length) d.codes = codes;
        else delete d.codes;
      };
      this.done.emit({ label: text.trim() ? `Codes ${codesText(codes)}` : 'Usual codes', change });
    } catch (error) {
      this.codesWrong.set((error as RangeError).message);
    }
  }
}
