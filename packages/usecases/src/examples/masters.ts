import type { MasterDocument, Source } from '@pebble/core';
import { linkTo, makeMaster, valueOf } from '@pebble/core';
import { beeswaxBlocks, cisternGauge, leafScatter, steamSwirl } from './effects';
import { colour, follows, number, parameters, reads, steps, variants } from './making';
import { STILL, STILL_COLOURS } from './still';

/** A colour of the ID map, as it is stored. */
function idOf(slot: string): Source {
  const hex = STILL_COLOURS[slot];
  return valueOf(...[1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255));
}

/** The terrace's blend, with what a level designer turns: tiling, moss, clay, puddles. */
const terraceGround = makeMaster('Terrace ground', {
  extentM: 2.4,
  specimen: 'patch',
  groups: { moss: { order: 1, name: 'Moss' }, wet: { order: 2, name: 'Wet' }, stone: { order: 3, name: 'Stone' } },
  parameters: parameters({
    spread: ['moss spread', 'moss', number(0.48, 0.2, 0.8), 'How far moss grows from where it likes to be; lower is farther'],
    mossTint: ['moss tint', 'moss', colour('#d9e6c0'), 'Times the colour of the moss'],
    mossSoft: ['moss edge', 'moss', number(0.12, 0, 1), 'Softness of the seam of the moss'],
    puddle: ['puddle level', 'wet', number(0.002, -0.02, 0.03, 'm'), 'Where water stands'],
    tiling: ['stone size', 'stone', number(1, 0.25, 4), 'Times the true size of the stone, snapped so that it still tiles'],
    warmth: ['ground tint', null, colour('#fff4e6'), 'Over all of it'],
    tinted: ['ground tint amount', null, number(0.5, 0, 1), 'How much of the tint'],
  }),
  operations: steps({
    ground: [
      'blend',
      {
        'layers.moss.coverage.c3.centre': follows('spread'),
        'layers.moss.look.tint': follows('mossTint'),
        'layers.moss.seam.soft': follows('mossSoft'),
        'layers.pool.shows.levelM': follows('puddle'),
        'layers.stone.look.scale': follows('tiling'),
      },
      { settings: { blend: 'terrace-step' } },
    ],
    tinted: ['tint', { in: linkTo('ground'), colour: follows('warmth'), amount: follows('tinted') }],
  }),
  outputs: { surface: linkTo('tinted') },
});

/** A glaze over fired clay: crackle by cells, thicker where it ran, shining where it is seen from the side. */
const glazedTile = makeMaster('Glazed tile', {
  extentM: 1,
  specimen: 'ridge-tile',
  groups: { glaze: { order: 1, name: 'Glaze' }, crackle: { order: 2, name: 'Crackle' } },
  parameters: parameters({
    tint: ['glaze colour', 'glaze', colour('#3f8f80'), 'Colour of the glaze where it is thick'],
    thick: ['glaze amount', 'glaze', number(0.55, 0, 1), 'How much of the clay it hides'],
    shine: ['glaze roughness', 'glaze', number(0.16, 0.02, 0.8), 'Roughness where the glaze is whole'],
    cells: ['crackle size', 'crackle', number(14, 4, 48), 'Cells over the extent'],
    line: ['crackle width', 'crackle', number(0.07, 0, 0.4), 'Width of a crack, in cells'],
  }),
  operations: steps({
    tile: ['surface', {}, { settings: { surface: 'roof-tile' } }],
    cells: ['cells2d', { texcoord: linkTo('place'), period: follows('cells') }, { name: 'crackle cells' }],
    place: ['formula', { uv: linkTo('uv'), n: follows('cells') }, { settings: { text: 'in vec2 uv; uv * n' } }],
    uv: ['texcoord'],
    border: ['extract', { in: linkTo('cells') }, { settings: { index: 2 } }],
    crack: ['smoothstep', { in: linkTo('border'), low: valueOf(0), high: follows('line') }, { name: 'whole glaze' }],
    run: ['smoothstep', { in: linkTo('tile', 'height'), low: valueOf(0.012), high: valueOf(-0.008) }, { name: 'where it ran' }],
    depth: [
      'formula',
      { whole: reads('whole'), ran: linkTo('run'), amount: follows('thick') },
      { name: 'depth', settings: { text: 'clamp(whole * amount * (0.6 + 0.4 * ran), 0.0, 1.0)' } },
    ],
    dyed: ['multiply', { in1: linkTo('tile', 'baseColor'), in2: follows('tint') }],
    colour: ['mix', { bg: linkTo('tile', 'baseColor'), fg: linkTo('dyed'), mix: linkTo('depth') }],
    rim: ['facingratio', { normal: linkTo('lean') }],
    lean: ['transformnormal', { in: linkTo('tile', 'normal') }],
    sheen: ['range', { in: linkTo('rim'), inlow: valueOf(0), inhigh: valueOf(0.6), gamma: valueOf(1), outlow: valueOf(1.25), outhigh: valueOf(1) }],
    lit: ['multiply', { in1: linkTo('colour'), in2: linkTo('sheen') }],
    rough: ['mix', { bg: linkTo('tile', 'roughness'), fg: follows('shine'), mix: reads('whole') }],
  }),
  published: { whole: { order: 1, name: 'whole glaze', operation: 'crack', port: 'out' } },
  outputs: { surface: linkTo('tile'), baseColor: linkTo('lit'), roughness: linkTo('rough') },
});

