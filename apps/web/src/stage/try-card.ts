import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { ScrubField } from '../ui/scrub-field';
import { StageScene } from './stage-scene';
import { TRIALS, TriedTexture, roleName } from './tried-texture';

/** Chooses a texture and another use of it, which the stage shows for now. */
@Component({
  selector: 'pb-try',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (tried.trial(); as t) {
      <div class="line">
        <select class="field" aria-label="Surface that is tried" (change)="tried.change({ surface: $any($event.target).value })">
          @for (s of tried.surfaces(); track s.id) {
            <option [value]="s.id" [selected]="s.id === t.surface">{{ s.body.name }}</option>
          }
        </select>
        <select class="field" aria-label="Map that is tried" (change)="tried.change({ role: $any($event.target).value })">
          @for (r of tried.roles(); track r) {
            <option [value]="r" [selected]="r === t.role">{{ roleName(r) }}</option>
          }
        </select>
      </div>
      <div role="radiogroup" aria-label="Tried as" class="ways">
        @for (w of ways; track w.id) {
          <label
            ><input type="radio" name="tried" [value]="w.id" [checked]="t.way === w.id" (change)="tried.change({ way: w.id })" /> {{ w.name
            }}<span class="quiet">{{ w.about }}</span></label
          >
        }
      </div>
      @switch (t.way) {
        @case ('decal') {
          <div class="line">
            Side
            <span class="token"
              ><pb-scrub
                label="Side of the decal"
                [value]="t.decalM"
                [min]="0.005"
                [max]="50"
                [step]="0.005"
                unit="m"
                [decimals]="2"
                (live)="tried.change({ decalM: $event })"
                (done)="tried.change({ decalM: $event })"
            /></span>
            <button class="pill" (click)="tried.change({ from: scene.eye() })">Throw it from here</button>
          </div>
        }
        @case ('card') {
          <label><input type="checkbox" [checked]="t.additive" (change)="tried.change({ additive: !t.additive })" /> Added to what is behind</label>
          <label><input type="checkbox" [checked]="t.heat" (change)="tried.change({ heat: !t.heat })" /> Overdraw: yellow is eight deep</label>
        }
        @case ('cookie') {
          <div class="line">
            Across the light
            <span class="token"
              ><pb-scrub
                label="Repetitions across the light"
                [value]="t.times"
                [min]="0.25"
                [max]="32"
                [step]="0.05"
                unit="times"
                [decimals]="1"
                (live)="tried.change({ times: $event })"
                (done)="tried.change({ times: $event })"
            /></span>
          </div>
        }
      }
      <p class="quiet">{{ tried.waits() ? 'Reading it …' : tried.price() }}</p>
      <button class="pill" (click)="tried.end()">Stop trying</button>
    } @else {
      <p class="quiet">A texture of the project as a decal, on cards, in the light or as the sky. Nothing of it is kept.</p>
      <button class="pill" [disabled]="!tried.surfaces().length" (click)="tried.start()">Try a texture</button>
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
      gap: 8px;
      align-items: center;
      flex-wrap: wrap;
    }
    select {
      max-width: 148px;
    }
    label {
      display: flex;
      gap: 8px;
      align-items: center;
    }
    .ways {
      display: grid;
      gap: 4px;
      width: 100%;
    }
    .ways .quiet {
      margin-left: auto;
      font-size: 12px;
      white-space: nowrap;
    }
    p {
      margin: 0;
      font-size: 12px;
    }
  `,
})
export class TryCard {
  readonly tried = inject(TriedTexture);
  readonly scene = inject(StageScene);
  readonly ways = TRIALS;
  roleName = roleName;
}
