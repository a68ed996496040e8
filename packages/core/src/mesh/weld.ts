/**
 * For every vertex, the first one whose values are the same bit for bit (−0 counts as 0). `arrays` are flat, with as many
 * values a vertex as `widths` says.
 */
export function weld(arrays: readonly Float32Array[], widths: readonly number[]): Uint32Array {
  const count = arrays[0].length / widths[0];
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, count * 2)));
  const table = new Int32Array(size).fill(-1);
  const bits = arrays.map((a) => {
    const plain = a.map((v) => v + 0);
    return new Uint32Array(plain.buffer, 0, plain.length);
  });
  const same = (a: number, b: number): boolean => {
    for (let k = 0; k < bits.length; k++)
      for (let c = 0; c < widths[k]; c++) if (bits[k][a * widths[k] + c] !== bits[k][b * widths[k] + c]) return false;
    return true;
  };
  const out = new Uint32Array(count);
  for (let i = 0; i < count; i++) {
    let hash = 0x9e3779b9;
    for (let k = 0; k < bits.length; k++)
      for (let c = 0; c < widths[k]; c++) {
        hash = Math.imul(hash ^ bits[k][i * widths[k] + c], 0x85ebca6b);
        hash ^= hash >>> 15;
      }
    let slot = hash & (size - 1);
    while (table[slot] >= 0 && !same(table[slot], i)) slot = (slot + 1) & (size - 1);
    if (table[slot] < 0) table[slot] = i;
    out[i] = table[slot];
  }
  return out;
}
