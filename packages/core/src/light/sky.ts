export type Vec3 = [number, number, number];
/** Radiance that arrives from a direction (unit, +Y up), linear. */
export type Sky = (direction: readonly number[], out: Vec3) => Vec3;

/** Where the overcast sky's key light stands: about 46° high, from the left behind the viewer. Unit length. */
export const KEY_DIRECTION: Vec3 = [-0.5571, 0.7205, 0.413];
/** Radiance of the key light, a distant small source, in the unit of the sky. */
export const KEY_RADIANCE: Vec3 = [2.1, 1.95, 1.72];

/**
 * A thin overcast over a hillside: brighter toward the zenith as (1 + 2 sin θ)/3 (CIE standard overcast sky, ISO
 * 15469:2004, type 1), with a glow about the key light and ground of 0.16 reflectance below.
 */
export const overcast: Sky = (d, out) => {
  const up = d[1];
  if (up >= 0) {
    const base = 0.72 * (1 + 2 * up);
    const near = Math.max(0, d[0] * KEY_DIRECTION[0] + d[1] * KEY_DIRECTION[1] + d[2] * KEY_DIRECTION[2]);
    const glow = 0.9 * near ** 10;
    out[0] = base * 0.33 + glow * 0.95;
    out[1] = base * 0.36 + glow * 0.9;
    out[2] = base * 0.41 + glow * 0.8;
  } else {
    const fade = Math.min(1, -up * 6);
    out[0] = 0.24 + (0.15 - 0.24) * fade;
    out[1] = 0.25 + (0.13 - 0.25) * fade;
    out[2] = 0.27 + (0.11 - 0.27) * fade;
  }
  return out;
};

/** A sky that is 1 everywhere: for furnace tests. */
export const furnace: Sky = (_, out) => {
  out[0] = out[1] = out[2] = 1;
  return out;
};
