import type { BlendDocument, RecipeDocument } from '@pebble/core';
import { CUE_KINDS, DEFAULT_CONSTANT, DEFAULT_WATER, blendPlaces, makeBlend, makeCue, makeLayer, makeStack, upgraded } from '@pebble/core';
import { assertDocument, documentProblem } from './index';

const blend = (): BlendDocument =>
  makeBlend('Step', { layers: { a: makeLayer('s', 'Stone', 1), b: makeLayer('m', 'Moss', 2, { coverage: { c: makeCue('noise') } }) } });
const recipe: RecipeDocument = {
  kind: 'recipe',
  version: 1,
  name: 'Usual',
  template: '{set}_{file}',
  size: 1024,
  sources: { s: { order: 1 } },
  files: {
    f: {
      order: 1,
      label: 'orm',
      depth: 8,
      channels: { r: { from: 'map', role: 'occlusion', channel: 0, invert: false }, a: { from: 'constant', value: 0.5 } },
    },
  },
};

describe('document schemas', () => {
  it('take what the makers of core make', () => {
    expect(documentProblem(blend())).toBeNull();
    expect(documentProblem(recipe)).toBeNull();
    expect(
      documentProblem({ kind: 'project', version: 1, name: 'Orrin Ridge', exportNormal: 'y+', exportSize: 2048, target: 'handheld' }),
    ).toBeNull();
    expect(
      documentProblem({
        kind: 'surface',
        version: 1,
        name: 'Clay',
        sizeM: 2,
        reliefM: 0.03,
        mid: 0.5,
        maps: {},
        thumbnail: null,
        tone: '#aa5533',
        generator: { name: 'laterite-clay', seed: 3 },
        notes: [],
      }),
    ).toBeNull();
  });
  it('name the place of what does not fit', () => {
    const soft = blend();
    soft.layers['b'].seam.soft = 1.5;
    expect(documentProblem(soft)).toContain('/layers/b/seam/soft');
    expect(documentProblem({ ...blend(), extra: 1 })).toContain('additional');
    const bad = blend();
    bad.layers['b'].coverage['c'].join = 'xor' as never;
    expect(documentProblem(bad)).toContain('butNot');
    const many = blend();
    for (let i = 0; i < 20; i++) many.layers[`l${i}`] = makeLayer('s', 'More', i);
    expect(documentProblem(many)).toContain('/layers');
    expect(documentProblem({ ...recipe, files: { f: { ...recipe.files['f'], channels: { r: { from: 'map', role: 'occlusion' } } } } })).toContain(
      '/files/f/channels/r',
    );
  });
  it('refuse other kinds and newer versions clearly', () => {
    expect(documentProblem({ kind: 'toString', version: 1 })).toContain('not a kind');
    for (const body of [null, [], 'blend', 7, undefined]) expect(documentProblem(body)).toContain('not a document');
    expect(documentProblem({ version: 1 })).toContain('"kind" is missing');
    expect(documentProblem({ ...blend(), version: 4 })).toContain('newer version');
    expect(() => assertDocument({})).toThrowError(TypeError);
  });
});

/** Places in a document, deepest ones too. */
const placesIn = (value: unknown, at: string[] = []): string[][] =>
  typeof value !== 'object' || value === null ? [at] : [at, ...Object.entries(value).flatMap(([k, v]) => placesIn(v, [...at, k]))];
const JUNK: unknown[] = [null, [], {}, '', 'Infinity', -1, 1e309, true, [null], { kind: null }];

describe('a document with anything anywhere', () => {
  // A version 1 of what version 3 says: the fields that came since are gone.
  const first = (): Record<string, unknown> => ({
    kind: 'blend',
    version: 1,
    name: 'Old',
    extentM: 2,
    specimen: 'patch',
    light: 'overcast',
    layers: {
      a: {
        order: 1,
        name: 'Moss',
        surface: 'm',
        on: true,
        solo: false,
        strength: 1,
        liftM: 0,
        seam: { soft: 0.1, follow: 0 },
        coverage: {
          c: { kind: 'noise', order: 1, join: 'and', invert: false, centre: 0.5, width: 0.2, sizeM: 1, octaves: 3, seed: 1, value: 1, channel: 'r' },
        },
      },
    },
  });
  it('is refused with a place, or taken: nothing breaks over it', () => {
    const full = blend();
    CUE_KINDS.forEach((kind, i) => (full.layers['b'].coverage[`k${i}`] = makeCue(kind, { order: i })));
    full.layers['w'] = makeLayer({ kind: 'water', ...DEFAULT_WATER }, 'Puddle', 3, { group: 'wet', shared: 'low' });
    full.groups['wet'] = { name: 'Wet', on: true, coverage: {} };
    full.coverages['low'] = { name: 'Low', coverage: { c: makeCue('low') } };
    let refused = 0;
    for (const whole of [full, first()])
      for (const place of placesIn(whole))
        for (const junk of JUNK) {
          const body = JSON.parse(JSON.stringify(whole)) as Record<string, unknown>;
          if (!place.length) continue;
          const last = place[place.length - 1];
          const holder = place.slice(0, -1).reduce<Record<string, unknown>>((o, k) => o[k] as Record<string, unknown>, body);
          holder[last] = junk;
          const what = () => `${String(body['version'])} /${place.join('/')} = ${JSON.stringify(junk)}`;
          try {
            const now = upgraded(body);
            if (documentProblem(now)) refused++;
            else if (now.kind === 'blend') makeStack(now, {}, {});
          } catch (error) {
            fail(`${what()}: ${String(error)}`);
            return;
          }
        }
    expect(refused).toBeGreaterThan(1000);
  });
});

