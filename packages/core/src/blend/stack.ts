import type { Coverage, CuePicture } from '../coverage';
import { coverageShape, cueKind, evenCoverage, pictureKey, pictureOf, picturesOf } from '../coverage';
import type { BlendDocument, Layer, LayerLook } from '../document';
import { DEFAULT_LOOK, coverageOf } from '../document';
import { inOrder } from '../order';
import type { Drawn, Laid, MaterialProblem } from '../material';
import { SOLID } from '../material';
import { layingShape } from './laying';
import type { ExtraRole, Role, SurfaceFacts } from '../surface';
import { EXTRA_ROLES } from '../surface';

/** What a blend needs to know of a surface to compile: its size and which maps it has. */
export interface BlendSurface extends SurfaceFacts {
  roles: ReadonlySet<Role>;
}

export interface StackLayer {
  id: string;
  layer: Layer;
  /** Coverages that limit it, the group's first. */
  coverages: readonly Coverage[];
  /** What it shows: a surface, a blend of its own, or neither (constant values, water). */
  surface: BlendSurface | null;
  /** Id of the surface. */
  surfaceId: string | null;
  inner: Stack | null;
  /** Which of the distinct surfaces it shows; −1 when it shows none. */
  slot: number;
  laid: Laying;
  /** Repetitions over the extent, the more of its two sides: √(a² + b²) or √(c² + d²). */
  repeats: number;
  /** Constant of the crossover: the larger of its own relief and that of what lies below, in metres. */
  span: number;
  /** Lowest height of what lies below, in metres, lifts left out. */
  floor: number;
  /** Masks that its cues read. */
  masks: Laid[];
}

/** Whole numbers that turn and repeat a surface over the extent: u′ = a·u − b·v, v′ = c·u + d·v. What is square has c = b, d = a. */
export interface Laying {
  a: number;
  b: number;
  c: number;
  d: number;
}

/** The layers that take part, from the bottom, with what interval arithmetic says of their heights. */
export interface Stack {
  extentM: number;
  standsAtM: number;
  /** How it goes over what is behind it. */
  drawn: Drawn;
  layers: StackLayer[];
  /** Ids of the distinct surfaces, by slot; pictures that cues read, by theirs. Shared with the blends inside. */
  slots: string[];
  masks: CuePicture[];
  ids: CuePicture[];
  /** Bounds of the blended height in metres. */
  lo: number;
  hi: number;
  problems: MaterialProblem[];
}

/** Layers in all, those of blends inside counted. */
export const MAX_FLATTENED = 32;

interface Bounds {
  lo: number;
  hi: number;
}
const union = (a: Bounds, b: Bounds): Bounds => ({ lo: Math.min(a.lo, b.lo), hi: Math.max(a.hi, b.hi) });

/** Repetitions of a surface over an extent, snapped to a whole number so that the blend tiles. */
export const repeatsOf = (extentM: number, sizeM: number): number => Math.max(1, Math.round(extentM / sizeM));

/**
 * The turn and number of repetitions nearest to what a look asks for. Any whole numbers map the corners of the extent to
 * whole repetitions, so the blend tiles however it is turned.
 * @param tall height of a repetition over its width
 */
export function laidOver(extentM: number, sizeM: number, { scale, turn }: Pick<LayerLook, 'scale' | 'turn'>, tall = 1): Laying {
  const n = Math.max(1, extentM / (sizeM * scale));
  const angle = (turn * Math.PI) / 180;
  const level = { a: repeatsOf(extentM, sizeM * scale), b: 0, c: 0, d: repeatsOf(extentM, sizeM * tall * scale) };
  if (!turn) return level;
  const [a, b] = [Math.round(n * Math.cos(angle)), Math.round(n * Math.sin(angle))];
  // So few repetitions cannot be turned by so little.
  if (!a && !b) return level;
  if (tall === 1) return { a, b, c: b, d: a };
  const [c, d] = [Math.round((n / tall) * Math.sin(angle)), Math.round((n / tall) * Math.cos(angle))];
  // Without an area it would be a line.
  return a * d + b * c ? { a, b, c, d } : { a, b, c: b, d: a };
}

/** What is looked up so far, by slot: stacks that make one picture share it. */
export interface SlotLists {
  slots: string[];
  masks: CuePicture[];
  ids: CuePicture[];
}

