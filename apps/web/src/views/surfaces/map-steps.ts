import { ChangeDetectionStrategy, Component, computed, input, linkedSignal, output } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { MapRecipe, Role, Step, StepDefinition, StepKind, SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS, STEPS, STEP_KINDS, inOrder, valuesOf } from '@pebble/core';
import { recipeOfMap } from '@pebble/usecases';
import { ScrubField } from '../../ui/scrub-field';
import type { MendOrder } from './findings';
import { withStep } from './mends';

/** How one map is made: its source, a file or another map, and the steps between that and what is used. */
@Component({
  selector: 'pb-map-steps',
  imports: [MatMenuModule, MatTooltipModule, ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './map-steps.html',
  styleUrl: './map-steps.scss',
})
export class MapSteps {
  readonly surface = input.required<SurfaceDocument>();
  readonly busy = input(false);
  readonly changed = output<MendOrder>();
  readonly kinds = STEP_KINDS.map((kind) => ({ kind, label: STEPS[kind].label, help: STEPS[kind].help }));
  readonly roles = computed(() => ROLES.filter((r) => this.surface().maps[r]).map((id) => ({ id, label: ROLE_FACTS[id].label })));
  readonly role = linkedSignal<readonly { id: Role }[], Role | null>({
    source: this.roles,
    computation: (roles, before) => (before?.value && roles.some((r) => r.id === before.value) ? before.value : (roles.at(0)?.id ?? null)),
  });
  readonly entry = computed(() => {
    const role = this.role();
    return role ? this.surface().maps[role] : undefined;
  });
  readonly recipe = computed(() => {
    const entry = this.entry();
    return entry ? recipeOfMap(entry) : null;
  });
  readonly steps = computed(() =>
    inOrder(this.recipe()?.steps ?? {}).map((s) => {
      const definition: StepDefinition = STEPS[s.kind];
      const values = valuesOf(s.kind, s.values);
      return {
        ...s,
        label: definition.label,
        help: definition.help,
        values: Object.entries(definition.values).map(([name, v]) => ({ name, ...v, value: values[name] })),
      };
    }),
  );
  readonly sourceText = computed(() => {
    const source = this.recipe()?.source;
    return !source ? '' : 'role' in source ? `the ${ROLE_FACTS[source.role].label.toLowerCase()} map, which it follows` : source.fileName;
  });

  private send(label: string, steps: MapRecipe['steps']): void {
    const [role, recipe] = [this.role(), this.recipe()];
    if (!role || !recipe) return;
    this.changed.emit({ label: `${label}: ${ROLE_FACTS[role].label.toLowerCase()}`, changes: [{ role, source: recipe.source, steps }] });
  }
  private change(id: string, label: string, change: (step: Step) => void): void {
    const steps = structuredClone(this.recipe()?.steps ?? {});
    change(steps[id]);
    this.send(label, steps);
  }

  add = (kind: StepKind): void => this.send(STEPS[kind].label, withStep(this.recipe()?.steps ?? {}, kind));
  set = (id: string, label: string, name: string, value: number): void => this.change(id, label, (s) => (s.values = { ...s.values, [name]: value }));
  turn = (id: string, label: string, on: boolean): void => this.change(id, `${label} ${on ? 'on' : 'off'}`, (s) => (s.on = on));
  remove(id: string, label: string): void {
    const steps = { ...this.recipe()?.steps };
    delete steps[id];
    this.send(`Without ${label.toLowerCase()}`, steps);
  }
  /** Changes places with the step before. */
  earlier(id: string, label: string): void {
    const list = this.steps();
    const at = list.findIndex((s) => s.id === id);
    const steps = structuredClone(this.recipe()?.steps ?? {});
    [steps[id].order, steps[list[at - 1].id].order] = [list[at - 1].order, list[at].order];
    this.send(`${label} earlier`, steps);
  }
}
