import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { ScrubField } from '../../../ui/scrub-field';
import type { LayoutMend } from './layout-findings';
import { UNITS, layoutFindings, sizeText } from './layout-findings';
import { SpecimenModel } from './specimen-model';
import { nameFrom } from '../../../ui/name';

/** Facts of a specimen, what was found in its coordinates with mends, and its parts. */
@Component({
  selector: 'pb-specimen-tray',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './specimen-tray.html',
  styleUrls: ['../tray.scss', './specimen-tray.scss'],
})
export class SpecimenTray {
  readonly model = inject(SpecimenModel);
  readonly units = UNITS;
  readonly findings = computed(() => {
    const [facts, body] = [this.model.facts(), this.model.body()];
    return facts && body ? layoutFindings(facts, this.model.parts(), body, this.model.side()) : null;
  });
  readonly size = computed(() => {
    const bounds = this.model.facts()?.bounds;
    return bounds ? sizeText(bounds.hi.map((v, c) => v - bounds.lo[c])) : '…';
  });
  readonly triangles = computed(() =>
    this.model
      .parts()
      .reduce((n, p) => n + p.triangles, 0)
      .toLocaleString('en'),
  );

  mend(mend: LayoutMend): void {
    if (mend.do === 'allow') this.model.allow(mend.key, mend.on, mend.names);
    else if (mend.do === 'unit') this.setUnit(mend.unitM);
    else void this.model.layOut(mend.do);
  }
  setUnit(unitM: number): void {
    this.model.edit(`Read ${this.model.body()?.name ?? 'it'} in ${UNITS.find((u) => u.unitM === unitM)?.name ?? `units of ${unitM} m`}`, (d) => {
      d.unitM = unitM;
    });
  }
  setUp(up: string): void {
    this.model.edit(`${up.toUpperCase()} is up`, (d) => {
      d.up = up === 'z' ? 'z' : 'y';
    });
  }
  rename(text: string): void {
    const name = nameFrom(text);
    if (name) this.model.edit(`Rename to ${name}`, (d) => void (d.name = name));
  }
  unitName = (unitM: number): string => UNITS.find((u) => u.unitM === unitM)?.name ?? '';
}
