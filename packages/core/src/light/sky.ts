export type Vec3 = [number, number, number];
/** Radiance that arrives from a direction (unit, +Y up), linear. */
export type Sky = (direction: readonly number[], out: Vec3) => Vec3;

/** A distant light of its own beside the sky: what throws the shadow. */
export interface KeyLight {
  /** Unit vector toward it. */
  direction: readonly number[];
  /** Linear, in the unit of the sky. */
  radiance: readonly number[];
  /** Width of its shadow's edge for each metre behind the edge that throws it: tangent of the light's width. */
  spread: number;
}

const toward = (...v: Vec3): Vec3 => {
  const l = Math.hypot(...v);
  return [v[0] / l, v[1] / l, v[2] / l];
};
const dotted = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** The overcast sky's: about 38° high, from the left behind the viewer. Low and strong enough that relief of 15° reads. */
const OVERCAST_KEY: KeyLight = { direction: toward(-0.633, 0.6157, 0.4693), radiance: [3, 2.8, 2.48], spread: 0.12 };
const LOW_KEY: KeyLight = { direction: toward(-0.86, 0.27, 0.43), radiance: [4.6, 3.1, 1.7], spread: 0.03 };
const NOON_KEY: KeyLight = { direction: toward(-0.22, 0.95, 0.24), radiance: [4.4, 4.2, 3.8], spread: 0.012 };
const SHED_KEY: KeyLight = { direction: toward(-0.83, 0.42, 0.36), radiance: [1.5, 1.6, 1.7], spread: 0.3 };

/** Ground of a reflectance below the horizon, lighter near it. */
function ground(up: number, near: Vec3, below: Vec3, out: Vec3): Vec3 {
  const fade = Math.min(1, -up * 6);
  for (let c = 0; c < 3; c++) out[c] = near[c] + (below[c] - near[c]) * fade;
  return out;
}

/**
 * A thin overcast over a hillside: brighter toward the zenith as (1 + 2 sin θ)/3 (CIE standard overcast sky, ISO
 * 15469:2004, type 1), with a glow about the key light and ground of 0.16 reflectance below.
 */
export const overcast: Sky = (d, out) => {
  const up = d[1];
  if (up < 0) return ground(up, [0.24, 0.25, 0.27], [0.15, 0.13, 0.11], out);
  const base = 0.52 * (1 + 2 * up);
  const glow = 0.9 * Math.max(0, dotted(d, OVERCAST_KEY.direction)) ** 10;
  out[0] = base * 0.33 + glow * 0.95;
  out[1] = base * 0.36 + glow * 0.9;
  out[2] = base * 0.41 + glow * 0.8;
  return out;
};

const LOW_FLAT = Math.hypot(LOW_KEY.direction[0], LOW_KEY.direction[2]);

/** A clear evening: deep blue above, a warm band along the horizon that is brightest under the sun. Own gradients. */
export const lowSun: Sky = (d, out) => {
  const up = d[1];
  if (up < 0) return ground(up, [0.3, 0.21, 0.15], [0.12, 0.09, 0.07], out);
  const near = Math.max(0, dotted(d, LOW_KEY.direction));
  const level = Math.max(0, (d[0] * LOW_KEY.direction[0] + d[2] * LOW_KEY.direction[2]) / LOW_FLAT);
  const band = Math.exp(-up * 6) * (0.35 + 0.65 * level ** 2);
  const halo = 1.6 * near ** 24;
  out[0] = 0.1 + 0.06 * up + 0.95 * band + halo;
  out[1] = 0.16 + 0.1 * up + 0.5 * band + 0.66 * halo;
  out[2] = 0.3 + 0.16 * up + 0.18 * band + 0.3 * halo;
  return out;
};

/** A clear sky at noon: darker blue toward the zenith away from the sun, pale at the horizon. Own gradients. */
export const noon: Sky = (d, out) => {
  const up = d[1];
  if (up < 0) return ground(up, [0.4, 0.37, 0.31], [0.26, 0.22, 0.17], out);
  const pale = Math.exp(-up * 3.2);
  const halo = 1.1 * Math.max(0, dotted(d, NOON_KEY.direction)) ** 14;
  out[0] = 0.2 + 0.34 * pale + halo;
  out[1] = 0.34 + 0.3 * pale + 0.96 * halo;
  out[2] = 0.62 + 0.14 * pale + 0.88 * halo;
  return out;
};

const WINDOW_TURN = Math.atan2(SHED_KEY.direction[0], SHED_KEY.direction[2]);
const WINDOW_HEIGHT = Math.asin(SHED_KEY.direction[1]);
/** 1 within, 0 past 1, soft between. */
const soft = (x: number) => 1 / (1 + Math.exp((x - 1) * 9));

/** Inside a drying shed: dim boards all round, light from one window to the left and a little through the door behind. */
export const shedInterior: Sky = (d, out) => {
  const boards = 0.05 + 0.03 * Math.max(0, d[1]) + 0.02 * Math.max(0, -d[0]);
  // The window is a soft-edged rectangle about the direction of the key light, 34° wide and 26° high.
  const turn = Math.atan2(d[0], d[2]) - WINDOW_TURN;
  const across = Math.abs(((turn + 3 * Math.PI) % (2 * Math.PI)) - Math.PI) / 0.3;
  const height = Math.abs(Math.asin(Math.min(1, Math.max(-1, d[1]))) - WINDOW_HEIGHT) / 0.23;
  const window = 5.2 * soft(across) * soft(height);
  const door = d[2] > 0 ? 0.5 * soft(Math.sqrt((d[0] - 0.3) ** 2 + (d[1] - 0.05) ** 2) / 0.35) : 0;
  out[0] = boards * 1.25 + 0.9 * window + door;
  out[1] = boards * 1.0 + 0.97 * window + 0.92 * door;
  out[2] = boards * 0.72 + 1.05 * window + 0.8 * door;
  return out;
};

/** Skies that ship with the product, in the order in which they are offered. */
export const SKIES = {
  overcast: { title: 'Overcast', sky: overcast, key: OVERCAST_KEY },
  'low-sun': { title: 'Low sun', sky: lowSun, key: LOW_KEY },
  noon: { title: 'Noon', sky: noon, key: NOON_KEY },
  shed: { title: 'Shed interior', sky: shedInterior, key: SHED_KEY },
} as const satisfies Record<string, { title: string; sky: Sky; key: KeyLight }>;
export type SkyName = keyof typeof SKIES;

/** A sky that is 1 everywhere: for furnace tests. */
export const furnace: Sky = (_, out) => {
  out[0] = out[1] = out[2] = 1;
  return out;
};
/** The furnace has no key light. */
export const NO_KEY: KeyLight = { direction: [0, 1, 0], radiance: [0, 0, 0], spread: 0 };
