import { Directive, ElementRef, effect, inject, input } from '@angular/core';
import { MatTooltip } from '@angular/material/tooltip';

/** Short words of the workbench and what each means: for whoever points at one, and for the search. */
export const WORDS = {
  samples: { word: 'samples', means: 'How many times a texture is looked up for every pixel. The part of a material that handhelds feel first' },
  operations: { word: 'ops', means: 'Operations: additions, products and the like for every pixel, from the compiled program' },
  memory: { word: 'MB', means: 'Megabytes of all textures with their smaller levels, in the formats of the target' },
  layerPrice: { word: '3 · 24', means: 'What this layer adds to every pixel: samples · operations' },
  soft: { word: 'soft', means: 'How wide the seam is, from hard (0) to a wide mix (1), in terms of both heights' },
  lift: { word: 'lift', means: 'Raises this layer over what lies below before the higher of both wins, in millimetres' },
  follow: { word: 'follow', means: 'How much this layer takes on the relief below: 0 fills it in, 100 % drapes over it' },
  bias: { word: 'bias', means: 'Who wins where both are equally high: under 0.5 what lies below, over 0.5 this layer' },
  broken: { word: 'broken up by', means: 'Moves the seam about by a noise of so many millimetres, so that it runs less evenly' },
  shaded: { word: 'shaded', means: 'Darkens what lies below along the seam, as where two things touch' },
  strength: { word: 'strength', means: 'How much of the layer there is where its coverage is full' },
  look: { word: 'look', means: 'How the layer looks by itself before it meets others: levels, tint, size, place' },
  level: { word: 'level', means: 'Height of the water in millimetres over the middle of the relief below' },
  clear: { word: 'clear to', means: 'How deep one sees into the water before its own colour is all that is left' },
  ripples: { word: 'ripples', means: 'How steep the waves of the water are' },
  every: { word: 'every', means: 'Metres from one wave to the next' },
  wets: { word: 'wets up to', means: 'How far over the water the rim is dark and wet, in millimetres' },
  darkening: { word: 'darkening by', means: 'How much darker what is wet is' },
  roughness: { word: 'roughness', means: '0 mirrors, 1 scatters light in all directions' },
  extent: { word: 'extent', means: 'Metres that one repetition of the whole blend covers' },
  density: { word: 'px/m', means: 'Pixels a metre: neighbours that differ more than twice look sharp beside blurred' },
  without: { word: 'without', means: 'Leaves the chosen layer out as long as it is held' },
  flat: { word: 'flat', means: 'The same material from straight above, without a specimen' },
} as const;
export type WordId = keyof typeof WORDS;

/** Explains a short word to whoever points at it or comes to it by keyboard. */
@Directive({ selector: '[pbWord]', hostDirectives: [MatTooltip] })
export class Word {
  readonly pbWord = input<WordId | null>(null);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;

  constructor() {
    const tooltip = inject(MatTooltip);
    effect(() => {
      const id = this.pbWord();
      tooltip.message = id ? WORDS[id].means : '';
      if (id && this.host.tabIndex < 0 && !this.host.closest('button, a, label')) this.host.tabIndex = 0;
    });
  }
}
