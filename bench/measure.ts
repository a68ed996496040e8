export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

/** Median milliseconds of several runs, the first one thrown away. */
export async function timed(runs: number, work: () => unknown): Promise<number> {
  const ms: number[] = [];
  for (let i = 0; i <= runs; i++) {
    const began = performance.now();
    await work();
    if (i) ms.push(performance.now() - began);
  }
  return median(ms);
}

/** The most memory a process had beyond what it began with, in MiB, sampled while work runs. */
export async function peak(work: () => Promise<unknown>): Promise<number> {
  (globalThis as { gc?: () => void }).gc?.();
  const before = process.memoryUsage().rss;
  let most = before;
  const timer = setInterval(() => (most = Math.max(most, process.memoryUsage().rss)), 5);
  await work();
  most = Math.max(most, process.memoryUsage().rss);
  clearInterval(timer);
  return (most - before) / 2 ** 20;
}

export function table(title: string, rows: readonly (readonly [string, string])[]): void {
  console.log(`\n${title}`);
  for (const [name, value] of rows) console.log(`  ${name.padEnd(62)} ${value}`);
}
export const ms = (v: number): string => `${v < 10 ? v.toFixed(2) : v.toFixed(0)} ms`;
export const times = (v: number): string => `${v.toFixed(2)}×`;
