import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { proofSummary } from '@pebble/core';
import { Delivery } from './delivery';

/** The figures of a proof: bits of lossless files, what lossy ones lost, slots under light. */
@Component({
  selector: 'pb-proof-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h3>Proof</h3>
    @if (delivery.proof(); as proof) {
      <dl data-testid="proof">
        <div>
          <dt>lossless, to the bit</dt>
          <dd class="num" [class.bad]="summary()!.identical < summary()!.lossless">{{ summary()!.identical }} of {{ summary()!.lossless }}</dd>
        </div>
        @if (summary()!.lossy) {
          <div>
            <dt>{{ summary()!.lossy }} in blocks, at worst</dt>
            <dd class="num">{{ summary()!.psnr?.toFixed(1) }} dB</dd>
          </div>
          <div>
            <dt>directions, mean of the worst</dt>
            <dd class="num">{{ summary()!.degrees.toFixed(2) }}°</dd>
          </div>
          <div>
            <dt>colours, mean of the worst</dt>
            <dd class="num">ΔE {{ summary()!.deltaE.toFixed(2) }}</dd>
          </div>
        }
        @for (l of lit(); track l.name) {
          <div>
            <dt [title]="l.name">{{ l.name }}, lit</dt>
            <dd class="num">ΔE {{ l.mean.toFixed(2) }}</dd>
          </div>
        }
      </dl>
      @for (p of proof.problems; track p.path) {
        <p class="bad">{{ p.message }}</p>
      } @empty {
        <p class="quiet">Lossy files are within what the bundle says of them.</p>
      }
    } @else {
      <p class="quiet">
        {{
          delivery.bundle()
            ? 'The bundle is compared, decoded, with what is authored now.'
            : 'Once it is delivered, the bundle is decoded and compared with what was authored: to the bit, or in decibels, degrees and ΔE2000.'
        }}
      </p>
      @if (delivery.bundle() && !proving()) {
        <p><button class="pill" (click)="delivery.prove()">Compare</button></p>
      }
    }
  `,
  styles: `
    dl {
      margin: 4px 0;
    }
    div {
      display: flex;
      justify-content: space-between;
      gap: 8px;
      padding: 2px 0;
      border-bottom: 1px solid var(--line);
    }
    dt {
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    dd {
      margin: 0;
      flex: none;
    }
    .bad {
      color: var(--error);
    }
  `,
})
export class ProofCard {
  readonly delivery = inject(Delivery);
  readonly summary = computed(() => {
    const proof = this.delivery.proof();
    return proof && proofSummary(proof);
  });
  readonly proving = computed(() => ['waiting', 'running'].includes(this.delivery.proofJob()?.status ?? ''));
  /** Slots by how far they are off under light, the worst first; targets that show the same are told once. */
  readonly lit = computed(() => {
    const worst = new Map<string, number>();
    for (const { asset, slot, deltaE } of this.delivery.proof()?.lit ?? []) {
      const name = `${asset}, ${slot}`;
      worst.set(name, Math.max(worst.get(name) ?? 0, deltaE.mean));
    }
    return [...worst].map(([name, mean]) => ({ name, mean })).sort((a, b) => b.mean - a.mean);
  });
}
