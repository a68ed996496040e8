import type { BlendDocument, RecipeDocument } from '@pebble/core';
import { makeCue, makeLayer } from '@pebble/core';
import { assertDocument, documentProblem } from './index';

const blend = (): BlendDocument => ({
  kind: 'blend',
  version: 1,
  name: 'Terrace step',
  extentM: 2.4,
  specimen: 'patch',
  cut: { ax: 0, ay: 0, bx: 1, by: 1 },
  layers: { a: makeLayer('s', 'Stone', 1), b: makeLayer('m', 'Moss', 2, { coverage: { c: makeCue('noise') } }) },
});
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
    expect(documentProblem(null)).toContain('not a kind');
    expect(documentProblem({ ...blend(), version: 2 })).toContain('newer version');
    expect(() => assertDocument({})).toThrowError(TypeError);
  });
});