/** Everything that blends of one picture have in common while stacks are made. */
interface Making extends SlotLists {
  surfaces: Readonly<Record<string, BlendSurface>>;
  blends: Readonly<Record<string, BlendDocument>>;
  problems: MaterialProblem[];
  count: number;
}

/**
 * Which layers take part: those switched on, or only the soloed ones, whose surface or blend is known. The lowest is the
 * ground. What cannot be shown is left out and said in `problems`.
 * @param blends documents that layers may show beside surfaces; one that holds itself is refused
 * @param steady gives slots to the surfaces of layers that are switched off as well, so that switching them changes no
 * textures
 * @param into slots of other things in the same picture; those of this blend come after them
 */
export function makeStack(
  blend: BlendDocument,
  surfaces: Readonly<Record<string, BlendSurface>>,
  blends: Readonly<Record<string, BlendDocument>> = {},
  steady = false,
  into: SlotLists = { slots: [], masks: [], ids: [] },
): Stack {
  const shown = inOrder(blend.layers).flatMap(({ shows }) => (shows.kind === 'surface' && surfaces[shows.surface] ? [shows.surface] : []));
  if (steady) for (const id of shown) slotIn(into.slots, id);
  return stackOf(blend, { surfaces, blends, ...into, problems: [], count: 0 }, [blend]);
}

/** The slot of something that is looked up, given to it when it has none. */
export function slotIn<T>(list: T[], item: T, same = (other: T): boolean => other === item): number {
  const found = list.findIndex(same);
  return found < 0 ? list.push(item) - 1 : found;
}

const extraPicture = (surface: string, role: Role): CuePicture => ({ kind: 'map', surface, role, channel: 0 });
/** Grey roles beside the usual six are pictures by themselves, as masks are; emissive colours have a texture of their own. */
const pictured = (roles: ReadonlySet<Role>): ExtraRole[] => EXTRA_ROLES.filter((role) => role !== 'emissive' && roles.has(role));

/** Gives slots to the grey roles that a surface has beside the usual six. */
export function pictureExtras(masks: CuePicture[], surface: string, roles: ReadonlySet<Role>): void {
  for (const role of pictured(roles))
    slotIn<CuePicture>(masks, extraPicture(surface, role), (p) => pictureKey(p) === pictureKey(extraPicture(surface, role)));
}
/** Slots of these. */
export const extraSlots = (masks: readonly CuePicture[], surface: string, roles: ReadonlySet<Role>): Map<Role, number> =>
  new Map(pictured(roles).map((role) => [role, masks.findIndex((p) => pictureKey(p) === pictureKey(extraPicture(surface, role)))]));

/** Roles beside the usual six that a stack gives: those that any of its layers brings. */
export const stackExtras = (stack: Stack): ExtraRole[] => {
  const has = (role: ExtraRole): boolean =>
    stack.layers.some(
      ({ surface, inner, layer }, i) =>
        (i === 0 || !layer.untouched[role]) && (surface?.roles.has(role) || (inner !== null && stackExtras(inner).includes(role))),
    );
  return EXTRA_ROLES.filter(has);
};

function stackOf(blend: BlendDocument, making: Making, path: readonly BlendDocument[]): Stack {
  const all = inOrder(blend.layers);
  const solo = all.filter((l) => l.solo);
  const wanted = solo.length ? solo : all.filter((l) => l.on && (l.group === null || (blend.groups[l.group]?.on ?? true)));
  let plain: Bounds | null = null;
  let lifted: Bounds | null = null;
  const layers: StackLayer[] = [];
  for (const { id, ...layer } of wanted) {
    const content = contentOf(id, layer, blend, making, path);
    if (!content) continue;
    missingParts(id, layer, blend, making);
    const { own, sizeM, tall, ...shown } = content;
    const { follow, liftM, broken } = layer.seam;
    const laid = laidOver(blend.extentM, sizeM, layer.look, tall);
    const coverages = [...(layer.group && blend.groups[layer.group] ? [blend.groups[layer.group].coverage] : []), coverageOf(blend, layer)];
    coverages.forEach((c) => collectPictures(id, layer, c, making));
    const floor = plain?.lo ?? own.lo;
    // Span ignores lift, so that dragging a layer up or down never changes how hard its edge is.
    const span = Math.max(own.hi - own.lo, plain ? plain.hi - plain.lo : 0, 1e-6);
    const masks = coverages.flatMap((c) => masksOf(c, making));
    layers.push({
      id,
      layer,
      coverages,
      ...shown,
      laid,
      repeats: Math.max(Math.hypot(laid.a, laid.b), Math.hypot(laid.c, laid.d)),
      span,
      floor,
      masks,
    });
    if (!plain || !lifted) {
      plain = lifted = own;
      continue;
    }
    if (!hasSay(layer, coverages)) continue;
    const noise = Math.abs(broken.byM);
    const top = (below: Bounds, lift: number): Bounds =>
      layer.shows.kind === 'water'
        ? { lo: below.lo, hi: Math.max(below.hi, own.hi) }
        : { lo: own.lo + follow * below.lo + lift - noise, hi: own.hi + follow * below.hi + lift + noise };
    plain = union(plain, top(plain, 0));
    lifted = union(lifted, top(lifted, liftM));
  }
  const { lo, hi } = lifted ?? { lo: 0, hi: 0 };
  const { slots, masks, ids, problems } = making;
  const drawn: Drawn = blend.drawn ?? { as: 'cut-out', cut: SOLID.cut };
  return { extentM: blend.extentM, standsAtM: blend.standsAtM, drawn, layers, slots, masks, ids, problems, lo, hi: Math.max(hi, lo + 1e-6) };
}

