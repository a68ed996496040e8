import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';

export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

/** How often something is measured: as often as it says, or hardly in a short run, which only shows that the bench still runs. */
export const often = (times: number, hardly = 1): number => (process.env['PEBBLE_BENCH_SHORT'] ? hardly : times);

/** Median milliseconds of several runs, the first one thrown away. */
export async function timed(runs: number, work: () => unknown): Promise<number> {
  const ms: number[] = [];
  for (let i = 0; i <= often(runs); i++) {
    const began = performance.now();
    await work();
    if (i) ms.push(performance.now() - began);
  }
  return median(ms);
}

/** A number of the kernel's account of this process, in MiB. */
const account = (field: 'VmRSS' | 'VmHWM'): number =>
  Number(new RegExp(`${field}:\\s+(\\d+) kB`).exec(readFileSync('/proc/self/status', 'utf8'))?.[1] ?? NaN) / 1024;

/** The most memory that work takes beyond what the process held before it, in MiB: the kernel's high-water mark, set back first. */
export async function peakBeyond(work: () => unknown): Promise<number> {
  (globalThis as { gc?: () => void }).gc?.();
  writeFileSync('/proc/self/clear_refs', '5');
  const before = account('VmRSS');
  await work();
  return account('VmHWM') - before;
}

/** Runs one part of the bench in a process of its own, so that nothing before it counts. Gives the last line it printed. */
export function inOwnProcess<T>(part: string, way: string): T {
  const { stdout, stderr } = spawnSync(process.execPath, ['--expose-gc', process.argv[1], part], {
    encoding: 'utf8',
    env: { ...process.env, PEBBLE_BENCH_WAY: way },
  });
  try {
    return JSON.parse(stdout.trim().split('\n').at(-1) ?? '') as T;
  } catch {
    throw new Error(`${part}, ${way}: ${stderr || stdout}`);
  }
}

export function table(title: string, rows: readonly (readonly [string, string])[]): void {
  console.log(`\n${title}`);
  for (const [name, value] of rows) console.log(`  ${name.padEnd(62)} ${value}`);
}
export const ms = (v: number): string => `${v < 10 ? v.toFixed(2) : v.toFixed(0)} ms`;
export const times = (v: number): string => `${v.toFixed(2)}×`;