/** What every asset starts from: packed maps, tints by ID, wear by the mesh's edges, its own normal, dust by a switch. */
const assetBase = makeMaster('Asset base', {
  extentM: 0.9,
  specimen: STILL.specimen,
  groups: {
    ids: { order: 1, name: 'ID tints' },
    wear: { order: 2, name: 'Wear' },
    dust: { order: 3, name: 'Dust' },
    own: { order: 4, name: 'Own maps' },
  },
  switches: {
    dusty: { order: 1, name: 'dust', group: 'dust', help: 'Dust on what looks up', on: true },
    dented: { order: 2, name: 'own normal', group: 'own', help: "The asset's own normal under everything", on: true },
  },
  parameters: parameters({
    first: ['body tint', 'ids', colour('#ffffff'), 'Times the colour of the body'],
    second: ['stand tint', 'ids', colour('#5b524c'), 'Times the colour of the stand'],
    edge: ['wear edge', 'wear', number(14, 1, 60, '1/m'), 'How sharp an edge has to be to be rubbed'],
    worn: ['wear colour', 'wear', colour('#e8b48a'), 'Colour of what is rubbed bare'],
    dustAmount: ['dust amount', 'dust', number(0.55, 0, 1), 'How much settles'],
    dustTint: ['dust tint', 'dust', colour('#c9b7a2'), 'Colour of the dust'],
    normalMap: ['own normal map', 'own', { kind: 'map', surface: 'lime-plaster', role: 'normal' }, 'Baked normal of the asset'],
  }),
  operations: steps({
    maps: ['surface', {}, { name: 'packed maps', settings: { surface: 'weathered-copper' } }],
    unwrapped: ['texcoord', {}, { settings: { set: 'uv1' } }],
    ids: ['image', { texcoord: linkTo('unwrapped') }, { name: 'IDs', settings: { surface: STILL.ids, role: 'id' } }],
    away: ['distance', { in1: linkTo('ids'), in2: idOf('iron') }],
    stand: ['smoothstep', { in: linkTo('away'), low: valueOf(0.12), high: valueOf(0.08) }, { name: 'is the stand' }],
    tints: ['mix', { bg: follows('first'), fg: follows('second'), mix: linkTo('stand') }],
    tinted: ['tint', { in: linkTo('maps'), colour: linkTo('tints') }],
    bend: ['curvature'],
    rubbed: ['smoothstep', { in: linkTo('bend'), low: follows('edge'), high: valueOf(60) }, { name: 'rubbed' }],
    bare: ['mix', { bg: linkTo('parts', 'baseColor'), fg: follows('worn'), mix: linkTo('rubbed') }],
    smooth: ['mix', { bg: linkTo('parts', 'roughness'), fg: valueOf(0.28), mix: linkTo('rubbed') }],
    parts: ['separatesurface', { in: linkTo('tinted') }],
    worn: ['makesurface', { in: linkTo('tinted'), baseColor: linkTo('bare'), roughness: linkTo('smooth') }],
    dust: ['makesurface', { baseColor: follows('dustTint'), roughness: valueOf(0.95) }, { name: 'dust' }],
    up: ['normal'],
    facing: ['extract', { in: linkTo('up') }, { settings: { index: 1 } }],
    settled: ['smoothstep', { in: linkTo('facing'), low: valueOf(0.2), high: valueOf(0.95) }, { name: 'looks up' }],
    patches: ['fractal2d', { texcoord: linkTo('spread'), period: valueOf(6), seed: valueOf(17) }],
    spread: ['place2d', { scale: valueOf(6, 6) }],
    cover: [
      'formula',
      { up: linkTo('settled'), n: linkTo('patches'), amount: follows('dustAmount') },
      { name: 'dust cover', settings: { text: 'clamp(up * amount * (0.55 + 0.9 * n), 0.0, 1.0)' } },
    ],
    dusted: ['crossover', { below: linkTo('worn'), above: linkTo('dust'), coverage: linkTo('cover'), soft: valueOf(0.8), follow: valueOf(1) }],
    dusty: ['switch', { off: linkTo('worn'), on: linkTo('dusted') }, { settings: { switch: 'dusty' } }],
    dents: ['image', { map: follows('normalMap'), texcoord: linkTo('unwrapped') }, { settings: { role: 'normal' } }],
    laid: ['ownnormal', { in: linkTo('dusty'), normal: linkTo('dents') }],
    dented: ['switch', { off: linkTo('dusty'), on: linkTo('laid') }, { settings: { switch: 'dented' } }],
  }),
  outputs: { surface: linkTo('dented') },
});

