/**
 * Tangent-space normals of a tileable height field in metres, as xyz triples of unit length and Y+ direction:
 * `n ∝ (−∂h/∂col, +∂h/∂row, 1)` with central differences and wrap. `texelM` is the side of a texel in metres.
 */
export function normalsFromHeight(heightM: Float32Array, width: number, height: number, texelM: number): Float32Array {
  const out = new Float32Array(width * height * 3);
  const k = 0.5 / texelM;
  for (let y = 0; y < height; y++) {
    const up = ((y + height - 1) % height) * width;
    const down = ((y + 1) % height) * width;
    for (let x = 0; x < width; x++) {
      const left = y * width + ((x + width - 1) % width);
      const right = y * width + ((x + 1) % width);
      const p = -(heightM[right] - heightM[left]) * k;
      const q = (heightM[down + x] - heightM[up + x]) * k;
      const inv = 1 / Math.sqrt(p * p + q * q + 1);
      const at = (y * width + x) * 3;
      out[at] = p * inv;
      out[at + 1] = q * inv;
      out[at + 2] = inv;
    }
  }
  return out;
}

/** Mean over a (2r+1)² box with wrap, by running sums; r in texels. */
export function boxBlur(values: Float32Array, width: number, height: number, r: number): Float32Array {
  const pass = (from: Float32Array, to: Float32Array, lines: number, length: number, line: number, step: number) => {
    const scale = 1 / (2 * r + 1);
    for (let l = 0; l < lines; l++) {
      const at = l * line;
      let sum = 0;
      for (let k = -r; k <= r; k++) sum += from[at + (((k % length) + length) % length) * step];
      for (let i = 0; i < length; i++) {
        to[at + i * step] = sum * scale;
        sum += from[at + ((i + r + 1) % length) * step] - from[at + ((((i - r) % length) + length) % length) * step];
      }
    }
  };
  const across = new Float32Array(values.length);
  const out = new Float32Array(values.length);
  pass(values, across, height, width, width, 1);
  pass(across, out, width, height, 1, width);
  return out;
}

/**
 * Occlusion (1 open, 0 closed) that belongs to a tileable height field in metres: at three radii the mean of the
 * surroundings stands for the horizon; what rises above the point by the radius itself closes it. Own method.
 */
export function occlusionFromHeight(heightM: Float32Array, width: number, height: number, texelM: number): Float32Array {
  const out = new Float32Array(heightM.length).fill(1);
  for (const radiusM of [0.006, 0.02, 0.06]) {
    const r = Math.round(radiusM / texelM);
    if (r < 1 || 2 * r + 1 > Math.min(width, height)) continue;
    const around = boxBlur(heightM, width, height, r);
    for (let i = 0; i < out.length; i++) {
      const rise = Math.max(0, (around[i] - heightM[i]) / radiusM);
      out[i] *= 1 / (1 + 1.6 * rise);
    }
  }
  return out;
}
