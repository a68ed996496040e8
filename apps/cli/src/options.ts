import { MAX_SIDE } from '@pebble/core';
import type { BandEvaluator } from '@pebble/usecases';
import { parseArgs } from 'node:util';

/** The command was called in a way that cannot be understood. */
export class UsageError extends Error {}

export type Print = (text: string) => void;
export interface Command {
  usage: string;
  help: string;
  run: (args: string[], cwd: string, print: Print, bands?: BandEvaluator) => Promise<void>;
}

/** A negative number behind an option that takes a value is that value, as people type it, and not another option. */
function withNegatives(args: readonly string[], taking: readonly string[]): string[] {
  const out: string[] = [];
  for (let i = 0; i < args.length; i++) {
    if (args[i] === '--') return [...out, ...args.slice(i)];
    const next = args[i + 1];
    const joins = args[i].startsWith('--') && taking.includes(args[i].slice(2)) && /^-(\d|\.\d)/.test(next ?? '');
    out.push(joins ? `${args[i]}=${args[++i]}` : args[i]);
  }
  return out;
}

/** Options as text; the ones named in `required` must be there. */
export function options(
  args: string[],
  names: string[],
  required: string[],
  flags: string[] = [],
  repeated: string[] = [],
): { values: Record<string, string>; positionals: string[]; on: Set<string>; many: Record<string, string[]> } {
  let parsed: ReturnType<typeof parseArgs>;
  try {
    parsed = parseArgs({
      args: withNegatives(args, [...names, ...repeated]),
      allowPositionals: true,
      options: Object.fromEntries([
        ...names.map((n) => [n, { type: 'string' as const }]),
        ...flags.map((n) => [n, { type: 'boolean' as const }]),
        ...repeated.map((n) => [n, { type: 'string' as const, multiple: true }]),
      ]),
    });
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
  const values = parsed.values as Record<string, string>;
  for (const name of required) if (values[name] === undefined) throw new UsageError(`--${name} is missing`);
  const many = Object.fromEntries(repeated.map((n) => [n, (parsed.values[n] as string[] | undefined) ?? []]));
  return { values, positionals: parsed.positionals, on: new Set(flags.filter((f) => parsed.values[f])), many };
}

export function number(values: Record<string, string>, name: string, fallback: number, lo: number, hi: number, whole = false): number {
  const text = values[name];
  if (text === undefined) return fallback;
  const value = Number(text);
  if (text.trim() === '' || !(value >= lo && value <= hi) || (whole && !Number.isInteger(value)))
    throw new UsageError(`--${name} takes a ${whole ? 'whole ' : ''}number from ${lo} to ${hi}, not "${text}"`);
  return value;
}

/** Side of a picture in pixels. */
export const sizeOf = (values: Record<string, string>, fallback: number): number => number(values, 'size', fallback, 1, MAX_SIDE, true);