/** Masters of Orrin Ridge by their ids: those of the terrace, and that of the still, which its job makes. */

const dressed = (master: MasterDocument, list: Parameters<typeof variants>[1]): MasterDocument => ({
  ...master,
  variants: variants(master.parameters, list),
});

export const EXAMPLE_MASTERS = {
  'terrace-ground': dressed(terraceGround, {
    'After rain': { puddle: 0.012, tinted: 0.8, warmth: '#d8dfe4' },
    'Dry season': { spread: 0.74, puddle: -0.02, warmth: '#ffe2b8', tinted: 0.75 },
    'Old terrace': { spread: 0.3, mossTint: '#b9cf8e', mossSoft: 0.35 },
  }),
  'glazed-tile': dressed(glazedTile, {
    Celadon: { tint: '#8fb59b', thick: 0.7, shine: 0.12, line: 0.05 },
    'Iron red': { tint: '#7c2a1c', thick: 0.8, cells: 22 },
    'Worn through': { thick: 0.22, shine: 0.42, line: 0.16 },
    'Fine crackle': { cells: 34, line: 0.1, tint: '#d8e2dd' },
  }),
  'beeswax-blocks': beeswaxBlocks,
  'steam-swirl': steamSwirl,
  'cistern-gauge': cisternGauge,
  'leaf-scatter': leafScatter,
};
export const STILL_MASTERS = {
  'asset-base': dressed(assetBase, {
    Polished: { first: '#ffe3c6', edge: 40, dustAmount: 0.05 },
    'In the shed': { dustAmount: 0.95, first: '#cfc3b6' },
    'Sooty stand': { second: '#1c1a19', edge: 10, worn: '#caa27c' },
    'Own dents of stone': { normalMap: 'terrace-stone', dustAmount: 0.3 },
  }),
};
