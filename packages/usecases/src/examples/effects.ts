// Masters that move, shine, let light through or are strewn over others.
import { linkTo, makeMaster, valueOf } from '@pebble/core';
import { colour, follows, number, parameters, steps, variants } from './making';

const waxParameters = parameters({
  wax: ['wax colour', 'wax', colour('#dda244'), 'Colour of clear wax'],
  deep: ['deep colour', 'wax', colour('#8f4f16'), 'Colour where it is thick and old'],
  cloud: ['cloudiness', 'wax', number(0.5, 0, 1), 'How much of the deep colour shows'],
  rough: ['roughness', 'wax', number(0.38, 0.05, 0.9), 'Of the cut faces'],
  glow: ['cheap amount', 'light', number(0.28, 0, 1), 'Of the cheap translucency: it shines by itself'],
  through: ['true amount', 'light', number(0.8, 0, 1), 'Of the true one: how much light enters'],
  thick: ['thickness', 'light', number(0.15, 0, 1), 'Keeps light from entering'],
});
/** Blocks of wax in a tray: both translucencies behind one switch, and rims that let nothing through. */
export const beeswaxBlocks = makeMaster('Beeswax blocks', {
  help: 'Wax that lets light through, cheaply or truly, by one switch; the rims of the tray stay opaque',
  extentM: 0.4,
  specimen: 'cube',
  groups: { wax: { order: 1, name: 'Wax' }, light: { order: 2, name: 'Light' } },
  switches: { real: { order: 1, name: 'true translucency', group: 'light', help: 'Off: the cheap one, which shines in the dark too', on: true } },
  parameters: waxParameters,
  operations: steps({
    rim: [
      'formula',
      { uv: linkTo('uv') },
      { name: 'rim', settings: { text: 'in vec2 uv; smoothstep(0.44, 0.475, max(abs(fract(uv.x * 2.0) - 0.5), abs(fract(uv.y * 2.0) - 0.5)))' } },
    ],
    uv: ['texcoord'],
    spread: ['place2d', { scale: valueOf(5, 5) }],
    clouds: ['fractal2d', { texcoord: linkTo('spread'), period: valueOf(5), seed: valueOf(7), octaves: valueOf(2) }],
    cloudy: ['multiply', { in1: linkTo('clouds'), in2: follows('cloud') }],
    waxes: ['mix', { bg: follows('wax'), fg: follows('deep'), mix: linkTo('cloudy') }],
    colour: ['mix', { bg: linkTo('waxes'), fg: valueOf(0.05, 0.035, 0.025), mix: linkTo('rim') }],
    rough: ['mix', { bg: follows('rough'), fg: valueOf(0.8), mix: linkTo('rim') }],
    mask: ['invert', { in: linkTo('rim') }, { name: 'wax alone' }],
    raised: ['multiply', { in1: linkTo('mask'), in2: valueOf(0.5) }],
    lean: ['heighttonormal', { in: linkTo('raised'), scale: valueOf(0.012) }],
    cheap: [
      'translucentglow',
      { mask: linkTo('mask'), amount: follows('glow'), baseColor: linkTo('waxes'), tint: valueOf(1, 0.72, 0.38) },
      { name: 'cheap' },
    ],
    shines: ['switch', { off: linkTo('cheap'), on: valueOf(0, 0, 0) }, { settings: { switch: 'real' } }],
    enters: ['translucency', { mask: linkTo('mask'), amount: follows('through'), thickness: follows('thick') }, { name: 'true' }],
    lets: ['switch', { off: valueOf(0), on: linkTo('enters') }, { settings: { switch: 'real' } }],
  }),
  outputs: {
    baseColor: linkTo('colour'),
    roughness: linkTo('rough'),
    normal: linkTo('lean'),
    emissive: linkTo('shines'),
    subsurface: linkTo('lets'),
  },
  variants: variants(waxParameters, {
    'Fresh wax': { wax: '#eebb5e', cloud: 0.2, through: 0.95, thick: 0 },
    'Old comb': { wax: '#a8672a', deep: '#4a2409', cloud: 0.85, rough: 0.55, through: 0.5 },
    Candle: { wax: '#efe3c2', deep: '#c9a866', cloud: 0.35, through: 1 },
    'Dark resin': { wax: '#6d2f12', deep: '#2a0f06', rough: 0.14, through: 0.6, thick: 0.4 },
  }),
});

