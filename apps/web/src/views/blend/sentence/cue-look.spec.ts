import { TestBed } from '@angular/core/testing';
import type { CueKind, MeshPicture, Role } from '@pebble/core';
import {
  BlendMaterials,
  CUE_KINDS,
  MaterialPrograms,
  cueKind,
  DEFAULT_CONSTANT,
  NO_SLOTS,
  boundsOf,
  makeBlend,
  makeCue,
  makeLayer,
  makePatch,
  makeStack,
  sourcesOfPacked,
} from '@pebble/core';
import { BlendModel } from '../blend-model';
import { lineFields, moreFields } from './cue-fields';
import { CueLooks, histogram, rangeOf, stretched } from './cue-look';
import { holds, layerTone } from '../layers/layer-tone';
import { StageSpecimen } from '../../../stage/stage-specimen';

describe('a cue up close', () => {
  it('counts values in equal steps, those outside at the ends', () => {
    expect(histogram(Float32Array.of(-1, 0.1, 0.4, 0.6, 2), 0, 1, 2)).toEqual([0.6, 0.4]);
    expect(histogram(new Float32Array(0), 0, 1, 3)).toEqual([0, 0, 0]);
  });
  it('shows what is there and the whole ramp', () => {
    const [lo, hi] = rangeOf(Float32Array.of(10, 30), 50, 20);
    expect(lo).toBeLessThan(10);
    expect(hi).toBeGreaterThan(60);
  });
  it('tells least from most, whatever a few at the ends are', () => {
    const values = Float32Array.from({ length: 101 }, (_, i) => (i === 0 ? -1e6 : i === 100 ? 1e6 : i));
    const told = stretched(values);
    expect([told[0], told[3], told[50], told[97], told[100]].map((v) => +v.toFixed(6))).toEqual([0, 0, 0.5, 1, 1]);
    expect(new Set(stretched(new Float32Array(5).fill(7)))).toEqual(new Set([0.5]));
    expect(stretched(new Float32Array(0)).length).toBe(0);
  });
  it('has every number of every kind within its ends, in line or in its card', () => {
    for (const kind of CUE_KINDS) {
      const cue = makeCue(kind);
      for (const field of [...lineFields(cue), ...moreFields(cue)]) {
        const value = field.get(cue);
        expect(value).withContext(`${kind} ${field.label}`).toBeGreaterThanOrEqual(field.min);
        expect(value).withContext(`${kind} ${field.label}`).toBeLessThanOrEqual(field.max);
        expect(value).withContext(`${kind} ${field.label}`).toBe(field.initial);
        field.set(cue, field.max);
        expect(field.get(cue)).toBe(field.max);
      }
    }
  });
});

