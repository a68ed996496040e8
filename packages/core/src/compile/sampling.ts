import type { KernelCall } from './registry';
import type { ChannelLevel } from './sources';
import { channelOf, slotOf } from './operations/images';
import { CHANNEL_COMPONENTS } from './sources';
import type { Grid } from './cpu';

/** Bytes of addresses kept a tile: bounded, so a tile's memory does not grow with the layers of a blend. */
const KEEP = 8;

/**
 * Texel addresses and weights of bilinear filtering with wrap, for every pixel of a tile. Channels of one surface share
 * them: six maps, one computation. Rounded to float32 step by step, as exact mode on the GPU does it.
 */
export function gridOf(call: KernelCall, level: ChannelLevel): Grid {
  const { memory: m, n, args, node, context } = call;
  const { width: w, height: h } = level;
  const key = `${node.args[0].id}:${w}x${h}`;
  const found = context.grids.get(key);
  if (found) return found;
  const grid = context.spareGrids.pop() ?? (context.grids.size >= KEEP ? takeOldest(context.grids) : makeGrid(context.capacity));
  const [u, v] = args[0];
  const f = Math.fround;
  let exact = true;
  for (let i = 0; i < n; i++) {
    const a = m[u + i];
    const b = m[v + i];
    const x = f(f(f(a - Math.floor(a)) * w) - 0.5);
    const y = f(f(f(b - Math.floor(b)) * h) - 0.5);
    const xf = Math.floor(x);
    const yf = Math.floor(y);
    const fx = x - xf;
    const fy = y - yf;
    const x0 = xf < 0 ? w - 1 : xf >= w ? xf - w : xf;
    const y0 = yf < 0 ? h - 1 : yf >= h ? yf - h : yf;
    const x1 = x0 + 1 === w ? 0 : x0 + 1;
    const y1 = y0 + 1 === h ? 0 : y0 + 1;
    grid.a[i] = y0 * w + x0;
    grid.b[i] = y0 * w + x1;
    grid.c[i] = y1 * w + x0;
    grid.d[i] = y1 * w + x1;
    grid.fx[i] = fx;
    grid.fy[i] = fy;
    if (fx !== 0 || fy !== 0) exact = false;
  }
  grid.exact = exact;
  context.grids.set(key, grid);
  return grid;
}

function takeOldest(grids: Map<string, Grid>): Grid {
  const [key, grid] = grids.entries().next().value as [string, Grid];
  grids.delete(key);
  return grid;
}

const makeGrid = (n: number): Grid => ({
  a: new Int32Array(n),
  b: new Int32Array(n),
  c: new Int32Array(n),
  d: new Int32Array(n),
  fx: new Float32Array(n),
  fy: new Float32Array(n),
  exact: false,
});

/** Bilinear samples of one component of one level into `out`. */
function bilinear(m: Float32Array, out: number, n: number, level: ChannelLevel, component: number, table: Float32Array | null, grid: Grid): void {
  const { data, stride } = level;
  const o = level.offset + component;
  const { a, b, c, d, fx, fy } = grid;
  if (grid.exact) {
    if (table) for (let i = 0; i < n; i++) m[out + i] = table[data[a[i] * stride + o]];
    else for (let i = 0; i < n; i++) m[out + i] = data[a[i] * stride + o];
  } else if (table) {
    for (let i = 0; i < n; i++) {
      const p = table[data[a[i] * stride + o]];
      const q = table[data[c[i] * stride + o]];
      const top = p + (table[data[b[i] * stride + o]] - p) * fx[i];
      const low = q + (table[data[d[i] * stride + o]] - q) * fx[i];
      m[out + i] = top + (low - top) * fy[i];
    }
  } else {
    for (let i = 0; i < n; i++) {
      const p = data[a[i] * stride + o];
      const q = data[c[i] * stride + o];
      const top = p + (data[b[i] * stride + o] - p) * fx[i];
      const low = q + (data[d[i] * stride + o] - q) * fx[i];
      m[out + i] = top + (low - top) * fy[i];
    }
  }
}

/** Kernel of the image operation: bilinear inside a level, linear between two levels. */
export function sampleChannel(call: KernelCall): void {
  const { memory: m, n, out, args, node, context } = call;
  const source = context.sources(slotOf(node), channelOf(node));
  const last = source.levels.length - 1;
  const level = args[1][0];
  let lowest = last;
  let highest = 0;
  for (let i = 0; i < n; i++) {
    const l = Math.min(last, m[level + i]);
    if (Math.floor(l) < lowest) lowest = Math.floor(l);
    if (Math.ceil(l) > highest) highest = Math.ceil(l);
  }
  for (let component = 0; component < CHANNEL_COMPONENTS[channelOf(node)]; component++) {
    const o = out[component];
    bilinear(m, o, n, source.levels[lowest], component, source.table, gridOf(call, source.levels[lowest]));
    for (let l = lowest + 1; l <= highest; l++) {
      const next = context.spare;
      bilinear(m, next, n, source.levels[l], component, source.table, gridOf(call, source.levels[l]));
      // Pixels whose level lies past l − 1 move on toward level l; the others keep what they have.
      for (let i = 0; i < n; i++) {
        const t = Math.min(1, Math.min(last, m[level + i]) - (l - 1));
        if (t > 0) m[o + i] = m[o + i] + (m[next + i] - m[o + i]) * t;
      }
    }
    if (source.signed) for (let i = 0; i < n; i++) m[o + i] = m[o + i] * 2 - 1;
  }
}
