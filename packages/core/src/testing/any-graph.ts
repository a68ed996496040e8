import type { MasterDocument, Source } from '../document';
import { linkTo, makeMaster, makeOperation, valueOf } from '../document';
import type { GraphStep, PortType } from '../graph';
import { stepKinds } from '../graph/catalogue';
import { NO_CONTEXT } from '../graph/step';

type Wide = 1 | 2 | 3 | 4;
const WIDE: Partial<Record<PortType, Wide>> = { float: 1, vec2: 2, vec3: 3, vec4: 4 };

/** Steps on numbers that need nothing of a project. */
export const plainSteps = (): GraphStep[] =>
  stepKinds().filter(
    (k) => !['surfaces', 'images'].includes(k.group) && !['formula', 'switch', 'heighttonormal', 'stamps', 'water'].includes(k.name),
  );

/** A graph of typed steps that all fit, each fed by earlier ones or by numbers. @param next numbers from 0 up to 1 */
export function anyGraph(next: () => number, size: number): MasterDocument {
  const pick = <T>(list: readonly T[]): T => list[Math.min(list.length - 1, Math.floor(next() * list.length))];
  const d = makeMaster('Random');
  const made: { id: string; port: string; wide: Wide }[] = [];
  const steps = plainSteps();
  const numbers = (wide: Wide): Source => valueOf(...Array.from({ length: wide }, () => Math.round((next() * 4 - 1.5) * 64) / 64));
  /** Something of a width: an earlier output, a float, which goes with every component, or numbers. */
  const feed = (wide: Wide): { source: Source; wide: Wide } => {
    const fits = made.filter((m) => m.wide === wide || m.wide === 1);
    if (!fits.length || next() < 0.2) return { source: numbers(wide), wide };
    const from = pick(fits);
    return { source: linkTo(from.id, from.port), wide: from.wide };
  };
  for (let i = 0; i < size; i++) {
    const kind = pick(steps);
    const id = `n${i}`;
    const op = makeOperation(kind.name, i + 1);
    for (const s of kind.settings)
      if (s.choices) op.settings[s.name] = kind.name === 'extract' ? 0 : s.name === 'content' ? 'numbers' : pick(s.choices);
    // Ports that take what comes are all of one width, or floats.
    const common = pick([1, 2, 3] as const);
    let wide: Wide = 1;
    for (const input of kind.inputs(op, NO_CONTEXT)) {
      if (typeof input.initial === 'string' && next() < 0.6) continue;
      const own = WIDE[input.type];
      const given = input.whole ? { source: valueOf(1 + Math.floor(next() * 6)), wide: 1 as Wide } : feed(own ?? (next() < 0.4 ? 1 : common));
      op.inputs[input.name] = given.source;
      if (own === undefined && given.wide > wide) wide = given.wide;
    }
    if (kind.name === 'swizzle') op.settings['channels'] = 'xxx';
    d.operations[id] = op;
    for (const out of kind.outputs(op, NO_CONTEXT).slice(0, 1)) {
      made.push({ id, port: out.name, wide: kind.name === 'swizzle' ? 3 : (WIDE[out.type] ?? wide) });
    }
  }
  for (const [output, wide] of [
    ['baseColor', 3],
    ['roughness', 1],
  ] as const) {
    const from = [...made].reverse().find((m) => m.wide === wide) ?? made.find((m) => m.wide === 1);
    if (from) d.outputs[output] = linkTo(from.id, from.port);
  }
  return d;
}
