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
      args,
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