/** Whether a layer over another one can change its height anywhere: others' seams do not heed one that cannot. */
const hasSay = ({ strength, untouched }: Layer, coverages: readonly Coverage[]): boolean =>
  strength > 0 && !untouched.height && coverages.every((c) => evenCoverage(c) !== 0);

/** Masks that a coverage reads, by their slots. */
const masksOf = (coverage: Coverage, { masks }: Making): Laid[] =>
  Object.values(coverage).flatMap((cue) => {
    const picture = pictureOf(cue);
    const slot = picture ? masks.findIndex((m) => pictureKey(m) === pictureKey(picture)) : -1;
    return slot < 0 ? [] : [{ slot, repeats: cueKind(cue.kind).repeats?.(cue) ?? 1 }];
  });

type Content = Pick<StackLayer, 'surface' | 'surfaceId' | 'inner' | 'slot'> & { own: Bounds; sizeM: number; tall: number };

/** What a layer shows, with the bounds of its own height; null, and a problem said, where it cannot be shown. */
function contentOf(id: string, layer: Layer, blend: BlendDocument, making: Making, path: readonly BlendDocument[]): Content | null {
  const refuse = (code: MaterialProblem['code'], message: string): null => {
    making.problems.push({ layer: id, code, message: `${layer.name}: ${message}` });
    return null;
  };
  if (++making.count > MAX_FLATTENED)
    return refuse('too-many-layers', `more than ${MAX_FLATTENED} layers, those of blends inside counted. Bake a blend to a surface`);
  const even = { surface: null, surfaceId: null, inner: null, slot: -1, sizeM: blend.extentM, tall: 1 };
  const { shows } = layer;
  if (shows.kind === 'water') return { ...even, own: { lo: shows.levelM, hi: shows.levelM } };
  if (shows.kind === 'constant') return { ...even, own: { lo: shows.heightM, hi: shows.heightM } };
  if (shows.kind === 'surface') {
    const surface = making.surfaces[shows.surface];
    if (!surface) return refuse('missing-surface', 'its surface no longer exists. Choose another, or remove the layer');
    const slot = slotIn(making.slots, shows.surface);
    if (!surface.roles.has('height'))
      making.problems.push({
        layer: id,
        code: 'no-height',
        message: `${layer.name} has no height map: it meets others as a level plane. Make one from its normal or its colour`,
      });
    const own = { lo: -surface.mid * surface.reliefM, hi: (1 - surface.mid) * surface.reliefM };
    pictureExtras(making.masks, shows.surface, surface.roles);
    return { surface, surfaceId: shows.surface, inner: null, slot, own, sizeM: surface.sizeM, tall: surface.tall ?? 1 };
  }
  const other = making.blends[shows.blend];
  if (!other) return refuse('missing-surface', 'its blend no longer exists. Choose another, or remove the layer');
  if (path.includes(other)) return refuse('cycle', `${other.name} holds this blend, so it cannot be a layer of it. Choose another`);
  const inner = stackOf(other, making, [...path, other]);
  if (!inner.layers.length) return refuse('missing-surface', `${other.name} has no layer to show. Open it and switch one on`);
  return { surface: null, surfaceId: null, inner, slot: -1, own: { lo: inner.lo, hi: inner.hi }, sizeM: other.extentM, tall: 1 };
}

