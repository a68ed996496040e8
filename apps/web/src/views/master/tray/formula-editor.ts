import type { ElementRef, OnDestroy } from '@angular/core';
import { ChangeDetectionStrategy, Component, afterNextRender, effect, input, output, viewChild } from '@angular/core';
import type { EditorView } from '@codemirror/view';
import { FORMULA_FUNCTIONS, FORMULA_TYPES } from '@pebble/core';

/** A mistake, and which characters it is about. */
export interface FormulaMistake {
  message: string;
  at?: { from: number; to: number };
}

/** A formula as text: completed while it is typed, its mistakes marked at their characters. */
@Component({
  selector: 'pb-formula',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #host class="host" data-testid="formula"></div>`,
  styles: `
    .host {
      border: 1px solid var(--edge);
      border-radius: 10px;
      background: var(--raise);
      font-family: var(--mono);
      min-height: 40px;
      max-height: 120px;
      overflow: auto;
    }
  `,
})
export class FormulaEditor implements OnDestroy {
  readonly text = input.required<string>();
  readonly mistake = input<FormulaMistake | null>(null);
  /** Inputs that it names already. */
  readonly names = input<readonly string[]>([]);
  readonly live = output<string>();
  readonly done = output<void>();
  readonly leave = output<void>();
  private readonly host = viewChild.required<ElementRef<HTMLElement>>('host');
  private view: EditorView | null = null;
  private mark: ((mistake: FormulaMistake | null) => void) | null = null;
  private wantsFocus = false;

  constructor() {
    afterNextRender(() => void this.open());
    effect(() => {
      const text = this.text();
      const { view } = this;
      // What is typed here comes back from the document: only another text replaces it.
      if (view && view.state.doc.toString() !== text && !view.hasFocus)
        view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } });
    });
    effect(() => this.mark?.(this.mistake()));
  }

  focus(): void {
    if (this.view) this.view.focus();
    else this.wantsFocus = true;
  }

  private async open(): Promise<void> {
    // The editor is fetched when the first formula is looked at.
    const [
      { EditorView, keymap, placeholder },
      { EditorState },
      { autocompletion, completionKeymap },
      { setDiagnostics },
      { defaultKeymap, history, historyKeymap },
      { StreamLanguage, syntaxHighlighting, HighlightStyle },
      { tags },
    ] = await Promise.all([
      import('@codemirror/view'),
      import('@codemirror/state'),
      import('@codemirror/autocomplete'),
      import('@codemirror/lint'),
      import('@codemirror/commands'),
      import('@codemirror/language'),
      import('@lezer/highlight'),
    ]);
    const functions = new Set([...Object.keys(FORMULA_FUNCTIONS), ...FORMULA_TYPES]);
    const language = StreamLanguage.define({
      token: (stream) => {
        if (stream.match(/^\/\/.*/)) return 'comment';
        if (stream.match(/^(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?/)) return 'number';
        const name = stream.match(/^[A-Za-z_]\w*/) as RegExpMatchArray | null;
        if (name) return functions.has(name[0]) || name[0] === 'in' ? 'keyword' : 'variableName';
        stream.next();
        return null;
      },
    });
    const complete = [
      ...Object.entries(FORMULA_FUNCTIONS).map(([label, { help }]) => ({ label, type: 'function', detail: help, apply: `${label}(` })),
      ...FORMULA_TYPES.map((label) => ({ label, type: 'type', apply: `${label}(` })),
    ];
    const style = HighlightStyle.define([
      { tag: tags.keyword, color: 'var(--ink)', fontWeight: '600' },
      { tag: tags.variableName, color: 'var(--glaze)' },
      { tag: tags.number, color: 'var(--warn)' },
      { tag: tags.comment, color: 'var(--quiet)' },
    ]);
    this.view = new EditorView({
      parent: this.host().nativeElement,
      state: EditorState.create({
        doc: this.text(),
        extensions: [
          history(),
          keymap.of([
            { key: 'Escape', run: () => (this.leave.emit(), true) },
            { key: 'Mod-Enter', run: () => (this.leave.emit(), true) },
            ...completionKeymap,
            ...defaultKeymap,
            ...historyKeymap,
          ]),
          language,
          syntaxHighlighting(style),
          autocompletion({
            override: [
              (context) => {
                const word = context.matchBefore(/\w+/);
                if (!word && !context.explicit) return null;
                return {
                  from: word?.from ?? context.pos,
                  options: [...complete, ...this.names().map((label) => ({ label, type: 'variable', detail: 'input' }))],
                };
              },
            ],
          }),
          placeholder('clamp((mask - level) * steps, 0.0, 1.0)'),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': 'Formula' }),
          EditorView.theme({
            '&': { fontSize: '12.5px', color: 'var(--ink)', backgroundColor: 'transparent' },
            '.cm-content': { fontFamily: 'var(--mono)', padding: '6px 4px', caretColor: 'var(--ink)' },
            '.cm-cursor': { borderLeftColor: 'var(--ink)' },
            '&.cm-focused': { outline: '2px solid var(--glaze)', borderRadius: '10px' },
            '.cm-tooltip': { backgroundColor: 'var(--raise)', color: 'var(--ink)', border: '1px solid var(--line)', borderRadius: '8px' },
            '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--glaze-soft)', color: 'var(--ink)' },
            '.cm-lintRange-error': { backgroundImage: 'none', borderBottom: '2px solid var(--error)' },
          }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && update.view.hasFocus) this.live.emit(update.state.doc.toString());
            if (update.focusChanged && !update.view.hasFocus) this.done.emit();
          }),
        ],
      }),
    });
    this.mark = (mistake) => {
      const { view } = this;
      if (!view) return;
      const { length } = view.state.doc;
      const [from, to] = mistake?.at ? [Math.min(mistake.at.from, length), Math.min(Math.max(mistake.at.to, mistake.at.from), length)] : [0, length];
      view.dispatch(
        setDiagnostics(
          view.state,
          mistake ? [{ from: from === to ? Math.max(0, from - 1) : from, to, severity: 'error', message: mistake.message }] : [],
        ),
      );
    };
    this.mark(this.mistake());
    if (this.wantsFocus) this.view.focus();
  }

  ngOnDestroy(): void {
    this.view?.destroy();
  }
}
