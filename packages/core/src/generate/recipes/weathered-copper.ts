import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

/** Marks of the planishing hammer, overlapping. */
const dents = (k: Kit) => {
  const c = k.cells(0.045, 11, 0.75, k.warp(0.012, 0.06, 13));
  return k.mul(k.amount('hammer'), k.sub(1, k.square(c.near)));
};
/** Folded seams between sheets of half a metre. */
const seams = (k: Kit) => {
  const { edgeM, id, y } = k.courses(0.5, 1, 21, 0.2);
  return { ridge: k.rise(edgeM, 0.009, 0.003), edgeM, id, y };
};
const scratches = (k: Kit) => {
  const of = (size: readonly [number, number], key: number) =>
    k.mul(k.rise(k.noise(size, key, 1, k.warp(0.08, 0.4, key + 1)), 0.88, 0.93), k.rise(k.noise(0.25, key + 2, 2), 0.5, 0.62));
  return k.mul(k.amount('scratches'), k.max(of([0.2, 0.004], 31), of([0.0045, 0.13], 35)));
};
/** Verdigris: starts in hollows and along seams, creeps out in crusts. */
const verdigris = (k: Kit, hollow: ReturnType<Kit['add']>) => {
  const { edgeM } = seams(k);
  const field = k.add(k.mul(0.85, k.noise(0.3, 41, 4)), k.mul(0.3, k.sway(0.02, 43, 3)), k.mul(0.16, k.rise(edgeM, 0.07, 0)), k.mul(0.35, hollow));
  return k.clamp(k.mul(k.amount('verdigris'), k.rise(field, 0.52, 0.66)));
};
const crust = (k: Kit) => k.noise(0.012, 51, 4);
/** Where water ran: streaks below each seam, fading. */
const drips = (k: Kit) => {
  const { y } = seams(k);
  const streak = k.rise(k.noise([0.022, 1], 61, 3, k.warp(0.03, 0.12, 63)), 0.55, 0.75);
  return k.clamp(k.mul(k.amount('drips'), streak, k.rise(y, 0.24, -0.22)));
};

export const weatheredCopper: Recipe = {
  title: 'Weathered copper',
  sizeM: 1,
  reliefM: 0.012,
  mid: 0.45,
  even: 0.95,
  structures: {
    hammer: { label: 'Hammer marks', help: 'Shallow dents of 4 to 5 cm' },
    seams: { label: 'Seams', help: 'Folded edges between sheets, 12 mm wide' },
    verdigris: { label: 'Verdigris', help: 'Blue-green crust from hollows and seams outward' },
    drips: { label: 'Drips', help: 'Pale streaks below the seams' },
    scratches: { label: 'Scratches', help: 'Bright lines of a millimetre, 5 to 25 cm long' },
    oxide: { label: 'Oxide', help: 'Brown to violet tarnish in clouds' },
  },
  height: (k) => {
    const green = verdigris(k, k.node(0));
    return k.add(
      k.mul(0.0016, dents(k)),
      k.mul(0.0028, k.sway(0.35, 71, 3)),
      k.mul(0.0034, k.clamp(k.amount('seams')), seams(k).ridge),
      k.mul(-0.0004, scratches(k)),
      k.mul(0.0011, green, crust(k)),
      k.mul(0.0002, k.sway(0.004, 73, 2)),
      -0.001,
    );
  },
  look: (k) => {
    const hollow = k.rise(k.ground.convexity(), 0.015, -0.03);
    const green = verdigris(k, k.mul(0.4, hollow));
    const cloud = k.noise(0.16, 81, 4, k.warp(0.08, 0.15, 83));
    const tarnish = k.clamp(k.mul(k.amount('oxide'), k.add(k.rise(cloud, 0.28, 0.72), k.mul(0.35, hollow))));
    const bare = k.mix(k.hex('#e09a72'), k.hex('#c77f57'), k.noise(0.05, 85, 3));
    let colour = k.mix(bare, k.ramp(cloud, ['#8a4a33', '#6b3a2c', '#553040', '#7a4a2e']), k.mul(0.9, tarnish));
    colour = k.mix(colour, k.hex('#f0b48e'), k.clamp(k.mul(0.8, scratches(k), k.not(green))));
    // Crust of copper salts: turquoise, paler where it is thick, brownish at its rim.
    const thick = crust(k);
    const salt = k.ramp(k.clamp(k.add(k.mul(0.8, thick), k.mul(0.3, k.noise(0.07, 87, 2)))), ['#2f5a50', '#3f7f6f', '#63a08c', '#8fc0aa', '#b6d6c2']);
    const rim = k.mul(k.rise(green, 0.02, 0.3), k.rise(green, 0.85, 0.4));
    colour = k.mix(colour, k.hex('#3a2a20'), k.mul(0.6, rim));
    const crusted = k.clamp(k.mul(k.rise(green, 0.15, 0.75), k.add(0.75, k.mul(0.5, thick))));
    colour = k.mix(colour, salt, crusted);
    const wet = k.mul(drips(k), k.not(k.mul(0.5, crusted)));
    colour = k.mix(colour, k.hex('#9cc4b0'), k.mul(0.55, wet));
    const { edgeM } = seams(k);
    const dirt = k.clamp(k.mul(k.amount('seams'), k.rise(edgeM, 0.02, 0.011), k.rise(edgeM, 0.006, 0.01)));
    colour = k.mix(colour, k.hex('#211812'), k.mul(0.7, dirt));
    const metal = k.clamp(k.mul(k.not(crusted), k.not(k.mul(0.7, wet)), k.not(k.mul(0.8, dirt))));
    const worn = k.rise(k.ground.convexity(), 0.005, 0.04);
    const rough = k.add(0.34, k.mul(0.26, tarnish), k.mul(0.14, k.noise(0.02, 89, 3)), k.mul(-0.12, worn), k.mul(-0.1, scratches(k)));
    return {
      baseColor: colour,
      roughness: k.mix(k.mix(rough, 0.62, wet), k.add(0.78, k.mul(0.18, thick)), crusted),
      metallic: k.mul(metal, k.not(k.mul(0.12, tarnish))),
    };
  },
};
