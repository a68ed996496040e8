import type { Kit, Pieces } from '../kit';
import type { Recipe } from '../recipe';

interface Litter extends Pieces {
  m: ReturnType<Kit['add']>;
  /** Holes and torn rims are not there. */
  there: ReturnType<Kit['add']>;
}

const bed = (k: Kit) => k.warp(0.012, 0.06, 3, 2);
const duff = (k: Kit) => k.add(k.mul(k.amount('duff'), k.add(0.003, k.mul(0.009, k.sway(0.012, 5, 3)))), k.mul(0.006, k.sway(0.2, 7, 3)), -0.014);

/** Leaves in layers, the lowest first: each lies a little higher and curls on its own. */
const litter = (k: Kit): Litter[] =>
  [
    { cell: 0.085, key: 11, keep: 0.95, lift: -0.005 },
    { cell: 0.1, key: 21, keep: 0.9, lift: 0 },
    { cell: 0.12, key: 31, keep: 0.8, lift: 0.005 },
    { cell: 0.14, key: 41, keep: 0.55, lift: 0.01 },
  ].map(({ cell, key, keep, lift }) => {
    const p = k.pieces('leaf', cell, key, { keep, long: 0.72, slim: 0.72, stacking: 0.45 }, bed(k));
    const curl = k.mul(k.amount('curl'), k.sub(k.mul(1.6, k.random(p.id, 1)), 0.5));
    const bend = k.mul(k.amount('curl'), k.sub(k.random(p.id, 2), 0.35));
    const midrib = k.rise(k.abs(p.across), 0.09, 0.01);
    const profile = k.add(
      k.mul(0.008, curl, k.square(p.across)),
      k.mul(0.006, bend, k.square(p.along)),
      k.mul(0.0011, k.amount('veins'), k.sub(midrib, k.mul(0.5, sideVeins(k, p)))),
      k.mul(0.005, k.sub(p.id, 0.5)),
      k.mul(0.0015, k.sway(0.02, key + 3, 2)),
    );
    const eaten = k.rise(k.add(k.noise(0.014, key + 5, 2), k.mul(0.2, k.sub(k.random(p.id, 3), 0.5))), 0.83, 0.86);
    const torn = k.rise(k.add(k.square(p.across), k.mul(0.9, k.sway(0.01, key + 7, 2))), 1.12, 1.2);
    const gone = k.mul(k.amount('decay'), k.step(k.random(p.id, 4), 0.5), k.max(eaten, torn));
    return { ...p, m: k.add(lift, profile), there: k.mul(p.on, k.not(k.step(gone, 0.5))) };
  });

/** Side veins run from the midrib toward the tip. */
const sideVeins = (k: Kit, p: Pieces) => {
  const t = k.sub(k.mul(p.along, 6.5), k.mul(k.abs(p.across), 1.7));
  return k.rise(k.abs(k.sub(k.fract(t), 0.5)), 0.12, 0.02);
};
const twigs = (k: Kit) =>
  k.pieces('pebble', 0.11, 71, { keep: k.mul(0.24, k.amount('twigs')), long: 0.8, slim: 0.05, stacking: 0.3 }, k.warp(0.02, 0.08, 73));

export const teaLeaves: Recipe = {
  title: 'Fallen tea leaves',
  sizeM: 1,
  reliefM: 0.05,
  mid: 0.42,
  even: 0.65,
  structures: {
    curl: { label: 'Curl', help: 'Rims rolled up or down by up to a centimetre' },
    veins: { label: 'Veins', help: 'Midrib and side veins, a millimetre' },
    decay: { label: 'Decay', help: 'Holes and torn rims of about a centimetre' },
    spots: { label: 'Spots', help: 'Dark fungus spots of 3 to 8 mm' },
    green: { label: 'Green ones', help: 'Leaves that fell lately' },
    twigs: { label: 'Twigs', help: 'Thin stalks of up to 9 cm' },
    duff: { label: 'Duff', help: 'Crumbled leaf and soil below' },
  },
  height: (k) => {
    const ground = litter(k).reduce((h, l) => k.mix(h, k.max(k.add(h, 0.0008), l.m), l.there), duff(k));
    const t = twigs(k);
    return k.mix(ground, k.add(k.max(ground, 0.004), k.mul(0.003, t.top)), t.on);
  },
  look: (k) => {
    const crumbs = k.noise(0.007, 81, 3);
    let colour = k.mix(k.hex('#1d140d'), k.ramp(crumbs, ['#1c130c', '#3a2818', '#6b4d30']), k.clamp(k.amount('duff')));
    let rough = k.node(0.95);
    for (const l of litter(k)) {
      const age = k.random(l.id, 5);
      const body = k.ramp(age, ['#3b2415', '#5d3818', '#8a5423', '#a8702f', '#b98a45', '#7a4a2a', '#4c2f1e']);
      const fresh = k.step(k.random(l.id, 6), k.sub(1, k.mul(0.14, k.amount('green'))));
      const green = k.ramp(age, ['#3d4a1c', '#566327', '#7c7a33']);
      let leaf = k.mix(body, green, fresh);
      // Colour drains from the rim inward, last along the veins.
      leaf = k.mix(leaf, k.hex('#c29a5c'), k.mul(0.4, k.rise(k.noise(0.04, 83, 3), 0.5, 0.75), k.not(fresh)));
      leaf = k.mix(leaf, k.hex('#2e1a0f'), k.mul(0.75, k.rise(k.add(k.abs(l.across), k.mul(0.5, k.sway(0.012, 85, 2))), 0.72, 1.05)));
      const midrib = k.rise(k.abs(l.across), 0.07, 0.02);
      const veins = k.max(midrib, k.mul(0.55, sideVeins(k, l)));
      leaf = k.mix(leaf, k.mix(k.mul(leaf, 1.5), k.hex('#c9a873'), 0.35), k.clamp(k.mul(0.6, veins, k.amount('veins'))));
      const spot = k.rise(k.noise(0.011, 87, 2), 0.72, 0.78);
      leaf = k.mix(leaf, k.hex('#1c110c'), k.clamp(k.mul(0.85, spot, k.step(k.random(l.id, 7), 0.4), k.amount('spots'))));
      leaf = k.mul(leaf, k.add(0.78, k.mul(0.44, k.noise(0.005, 89, 2))));
      colour = k.mix(colour, leaf, l.there);
      rough = k.mix(rough, k.add(0.5, k.mul(0.32, age), k.mul(0.12, crumbs), k.mul(-0.12, fresh)), l.there);
    }
    const t = twigs(k);
    colour = k.mix(colour, k.mul(k.ramp(t.id, ['#3a2a1c', '#5c4630', '#77624a']), k.add(0.6, k.mul(0.6, t.top))), t.on);
    rough = k.mix(rough, 0.85, t.on);
    const shut = k.rise(k.not(k.ground.occlusion()), 0.08, 0.5);
    colour = k.mul(colour, k.sub(1, k.mul(0.55, shut)));
    return { baseColor: colour, roughness: rough, metallic: k.node(0) };
  },
};
