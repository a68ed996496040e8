/**
 * Looks for the place where a function is least, from `start`, by the downhill simplex (Nelder & Mead 1965). `step` is
 * the size of the first simplex; stops after `rounds`.
 */
export function minimise(of: (x: number[]) => number, start: readonly number[], step: number, rounds: number): number[] {
  const valued = (x: number[]) => ({ x, value: of(x) });
  const simplex = [[...start], ...start.map((_, i) => start.map((v, j) => (i === j ? v + step : v)))].map(valued);
  const last = start.length;
  for (let round = 0; round < rounds; round++) {
    simplex.sort((a, b) => a.value - b.value);
    const [best, second, worst] = [simplex[0], simplex[last - 1], simplex[last]];
    const middle = start.map((_, j) => simplex.slice(0, last).reduce((sum, p) => sum + p.x[j], 0) / last);
    const beyond = (t: number) => valued(middle.map((v, j) => v + t * (v - worst.x[j])));
    const mirrored = beyond(1);
    if (mirrored.value < best.value) {
      const further = beyond(2);
      simplex[last] = further.value < mirrored.value ? further : mirrored;
    } else if (mirrored.value < second.value) simplex[last] = mirrored;
    else {
      const nearer = beyond(mirrored.value < worst.value ? 0.5 : -0.5);
      if (nearer.value < Math.min(worst.value, mirrored.value)) simplex[last] = nearer;
      else for (let i = 1; i <= last; i++) simplex[i] = valued(simplex[i].x.map((v, j) => (v + best.x[j]) / 2));
    }
  }
  return simplex.reduce((a, b) => (b.value < a.value ? b : a)).x;
}

/** Solves a few linear equations by Gaussian elimination with the largest pivot; `matrix` is given by rows. */
export function solve(matrix: number[][], right: number[]): number[] {
  const n = right.length;
  const rows = matrix.map((row, i) => [...row, right[i]]);
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(rows[i][k]) > Math.abs(rows[pivot][k])) pivot = i;
    [rows[k], rows[pivot]] = [rows[pivot], rows[k]];
    for (let i = k + 1; i < n; i++) {
      const factor = rows[i][k] / rows[k][k];
      for (let j = k; j <= n; j++) rows[i][j] -= factor * rows[k][j];
    }
  }
  const out = new Array<number>(n).fill(0);
  for (let k = n - 1; k >= 0; k--) out[k] = (rows[k][n] - out.reduce((sum, v, j) => (j > k ? sum + v * rows[k][j] : sum), 0)) / rows[k][k];
  return out;
}
