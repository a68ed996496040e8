import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

const place = (k: Kit) => k.warp(0.06, 0.22, 3, 3);
/** 1 where the ground has dried out. */
const dry = (k: Kit) => k.rise(k.noise(0.7, 11, 3), 0.36, 0.6);
const mounds = (k: Kit) => k.mul(0.016, k.sway(0.55, 21, 4), k.amount('mounds'));

const plates = (k: Kit) => {
  const c = k.cells(0.2, 31, 0.9, place(k));
  const width = k.mul(dry(k), k.add(0.02, k.mul(0.1, k.noise(0.12, 35, 2))), k.amount('cracks'));
  const crack = k.mul(k.not(k.b.node('smoothstep', [c.edge, k.mul(width, 0.25), k.add(width, 0.004)])), k.rise(dry(k), 0.05, 0.4));
  return { ...c, crack, curl: k.mul(dry(k), k.square(k.rise(c.edge, 0.5, 0.02)), k.not(crack)) };
};
const hair = (k: Kit) => {
  const c = k.cells(0.055, 41, 0.95, k.warp(0.05, 0.09, 43, 3));
  return k.mul(k.rise(c.edge, 0.07, 0.01), dry(k), k.rise(k.noise(0.22, 47, 2), 0.48, 0.62), k.amount('hair'));
};
const nodules = (k: Kit) =>
  k.pieces(
    'pebble',
    0.036,
    51,
    { keep: k.mul(0.5, k.amount('nodules'), k.rise(k.noise(0.26, 53, 4), 0.5, 0.7)), long: 0.36, slim: 0.8, stacking: 0.45 },
    k.warp(0.03, 0.05, 55, 3),
  );
const crumbs = (k: Kit) => {
  const p = k.pieces('pebble', 0.014, 61, { keep: 0.8, long: 0.5, slim: 0.75, stacking: 0.2 }, k.warp(0.006, 0.02, 63));
  const { edge } = plates(k);
  return { ...p, on: k.mul(p.on, k.clamp(k.mul(k.amount('crumbs'), k.rise(k.add(k.rise(edge, 0.22, 0.03), k.sway(0.16, 67, 3)), 0.55, 0.9)))) };
};

export const lateriteClay: Recipe = {
  title: 'Laterite clay',
  sizeM: 2,
  reliefM: 0.034,
  mid: 0.55,
  even: 0.65,
  structures: {
    mounds: { label: 'Mounds', help: 'Soft swells of half a metre' },
    cracks: { label: 'Drying cracks', help: 'Plates of about 20 cm, their rims curled up' },
    hair: { label: 'Hair cracks', help: 'Fine cracks of 5 cm within the plates' },
    crumbs: { label: 'Crumbs', help: 'Broken clay of a centimetre along the cracks' },
    nodules: { label: 'Iron nodules', help: 'Dark smooth pellets of about a centimetre' },
    dust: { label: 'Dust', help: 'Pale ochre dust on what stands proud and dry' },
    damp: { label: 'Damp', help: 'Wet, darker, smoother hollows' },
  },
  height: (k) => {
    const { crack, curl, id } = plates(k);
    const skin = k.add(k.mul(0.0035, k.sway(0.05, 71, 4)), k.mul(0.0012, k.sway(0.008, 73, 2)));
    const body = k.add(mounds(k), skin, k.mul(0.003, curl), k.mul(0.004, k.sub(id, 0.5), dry(k)));
    const open = k.sub(body, k.add(k.mul(0.013, crack, k.add(0.5, k.mul(0.5, dry(k)))), k.mul(0.0025, hair(k))));
    const c = crumbs(k);
    const n = nodules(k);
    return k.add(open, k.max(k.mul(c.on, k.add(0.0008, k.mul(0.004, c.top))), k.mul(n.on, k.add(0.0005, k.mul(0.006, n.top)))));
  },
  look: (k) => {
    const { crack, id } = plates(k);
    const fine = k.noise(0.03, 81, 4);
    const broad = k.noise(0.5, 83, 3);
    const body = k.ramp(k.clamp(k.add(k.mul(0.55, broad), k.mul(0.3, fine), k.mul(0.28, k.sub(id, 0.3)))), [
      '#6e2f1c',
      '#8e4023',
      '#a9502c',
      '#b9663a',
      '#c47e4d',
    ]);
    let colour = k.mul(body, k.add(0.86, k.mul(0.28, k.noise(0.006, 87, 2))));
    // Mineral streaks: ochre and violet-brown stains of a hand's width.
    colour = k.mix(colour, k.hex('#b98a58'), k.mul(0.5, k.rise(k.noise(0.16, 91, 4, place(k)), 0.6, 0.76)));
    colour = k.mix(colour, k.hex('#4c2219'), k.mul(0.6, k.rise(k.noise(0.11, 95, 4, place(k)), 0.64, 0.78)));
    const proud = k.rise(k.ground.convexity(), -0.02, 0.1);
    const dust = k.clamp(k.mul(k.amount('dust'), dry(k), k.rise(k.add(k.mul(0.6, proud), k.mul(0.8, k.noise(0.09, 97, 4))), 0.62, 1.05), 0.6));
    colour = k.mix(colour, k.hex('#c49a76'), dust);
    colour = k.mix(colour, k.hex('#3a1710'), k.clamp(k.add(k.mul(0.8, crack), k.mul(0.5, hair(k)))));
    const c = crumbs(k);
    colour = k.mix(colour, k.mul(k.ramp(c.id, ['#8a4026', '#b5683f', '#cf9263']), k.add(0.8, k.mul(0.4, fine))), k.mul(0.9, c.on));
    const n = nodules(k);
    colour = k.mix(colour, k.ramp(n.id, ['#2a1512', '#4a2a20', '#6b4a3a']), n.on);
    const low = k.rise(k.ground.height(), 0.52, 0.3);
    const damp = k.clamp(k.mul(k.amount('damp'), k.not(dry(k)), k.rise(k.add(k.mul(0.7, low), k.mul(0.6, broad)), 0.35, 0.75)));
    colour = k.mul(colour, k.sub(1, k.mul(0.52, damp)));
    const rough = k.mix(k.add(0.82, k.mul(0.16, fine)), 0.98, dust);
    return { baseColor: colour, roughness: k.mix(k.mix(rough, 0.46, n.on), k.add(0.34, k.mul(0.2, fine)), k.mul(damp, 0.85)), metallic: k.node(0) };
  },
};