describe('the shape of blends', () => {
  it('takes every kind of cue, and names what is wrong inside the right one', () => {
    const body = blend();
    CUE_KINDS.forEach((kind, i) => (body.layers['b'].coverage[`k${i}`] = makeCue(kind, { order: i })));
    expect(documentProblem(body)).toBeNull();
    const wrong = JSON.parse(JSON.stringify(body)) as BlendDocument;
    Object.assign(wrong.layers['b'].coverage['k1'], { channel: 'q' });
    expect(documentProblem(wrong)).toContain('/layers/b/coverage/k1/channel');
    Object.assign(body.layers['b'].coverage['k0'], { kind: 'moon' });
    expect(documentProblem(body)).toContain('/layers/b/coverage/k0');
  });
  it('takes what a parameter of any number of a blend may be turned to, at both ends', () => {
    const body = blend();
    CUE_KINDS.forEach((kind, i) => (body.layers['b'].coverage[`k${i}`] = makeCue(kind, { order: i })));
    body.layers['w'] = makeLayer({ kind: 'water', ...DEFAULT_WATER }, 'Puddle', 3, { group: 'wet', shared: 'low' });
    body.layers['c'] = makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT }, 'Whitewash', 4);
    body.groups['wet'] = { name: 'Wet', on: true, coverage: { c: makeCue('slope') } };
    body.coverages['low'] = { name: 'Low', coverage: { c: makeCue('low') } };
    const places = blendPlaces(body);
    for (const path of ['groups.wet.coverage.c.centre', 'coverages.low.coverage.c.width', 'layers.w.shows.clearM', 'layers.b.seam.broken.atM'])
      expect(places.map((p) => p.path)).toContain(path);
    for (const { path, holds } of places) {
      if (holds.kind !== 'number') continue;
      expect(holds.low).withContext(path).toBeLessThan(holds.high);
      for (const value of [holds.low, holds.value[0], holds.high]) {
        const turned = JSON.parse(JSON.stringify(body)) as BlendDocument;
        const keys = path.split('.');
        const holder = keys.slice(0, -1).reduce<Record<string, unknown>>((o, k) => o[k] as Record<string, unknown>, turned as never);
        expect(typeof holder[keys.at(-1) as string])
          .withContext(path)
          .toBe('number');
        holder[keys.at(-1) as string] = value;
        expect(documentProblem(turned)).withContext(`${path} = ${value}`).toBeNull();
      }
    }
  });
  it('takes water, constant values, groups and named coverages', () => {
    const body = blend();
    body.layers['w'] = makeLayer({ kind: 'water', ...DEFAULT_WATER }, 'Puddle', 3, { group: 'wet', shared: 'low' });
    body.layers['c'] = makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT }, 'Whitewash', 4, { untouched: { height: true }, mode: 'screen' });
    body.groups['wet'] = { name: 'Wet', on: true, coverage: {} };
    body.coverages['low'] = { name: 'Low', coverage: { c: makeCue('low') } };
    expect(documentProblem(body)).toBeNull();
    body.layers['w'].shows = { kind: 'water', ...DEFAULT_WATER, clearM: Number.NaN };
    expect(documentProblem(body)).toContain('/layers/w/shows');
  });
  it('takes a blend of the first version once it is brought up to date, with the same numbers', () => {
    const old: Record<string, unknown> = { ...blend() };
    for (const key of ['standsAtM', 'groups', 'coverages']) delete old[key];
    const layer = {
      order: 1,
      name: 'Moss',
      surface: 'm',
      on: true,
      solo: false,
      strength: 0.5,
      seam: { soft: 0.3, liftM: 0.01, follow: 0.2, bias: 0.4, contact: 0.1, broken: { byM: 0.002, atM: 0.3, octaves: 2, seed: 9 } },
    };
    const common = {
      order: 1,
      join: 'and',
      amount: 1,
      inverted: false,
      shape: 'smooth',
      centre: 0.4,
      width: 0.2,
      value: 0.5,
      channel: 'g',
      sizeM: 0.7,
      octaves: 3,
      seed: 5,
    };
    const coverage = { n: { ...common, kind: 'noise' }, v: { ...common, kind: 'vertexColour' }, c: { ...common, kind: 'constant' } };
    const body = upgraded({ ...old, version: 1, layers: { a: { ...layer, coverage } } }) as BlendDocument;
    expect(documentProblem(body)).toBeNull();
    const made = body.layers['a'];
    expect(made.seam).toEqual({ ...layer.seam, detailM: 0, normal: 0 });
    expect(made.coverage['n']).toEqual(makeCue('noise', { centre: 0.4, width: 0.2, noise: 'fractal', sizeM: 0.7, octaves: 3, seed: 5 }));
    expect(made.coverage['v']).toEqual(makeCue('vertexColour', { centre: 0.4, width: 0.2, channel: 'g' }));
    expect(upgraded(body)).toBe(body);
  });
});
