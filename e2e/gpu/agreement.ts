// Runs in the browser: how far the GPU is from the processor.
export interface Agreement {
  name: string;
  /** Largest |Δ| / max(1, |x|). */
  worst: number;
  /** Share of values past 1e-4. */
  beyond: number;
  finite: boolean;
}

export const gl = () => {
  const canvas = document.createElement('canvas');
  return canvas.getContext('webgl2') as WebGL2RenderingContext;
};

export function compare(name: string, cpu: Record<string, Float32Array[]>, gpu: Record<string, Float32Array[]>): Agreement {
  let worst = 0;
  let beyond = 0;
  let count = 0;
  let finite = true;
  for (const [key, planes] of Object.entries(cpu))
    planes.forEach((plane, c) =>
      plane.forEach((v, i) => {
        const w = gpu[key][c][i];
        finite &&= Number.isFinite(v) && Number.isFinite(w);
        const off = Math.abs(v - w) / Math.max(1, Math.abs(v));
        if (off > worst) worst = off;
        if (off > 1e-4) beyond++;
        count++;
      }),
    );
  return { name, worst, beyond: beyond / count, finite };
}
