import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { WorkbenchService } from '../../services/workbench.service';
import { bytesText } from '../../ui/bytes';
import { Frame } from '../../ui/frame';
import type { DeliveryRow } from '../../workers/deliver.protocol';
import { DeliverStage } from './deliver-stage';
import { Delivery } from './delivery';
import { PreflightList } from './preflight-list';
import { ProofCard } from './proof-card';

/** The last view of the course: what leaves, whether it may, and whether it is what was seen. */
@Component({
  selector: 'pb-deliver',
  imports: [DeliverStage, Frame, PreflightList, ProofCard, ScrollingModule],
  providers: [Delivery],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './deliver.view.html',
  styleUrl: './deliver.view.scss',
})
export class DeliverView {
  readonly delivery = inject(Delivery);
  readonly bytes = bytesText;
  readonly rows = computed<readonly DeliveryRow[]>(() => this.delivery.view()?.rows ?? []);
  readonly track = (_: number, row: DeliveryRow): string => row.path;
  readonly busy = computed(() => ['waiting', 'running'].includes(this.delivery.job()?.status ?? ''));
  readonly proving = computed(() => {
    const job = this.delivery.proofJob();
    return job && ['waiting', 'running'].includes(job.status) ? job : null;
  });
  /** Files are told apart by their names; where they lie stands in their hint. */
  nameOf = ({ path }: DeliveryRow): string => path.slice(path.lastIndexOf('/') + 1);
  /** Whose a file is, where there are several. */
  forOf({ target }: DeliveryRow): string {
    const name = this.delivery.chosen().length > 1 && this.delivery.targets().find((t) => t.id === target)?.body.name;
    return name ? `${name} · ` : '';
  }
  /** What files took in the last bundle. */
  private readonly delivered = computed(() => new Map((this.delivery.manifest()?.files ?? []).map((f) => [f.path, f])));
  sizeOf = (row: DeliveryRow): string => {
    const made = this.delivered().get(row.path);
    return made ? bytesText(made.bytes) : `≈ ${bytesText(row.about)}`;
  };
  /** What its blocks lost, as it was decoded. */
  lostBy = (row: DeliveryRow): string => {
    const quality = this.delivered().get(row.path)?.quality;
    if (!quality) return '';
    if (quality.angle) return `${quality.angle.mean.toFixed(2)}°`;
    if (quality.deltaE) return `ΔE ${quality.deltaE.mean.toFixed(2)}`;
    const worst = Math.min(...quality.channels.map((c) => c.psnr ?? Infinity));
    return Number.isFinite(worst) ? `${worst.toFixed(1)} dB` : 'equal';
  };

  constructor() {
    const workbench = inject(WorkbenchService);
    workbench.meter.set(null);
    workbench.open(this.delivery.project()?.id ?? null);
  }
}