/** Says which coverage or group of the blend a layer names that is not there. */
function missingParts(id: string, { name, shared, group }: Layer, blend: BlendDocument, { problems }: Making): void {
  if (shared !== null && !Object.hasOwn(blend.coverages, shared))
    problems.push({
      layer: id,
      code: 'missing-coverage',
      message: `${name}: the coverage "${shared}" that it shares is not in the blend. Share another, or give it one of its own`,
    });
  if (group !== null && !Object.hasOwn(blend.groups, group))
    problems.push({
      layer: id,
      code: 'missing-group',
      message: `${name}: its group "${group}" is not in the blend. Take it out of the group, or name another`,
    });
}

function collectPictures(id: string, layer: Layer, coverage: Coverage, making: Making): void {
  for (const picture of picturesOf(coverage)) {
    const role = picture.kind === 'map' ? picture.role : 'id';
    if (picture.kind !== 'painted' && !making.surfaces[picture.surface]?.roles.has(role)) {
      making.problems.push({
        layer: id,
        code: 'missing-map',
        message: `${layer.name}: a map that its coverage reads is gone, so that cue counts as 0. Choose another map`,
      });
      continue;
    }
    const list = picture.kind === 'id' ? making.ids : making.masks;
    slotIn<CuePicture>(list, picture, (p) => pictureKey(p) === pictureKey(picture));
  }
}

/** Slots of the pictures of a stack. */
export const picturesOfStack = ({ masks, ids }: Stack): Map<string, number> =>
  new Map([masks, ids].flatMap((list) => list.map((p, i): [string, number] => [pictureKey(p), i])));

export const prefixOf = (index: number): string => `l${index}_`;

/**
 * What names of a coverage's values begin with, within a stack. One that layers share, by its name or their group, has the same
 * everywhere: what it looks up and works out is then there once, and paid once.
 */
export function coveragePrefix({ layers }: Pick<Stack, 'layers'>, layer: number, at: number): string {
  const coverage = layers[layer].coverages[at];
  // The lowest layer lies everywhere, whatever its coverage says.
  for (let i = 1; i < layer; i++) {
    const k = layers[i].coverages.indexOf(coverage);
    if (k >= 0) return `${prefixOf(i)}g${k}`;
  }
  return `${prefixOf(layer)}g${at}`;
}

/** Parts of a look that change what is compiled, as long as they are used. */
export const usesTint = ({ tint }: LayerLook): boolean => tint !== DEFAULT_LOOK.tint;
export const usesLevels = ({ low, high, mid }: LayerLook): boolean =>
  low !== DEFAULT_LOOK.low || high !== DEFAULT_LOOK.high || mid !== DEFAULT_LOOK.mid;
export const usesRoughness = ({ roughness }: LayerLook): boolean => roughness !== DEFAULT_LOOK.roughness;

/** Text that is equal for two stacks exactly when they compile to the same program. */
export function stackShape(stack: Stack): string {
  const pictures = picturesOfStack(stack);
  return stack.layers
    .map((l, i) => {
      const { layer } = l;
      const content = l.inner
        ? `(${stackShape(l.inner)})`
        : l.surface
          ? `${l.slot}[${[...l.surface.roles].sort().join()}]${[...extraSlots(stack.masks, l.surfaceId ?? '', l.surface.roles).values()].join()}`
          : layer.shows.kind;
      const look = `${[usesTint(layer.look), usesLevels(layer.look), usesRoughness(layer.look), l.laid.b !== 0].map(Number).join('')}${l.surface ? layingShape(layer.laying) : ''}`;
      if (i === 0) return `${content}${look}`;
      const seam = [layer.seam.broken.byM !== 0, layer.seam.detailM > 0, layer.seam.normal > 0].map(Number).join('');
      const kept = Object.keys(layer.untouched).sort().join();
      const covers = l.coverages.map((c, k) => {
        const from = coveragePrefix(stack, i, k);
        return from.startsWith(prefixOf(i)) ? coverageShape(c, pictures) : from;
      });
      return `${content}${look}{${covers.join('/')}}${seam}${layer.mode}-${kept}`;
    })
    .join('|');
}
