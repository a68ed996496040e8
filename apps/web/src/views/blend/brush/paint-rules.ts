import { Injectable, computed, inject, signal } from '@angular/core';
import type { Coverage, CueKind } from '@pebble/core';
import { SentenceError, coverageText, inOrder, parseCoverage } from '@pebble/core';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { BlendModel } from '../blend-model';
import { CueLooks } from '../sentence/cue-look';

/** Cues whose values painting may change. */
const CHANGING: readonly CueKind[] = ['low', 'vertexColour', 'painted'];

/** Rules under the brush: a sentence that limits where it paints, and what sentences give where it paints. */
@Injectable()
export class PaintRules {
  private readonly model = inject(BlendModel);
  private readonly looks = inject(CueLooks);
  private readonly specimen = inject(StageSpecimen);
  /** Where strokes go at all; null everywhere. */
  readonly limit = signal<Coverage | null>(null);
  /** What is wrong with the sentence that was written last; null when nothing is. */
  readonly problem = signal<string | null>(null);
  readonly text = computed(() => {
    const limit = this.limit();
    return limit ? coverageText(limit, this.model.nameOf) : '';
  });

  /** Limits strokes to where a sentence says; an empty one lifts the limit. What cannot be read changes nothing. */
  write(text: string): void {
    if (!text.trim()) {
      this.limit.set(null);
      return this.problem.set(null);
    }
    try {
      const { coverage } = parseCoverage(text, { idOf: this.model.idOf });
      this.limit.set(inOrder(coverage).length ? coverage : null);
      this.problem.set(null);
    } catch (error) {
      if (!(error instanceof SentenceError)) throw error;
      this.problem.set(error.message);
    }
  }

  /** Shares that may be painted, at the vertices or at coordinates of the flat; null where there is no limit. */
  async limits(texcoord: Float32Array | null): Promise<Float32Array | null> {
    const limit = this.limit();
    if (!limit) return null;
    const [mesh, blend] = [this.specimen.form(), this.model.blend()];
    const of = [limit, mesh, texcoord, blend?.extentM, blend?.standsAtM];
    if (this.known && of.every((v, i) => v === this.known?.of[i])) return this.known.shares;
    const shares = await this.shares(limit, null, texcoord);
    // What strokes change is looked at anew with each.
    this.known = inOrder(limit).some((c) => CHANGING.includes(c.kind)) ? null : { of, shares };
    return shares;
  }
  private known: { of: readonly unknown[]; shares: Float32Array } | null = null;

  /** What a coverage gives in the place of a layer's, of the uppermost where none is named. @throws Error where that cannot be told */
  async shares(coverage: Coverage, layer: string | null, texcoord: Float32Array | null): Promise<Float32Array> {
    const at = layer ?? this.model.layers().find((l) => l.on && l.id !== this.model.groundId())?.id;
    const found = at === undefined ? null : await this.looks.shares(coverage, at, texcoord);
    if (!found) throw new Error('Where that sentence holds cannot be told: the blend needs a layer over its ground that is on, with its maps there');
    return found;
  }
}

/** Coordinates of the pixels of a mask that lies over the extent. */
export function maskCoordinates(width: number, height: number): Float32Array {
  const out = new Float32Array(width * height * 2);
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      out[o++] = (x + 0.5) / width;
      out[o++] = (y + 0.5) / height;
    }
  return out;
}
