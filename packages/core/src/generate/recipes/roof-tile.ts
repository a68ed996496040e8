import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

const WIDE = 0.2;
const LONG = 0.267;

/** Tiles in courses, each hanging over the next: place on a tile, whose it is. */
const tiles = (k: Kit) => {
  const t = k.courses(LONG, WIDE, 11, 0);
  const id = t.id;
  const slipM = k.mul(0.012, k.amount('uneven'), k.sub(k.random(id, 1), 0.5));
  // −1 … 1 across the tile, 0 … 1 down it.
  const across = k.div(t.x, WIDE / 2);
  const down = k.add(k.div(k.add(t.y, slipM), LONG), 0.5);
  const end = k.add(0.93, k.mul(-0.05, k.square(across)), k.mul(0.03, k.amount('uneven'), k.sub(k.random(id, 2), 0.5)));
  return { id, across, down, end, edgeM: k.mul(k.sub(1, k.abs(across)), WIDE / 2) };
};
/** 1 on the tile, 0 past its lower edge, where the one below lies bare. */
const over = (k: Kit) => {
  const { down, end } = tiles(k);
  return k.rise(k.sub(end, down), 0, 0.018);
};
const runs = (k: Kit) => {
  const { down, id, across } = tiles(k);
  const sag = k.noise([0.012, 1], 21, 2, k.warp(0.01, 0.06, 23));
  return k.mul(
    k.amount('runs'),
    k.rise(k.add(down, k.mul(0.5, k.sub(sag, 0.5)), k.mul(0.2, k.sub(k.random(id, 3), 0.5)), k.mul(-0.1, k.square(across))), 0.5, 0.8),
  );
};
const crackle = (k: Kit) => k.mul(k.amount('crackle'), k.rise(k.cells(0.011, 31, 0.95, k.warp(0.004, 0.02, 33)).edge, 0.08, 0.02));
/** Glaze knocked off to the clay, mostly along edges. */
const chips = (k: Kit) => {
  const { edgeM, end, down } = tiles(k);
  const rim = k.max(k.rise(edgeM, 0.02, 0.002), k.rise(k.sub(end, down), 0.09, 0.01));
  return k.clamp(k.mul(k.amount('chips'), k.rise(k.add(k.noise(0.03, 41, 3), k.mul(0.2, rim)), 0.76, 0.79)));
};