const steamParameters = parameters({
  tint: ['steam colour', null, colour('#dfe6ea'), 'Colour of the steam'],
  density: ['density', null, number(0.55, 0, 1), 'How much of it there is'],
  twist: ['twist', 'swirl', number(0.8, -2, 2), 'Turns from the middle to the rim'],
  spin: ['spin', 'swirl', number(0.25, -1, 1, '1/s'), 'Turns a second; whole ones over the loop close it'],
  flow: ['flow', 'swirl', number(-0.25, -1, 1, '1/s'), 'Repetitions a second: inward above 0, outward below'],
  bend: ['distortion', 'swirl', number(0.16, 0, 0.6), 'How much the swirl is bent'],
  width: ['width', null, number(0.46, 0.1, 0.5), 'Where it fades out, from the middle'],
});
/** Steam on a card: noise wound around a middle, added to what is behind it. */
export const steamSwirl = makeMaster('Steam swirl', {
  help: 'Steam on a card over the still: noise wound around a middle, added to what is behind',
  extentM: 1,
  specimen: 'upright-card',
  drawn: 'additive',
  loopS: 4,
  groups: { swirl: { order: 1, name: 'Swirl' } },
  parameters: steamParameters,
  operations: steps({
    wound: ['polar', { around: valueOf(2), twist: follows('twist'), spin: follows('spin'), flow: follows('flow'), distortion: follows('bend') }],
    // Four cells a repetition, and after four the same again: closed around the middle, and over the loop.
    cells: ['multiply', { in1: linkTo('wound'), in2: valueOf(4) }],
    noise: ['fractal2d', { texcoord: linkTo('cells'), period: valueOf(4), seed: valueOf(11), octaves: valueOf(2) }],
    wisps: ['smoothstep', { in: linkTo('noise'), low: valueOf(0.38), high: valueOf(0.8) }, { name: 'wisps' }],
    uv: ['texcoord'],
    away: ['distance', { in1: linkTo('uv'), in2: valueOf(0.5, 0.5) }],
    faded: ['smoothstep', { in: linkTo('away'), low: valueOf(0.06), high: follows('width') }],
    near: ['invert', { in: linkTo('faded') }],
    there: ['multiply', { in1: linkTo('wisps'), in2: linkTo('near') }],
    cover: ['multiply', { in1: linkTo('there'), in2: follows('density') }, { name: 'cover' }],
    shines: ['glow', { mask: valueOf(1), colour: follows('tint'), strength: valueOf(0.9) }],
  }),
  outputs: { baseColor: valueOf(0, 0, 0), roughness: valueOf(1), emissive: linkTo('shines'), opacity: linkTo('cover') },
  variants: variants(steamParameters, {
    Breath: { density: 0.25, twist: 0.4, bend: 0.3 },
    Boiling: { density: 0.95, spin: 0.5, flow: -0.75, twist: 1.4 },
    'Evening light': { tint: '#f2b27a', density: 0.6 },
  }),
});

const gaugeParameters = parameters({
  level: ['level', null, number(0.75, 0, 1), 'How full the cistern is'],
  steps: ['steps', null, number(10, 2, 24), 'Marks around the ring'],
  full: ['full colour', 'marks', colour('#4fb7c9'), 'Of marks that are lit'],
  empty: ['empty colour', 'marks', colour('#2b3436'), 'Of those that are not'],
  shine: ['shine', 'marks', number(0.8, 0, 3), 'Light of their own of those that are lit'],
  plate: ['plate colour', 'plate', colour('#8b8272'), 'Of the plate'],
});
/** A ring of marks on a plate of the cistern: lit up to the level, the next one in part. */
export const cisternGauge = makeMaster('Cistern gauge', {
  help: 'A ring of marks on a round plate, lit up to a level that the game drives',
  extentM: 1,
  specimen: 'upright-card',
  drawn: 'cut-out',
  groups: { marks: { order: 1, name: 'Marks' }, plate: { order: 2, name: 'Plate' } },
  parameters: gaugeParameters,
  operations: steps({
    wound: ['polar'],
    turns: ['extract', { in: linkTo('wound') }, { settings: { index: 0 } }],
    far: ['extract', { in: linkTo('wound') }, { settings: { index: 1 } }],
    marks: [
      'formula',
      { turns: linkTo('turns'), far: linkTo('far'), n: follows('steps') },
      {
        name: 'marks',
        settings: {
          text: 'step(0.58, far) * step(far, 0.84) * step(abs(fract(fract(turns + 0.75) * n) - 0.5), 0.4) * (floor(fract(turns + 0.75) * n) + 1.0) / n',
        },
      },
    ],
    gauge: ['gauge', { mask: linkTo('marks'), level: follows('level'), steps: follows('steps') }],
    there: ['step', { edge: valueOf(0.001), in: linkTo('marks') }],
    lit: ['mix', { bg: follows('empty'), fg: follows('full'), mix: linkTo('gauge') }],
    brushed: ['noise2d', { texcoord: linkTo('grain'), period: valueOf(160), seed: valueOf(3) }],
    grain: ['place2d', { scale: valueOf(6, 160) }],
    plate: ['formula', { c: follows('plate'), n: linkTo('brushed') }, { settings: { text: 'in vec3 c; c * (0.85 + 0.3 * n)' } }],
    colour: ['mix', { bg: linkTo('plate'), fg: linkTo('lit'), mix: linkTo('there') }],
    metal: ['invert', { in: linkTo('there') }],
    shines: ['glow', { mask: linkTo('gauge'), colour: follows('full'), strength: follows('shine') }],
    disc: ['step', { edge: linkTo('far'), in: valueOf(0.96) }, { name: 'plate alone' }],
  }),
  outputs: { baseColor: linkTo('colour'), roughness: valueOf(0.42), metallic: linkTo('metal'), emissive: linkTo('shines'), opacity: linkTo('disc') },
  variants: variants(gaugeParameters, {
    'Nearly empty': { level: 0.14, full: '#d8653a' },
    'Fine marks': { steps: 24, level: 0.6 },
    'Lamp lit': { full: '#ffd27a', shine: 2.4, plate: '#5a4a38' },
  }),
});

