import type { DagNode } from '../compile';
import { CpuProgram, optimise } from '../compile';
import { Recent } from '../recent';
import type { Material } from './material';

/** Programs that are kept at most: each has about a megabyte of scratch. */
const MAX_PROGRAMS = 20;
/** Places a tile of programs that look at few of them. */
export const FEW_PLACES = 512;

const nameOf = ({ key }: Pick<Material, 'key'>, purpose: string): string => `${purpose} ${key}`;

/**
 * Programs for the processor, each built once for what a material is and what is wanted of it: another number builds none.
 * One for each thread.
 */
export class MaterialPrograms {
  private readonly programs = new Recent<string, CpuProgram>(MAX_PROGRAMS);

  /** @param purpose tells apart what is wanted of one material */
  of(material: Pick<Material, 'key'>, purpose: string, outputs: () => Record<string, DagNode>, tilePixels = FEW_PLACES): CpuProgram {
    return this.programs.of(nameOf(material, purpose), () => new CpuProgram(optimise(outputs()).outputs, tilePixels));
  }

  /** Builds a program a piece at a time, for those who must let others in between. */
  *building(material: Pick<Material, 'key'>, purpose: string, outputs: () => Record<string, DagNode>, tilePixels = FEW_PLACES): Generator<void> {
    const name = nameOf(material, purpose);
    if (this.programs.has(name)) return;
    const wanted = outputs();
    yield;
    const program = new CpuProgram(optimise(wanted).outputs, tilePixels, true);
    yield;
    yield* program.pieces();
    this.programs.set(name, program);
  }
}