export const roofTile: Recipe = {
  title: 'Glazed roof tile',
  sizeM: 1.6,
  reliefM: 0.06,
  mid: 0.45,
  even: 0.65,
  structures: {
    uneven: { label: 'Unevenness', help: 'Tiles slipped, tilted and cut a few millimetres off' },
    runs: { label: 'Glaze runs', help: 'Thick dark drips toward the lower edge' },
    crackle: { label: 'Crackle', help: 'Net of fine cracks in the glaze, 1 cm' },
    chips: { label: 'Chips', help: 'Glaze off to the red clay, 1 to 3 cm' },
    dirt: { label: 'Dirt', help: 'Silt and soot in channels and below overlaps' },
    moss: { label: 'Moss', help: 'Green pads of 2 to 4 cm in the channels' },
  },
  height: (k) => {
    const { across, down, end, id } = tiles(k);
    const tilt = k.add(
      k.mul(0.006, k.amount('uneven'), k.sub(k.random(id, 4), 0.5), across),
      k.mul(0.007, k.amount('uneven'), k.sub(k.random(id, 5), 0.5)),
    );
    // A shallow barrel that rises toward its lower, overhanging end.
    const barrel = k.mul(0.028, k.sub(1, k.square(across)));
    const tile = k.add(barrel, k.mul(0.019, down), tilt, k.mul(-0.006, k.square(k.rise(k.sub(end, down), 0.07, 0))));
    const below = k.add(k.mul(0.028, k.sub(1, k.square(across))), -0.004, k.mul(0.002, k.sway(0.03, 51, 3)));
    const skin = k.add(k.mul(0.0012, k.sway(0.09, 53, 3)), k.mul(0.0016, runs(k)), k.mul(-0.0012, chips(k)), k.mul(-0.0002, crackle(k)));
    const channel = k.mul(-0.006, k.rise(k.sub(1, k.abs(across)), 0.09, 0.02));
    return k.add(k.mix(below, k.add(tile, skin), over(k)), channel, pads(k).m, -0.024);
  },
  look: (k) => {
    const { across, down, id } = tiles(k);
    const shade = k.random(id, 6);
    const pool = k.noise(0.06, 61, 3);
    const glaze = k.ramp(k.clamp(k.add(k.mul(0.7, shade), k.mul(0.4, k.sub(pool, 0.4)))), [
      '#123a36',
      '#1b5148',
      '#2a6a52',
      '#417f55',
      '#6f9350',
      '#8a8a3e',
    ]);
    let colour = k.mix(glaze, k.mul(glaze, 0.42), k.clamp(k.mul(0.9, runs(k))));
    // Thin on the ridge, where the clay shines through.
    const thin = k.mul(k.rise(k.abs(across), 0.32, 0.05), k.rise(k.add(pool, k.mul(0.5, k.sway(0.012, 63, 2))), 0.3, 0.62));
    colour = k.mix(colour, k.hex('#9a6a35'), k.mul(0.55, thin));
    colour = k.mix(colour, k.hex('#0c201d'), k.clamp(k.mul(0.45, crackle(k))));
    const clay = k.ramp(k.noise(0.01, 65, 3), ['#7c3d26', '#9c5233', '#b56a45']);
    const bare = k.max(chips(k), k.not(over(k)));
    colour = k.mix(colour, clay, bare);
    const shut = k.rise(k.not(k.ground.occlusion()), 0.08, 0.5);
    const low = k.rise(k.abs(across), 0.72, 1);
    const dirt = k.clamp(
      k.mul(
        k.amount('dirt'),
        k.add(
          k.mul(0.7, shut),
          k.mul(0.6, low, k.noise(0.05, 67, 3)),
          k.mul(0.5, k.rise(down, 0.22, 0), k.noise(0.03, 69, 3)),
          k.mul(0.22, k.rise(k.noise(0.25, 71, 4), 0.5, 0.7)),
        ),
      ),
    );
    colour = k.mix(colour, k.ramp(k.noise(0.008, 73, 3), ['#1e1811', '#3a3023', '#5a4c38']), k.mul(0.88, dirt));
    const { on } = pads(k);
    colour = k.mix(colour, k.mul(k.ramp(k.noise(0.05, 75), ['#33431a', '#586a24', '#7d8a37']), k.add(0.5, k.noise(0.005, 77, 2))), on);
    const rough = k.add(0.11, k.mul(0.12, k.noise(0.1, 79, 3)), k.mul(0.14, thin), k.mul(0.06, crackle(k)));
    return { baseColor: colour, roughness: k.mix(k.mix(k.mix(rough, 0.86, bare), 0.94, dirt), 0.96, on), metallic: k.node(0) };
  },
};

/** Moss pads that sit where dirt gathers. */
function pads(k: Kit) {
  const { across } = tiles(k);
  const p = k.pieces(
    'disc',
    0.045,
    81,
    { keep: k.mul(0.6, k.amount('moss'), k.rise(k.noise(0.3, 83, 2), 0.5, 0.66)), long: 0.5, slim: 0.85, stacking: 0.2 },
    k.warp(0.015, 0.02, 85),
  );
  const on = k.mul(p.on, k.rise(k.add(k.abs(across), k.mul(0.4, k.sway(0.05, 87, 2))), 0.6, 0.78));
  return { on, m: k.mul(on, k.add(k.mul(0.007, p.top), k.mul(0.0018, k.noise(0.005, 89, 2)))) };
}