describe('kinds of cues in their list', () => {
  const make = (selected = 'top') => {
    const constant = { kind: 'constant', ...DEFAULT_CONSTANT } as const;
    const blend = makeBlend('Step', {
      extentM: 2.4,
      layers: {
        ground: makeLayer(constant, 'Ground', 1),
        top: makeLayer(constant, 'Top', 2, { coverage: { n: makeCue('noise') } }),
        last: makeLayer(constant, 'Last', 3),
      },
    });
    const mesh = makePatch(2.4, 20);
    const before = JSON.stringify(blend);
    TestBed.configureTestingModule({
      providers: [
        CueLooks,
        {
          provide: BlendModel,
          useValue: {
            blend: () => blend,
            selectedId: () => selected,
            programs: new MaterialPrograms(),
            stack: () => makeStack(blend, {}),
            material: () => new BlendMaterials().of(makeStack(blend, {})),
            sources: () => sourcesOfPacked(NO_SLOTS),
            known: () => ({}),
            blends: () => ({}),
          },
        },
        {
          provide: StageSpecimen,
          useValue: {
            mesh: () => mesh,
            vertices: () => ({ count: mesh.position.length / 3, spacingM: 0.1 }),
            standing: () => ({ groundM: -0.2, parts: [] }),
            bounds: () => boundsOf(mesh),
          },
        },
      ],
    });
    return { looks: TestBed.inject(CueLooks), unchanged: () => JSON.stringify(blend) === before };
  };
  const shades = ({ data }: MeshPicture) => new Set(data.filter((_, i) => i % 4 === 0)).size;

  it('show what they would look at on the specimen; those that look at what is not there are left out', async () => {
    const { looks, unchanged } = make();
    const seen = new Map<CueKind, MeshPicture>();
    await looks.preview(CUE_KINDS, (kind, picture) => void seen.set(kind, picture));
    expect([...seen.keys()].sort()).toEqual(['altitude', 'direction', 'grid', 'ground', 'low', 'noise', 'slope', 'stripes', 'vertexColour']);
    for (const kind of ['slope', 'noise', 'vertexColour'] as const)
      expect(shades(seen.get(kind)!))
        .withContext(kind)
        .toBeGreaterThan(20);
    expect(seen.get('slope')!.data).not.toEqual(seen.get('noise')!.data);
    expect(unchanged()).toBeTrue();
  });
  it('are not worked out for the ground, nor once the list is closed', async () => {
    let shown = 0;
    await make('ground').looks.preview(['slope'], () => void shown++);
    TestBed.resetTestingModule();
    const { looks } = make();
    const all = looks.preview(CUE_KINDS, () => void (++shown && looks.endPreview()));
    await all;
    expect(shown).toBe(1);
  });
});

describe('a layer at a glance', () => {
  const inner = makeBlend('Inner', { layers: { g: makeLayer('s', 'Ground', 1) } });
  const outer = makeBlend('Outer', { layers: { i: makeLayer({ kind: 'blend', blend: 'inner' }, 'Inner', 1) } });
  it('has the tone of what it shows, however deep', () => {
    const surfaces = { s: { tone: '#c08040' } as never };
    expect(layerTone(outer.layers['i'], surfaces, { inner })).toBe('rgb(192 128 64)');
    expect(layerTone(makeLayer('gone', 'Gone', 1), surfaces, {})).toBe('#808080');
  });
  it('is not offered a blend that holds its own', () => {
    expect(holds(outer, 'inner', { inner, outer })).toBeTrue();
    expect(
      holds(makeBlend('Top', { layers: { o: makeLayer({ kind: 'blend', blend: 'outer' }, 'Outer', 1) } }), 'inner', { inner, outer }),
    ).toBeTrue();
    expect(holds(inner, 'outer', { inner, outer })).toBeFalse();
  });
});

describe('a new cue that has to choose', () => {
  const begins = (kind: CueKind, surface: string, of: Record<string, { maps: object }>, parts: string[]) =>
    cueKind(kind).begin?.({
      surface,
      roles: Object.fromEntries(Object.entries(of).map(([id, { maps }]) => [id, new Set(Object.keys(maps) as Role[])])),
      parts,
      seed: () => 7,
    }) ?? {};
  const surfaces = { moss: { maps: { height: {} as never, roughness: {} as never } }, still: { maps: { id: {} as never, cavity: {} as never } } };
  it('begins with a map of its own surface, else of any, and the first part', () => {
    expect(begins('mask', 'moss', surfaces, [])).toEqual({ surface: 'moss', role: 'height' } as never);
    expect(begins('mask', '', surfaces, [])).toEqual({ surface: 'moss', role: 'height' } as never);
    expect(begins('id', 'moss', surfaces, [])).toEqual({ surface: 'still' } as never);
    expect(begins('id', 'moss', { moss: surfaces.moss }, [])).toEqual({});
    expect(begins('part', '', {}, ['lid', 'body'])).toEqual({ part: 'lid' } as never);
    expect(begins('slope', 'moss', surfaces, ['lid'])).toEqual({});
    expect(begins('noise', '', {}, [])).toEqual({ seed: 7 } as never);
  });
});