const leafParameters = parameters({
  first: ['leaf colour', 'leaves', colour('#7d8a3a'), 'Of fresh ones'],
  second: ['old leaf colour', 'leaves', colour('#8a5a2b'), 'Of old ones; each leaf lies between'],
  cells: ['cells', 'strewn', number(5, 1, 16), 'Cells over the extent, a leaf or none in each'],
  keep: ['share', 'strewn', number(0.8, 0, 1), 'Of cells in which there is one'],
  size: ['size', 'strewn', number(1, 0.3, 1.06), 'In cells; as large as neighbours allow'],
  thick: ['thickness', 'strewn', number(0.004, 0, 0.02, 'm'), 'By which a leaf lies over the ground'],
});
/** Leaves strewn over clay, each turned, sized and coloured by chance; none is cut off. */
export const leafScatter = makeMaster('Leaf scatter', {
  help: 'Leaves over a ground, each turned, sized and coloured by chance; put it on anything by its ground',
  extentM: 1.2,
  specimen: 'patch',
  groups: { leaves: { order: 1, name: 'Leaves' }, strewn: { order: 2, name: 'Strewn' } },
  parameters: {
    ...leafParameters,
    ground: { order: 7, name: 'ground', group: null, help: 'What they lie on', holds: { kind: 'surface', surface: 'laterite-clay' } },
  },
  operations: steps({
    uv: ['texcoord'],
    across: [
      'formula',
      { uv: linkTo('uv') },
      {
        name: 'across a leaf',
        settings: { text: 'in vec2 uv; abs(uv.y * 2.0 - 1.0) / max((1.0 - (uv.x * 2.0 - 1.0) * (uv.x * 2.0 - 1.0)) * (0.55 - 0.2 * uv.x), 0.001)' },
      },
    ],
    shape: ['step', { edge: linkTo('across'), in: valueOf(1) }, { name: 'leaf' }],
    vein: [
      'formula',
      { uv: linkTo('uv'), across: linkTo('across') },
      {
        name: 'veins',
        settings: {
          text: 'in vec2 uv; 0.72 + 0.28 * clamp(across * 9.0 - 0.3, 0.0, 1.0) * smoothstep(0.04, 0.2, abs(fract((uv.x + across * 0.12) * 7.0) - 0.5))',
        },
      },
    ],
    strewn: [
      'stamps',
      {
        in: linkTo('vein'),
        mask: linkTo('shape'),
        background: valueOf(0),
        cells: follows('cells'),
        size: follows('size'),
        keep: follows('keep'),
        offset: valueOf(0.5),
        vary: valueOf(0.35),
        seed: valueOf(4),
      },
      { name: 'strewn', settings: { around: '2 × 2' } },
    ],
    ages: ['mix', { bg: follows('first'), fg: follows('second'), mix: linkTo('strewn', 'own') }],
    leaves: ['multiply', { in1: linkTo('ages'), in2: linkTo('strewn') }],
    ground: ['separatesurface', { in: follows('ground') }],
    colour: ['mix', { bg: linkTo('ground', 'baseColor'), fg: linkTo('leaves'), mix: linkTo('strewn', 'coverage') }],
    rough: ['mix', { bg: linkTo('ground', 'roughness'), fg: valueOf(0.55), mix: linkTo('strewn', 'coverage') }],
    raised: ['multiply', { in1: linkTo('strewn', 'coverage'), in2: follows('thick') }],
    high: ['add', { in1: linkTo('ground', 'height'), in2: linkTo('raised') }],
  }),
  outputs: { surface: follows('ground'), baseColor: linkTo('colour'), roughness: linkTo('rough'), height: linkTo('high') },
  variants: variants(leafParameters, {
    Autumn: { first: '#b5651d', second: '#7a2e12', keep: 1 },
    'A few': { keep: 0.3, size: 0.8 },
    'Small and many': { cells: 11, size: 1.06, keep: 0.95 },
    'Fresh cut': { first: '#5f8f2f', second: '#8fae4a', thick: 0.008 },
  }),
});
