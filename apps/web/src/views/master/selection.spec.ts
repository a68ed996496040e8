import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { MasterDocument } from '@pebble/core';
import { NO_CONTEXT, linkTo, makeMaster, makeOperation, valueOf } from '@pebble/core';
import { MasterModel } from './master-model';
import { Selection } from './selection';

describe('what is chosen in a graph', () => {
  const document = () =>
    makeMaster('M', {
      operations: {
        a: makeOperation('fractal2d', 1),
        b: makeOperation('smoothstep', 2, { inputs: { in: linkTo('a') } }),
        c: makeOperation('mix', 3, { inputs: { mix: linkTo('b') } }),
      },
      outputs: { roughness: linkTo('c') },
    });
  const master = signal<MasterDocument>(document());
  let selection: Selection;
  beforeEach(() => {
    master.set(document());
    TestBed.configureTestingModule({ providers: [Selection, { provide: MasterModel, useValue: { master, context: signal(NO_CONTEXT) } }] });
    selection = TestBed.inject(Selection);
  });

  it('walks links back and on, to the very input that is fed', () => {
    selection.choose('>roughness');
    selection.walkBack();
    expect([selection.id(), selection.input()]).toEqual(['c', 'bg']);
    selection.walkInputs(1);
    selection.walkInputs(1);
    selection.walkBack();
    expect([selection.id(), selection.input()]).toEqual(['b', 'in']);
    selection.walkOn();
    expect([selection.id(), selection.input()]).toEqual(['c', 'mix']);
    selection.walkOn();
    expect([selection.output(), selection.at()]).toEqual(['roughness', { operation: '', port: 'roughness' }]);
  });
  it('stays at its input while the document changes, and begins anew with another card', () => {
    selection.choose('b');
    selection.input.set('high');
    master.update((m) => ({
      ...m,
      operations: { ...m.operations, b: { ...m.operations['b'], inputs: { ...m.operations['b'].inputs, low: valueOf(0.2) } } },
    }));
    expect(selection.at()).toEqual({ operation: 'b', port: 'high' });
    selection.choose('c');
    expect(selection.input()).toBe('bg');
  });
  it('lets go of what is no longer there', () => {
    selection.chooseAll(['a', 'b']);
    expect(selection.ids()).toEqual(['b', 'a']);
    master.update((m) => ({ ...m, operations: { a: m.operations['a'] } }));
    expect(selection.id()).toBeNull();
    expect(selection.ids()).toEqual(['a']);
  });
  it('gathers several cards, and takes one out again', () => {
    selection.choose('a');
    selection.choose('b', true);
    expect([...selection.ids()].sort()).toEqual(['a', 'b']);
    selection.choose('b', true);
    expect(selection.ids()).toEqual(['a']);
  });
});
