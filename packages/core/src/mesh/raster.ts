// Triangles on a grid of samples, watertight: of triangles that share an edge, exactly one takes a sample that lies on it.

/** Parts of a pixel that corners are rounded to; all sums below are then whole numbers, and exact. */
const GRAIN = 256;

/** Which samples are wanted: pixels `[x0, x1) × [y0, y1)`. */
export interface Window {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/**
 * Calls `put` for every pixel whose centre lies in a triangle, with the shares of the three corners. Coordinates in pixels,
 * y down; either winding. A centre on an edge belongs to the triangle that lies right of or below it.
 */
export function fillTriangle(
  corners: readonly number[],
  { x0, y0, x1, y1 }: Window,
  put: (x: number, y: number, a: number, b: number, c: number) => void,
): void {
  const ax = Math.round(corners[0] * GRAIN);
  const ay = Math.round(corners[1] * GRAIN);
  let bx = Math.round(corners[2] * GRAIN);
  let by = Math.round(corners[3] * GRAIN);
  let cx = Math.round(corners[4] * GRAIN);
  let cy = Math.round(corners[5] * GRAIN);
  const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
  if (!area || !Number.isFinite(area)) return;
  const turned = area < 0;
  if (turned) [bx, by, cx, cy] = [cx, cy, bx, by];
  const whole = Math.abs(area);
  const left = Math.max(x0, Math.floor(Math.min(ax, bx, cx) / GRAIN));
  const right = Math.min(x1 - 1, Math.floor(Math.max(ax, bx, cx) / GRAIN));
  const top = Math.max(y0, Math.floor(Math.min(ay, by, cy) / GRAIN));
  const bottom = Math.min(y1 - 1, Math.floor(Math.max(ay, by, cy) / GRAIN));
  // An edge takes the samples on it when it runs up, or right along a top: then zero counts as inside.
  const edge = (px: number, py: number, qx: number, qy: number) => ({
    dx: qx - px,
    dy: qy - py,
    px,
    py,
    own: qy < py || (qy === py && qx > px) ? 0 : 1,
  });
  const ea = edge(bx, by, cx, cy);
  const eb = edge(cx, cy, ax, ay);
  const ec = edge(ax, ay, bx, by);
  for (let y = top; y <= bottom; y++) {
    const sy = y * GRAIN + GRAIN / 2;
    for (let x = left; x <= right; x++) {
      const sx = x * GRAIN + GRAIN / 2;
      const wa = ea.dx * (sy - ea.py) - ea.dy * (sx - ea.px);
      const wb = eb.dx * (sy - eb.py) - eb.dy * (sx - eb.px);
      const wc = ec.dx * (sy - ec.py) - ec.dy * (sx - ec.px);
      if (wa < ea.own || wb < eb.own || wc < ec.own) continue;
      if (turned) put(x, y, wa / whole, wc / whole, wb / whole);
      else put(x, y, wa / whole, wb / whole, wc / whole);
    }
  }
}
