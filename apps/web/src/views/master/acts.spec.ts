import { computed, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { MasterDocument } from '@pebble/core';
import { MasterMaterials, NO_CONTEXT, linkTo, makeMaster, makeOperation, valueOf } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { Acts } from './acts';
import { MasterModel } from './master-model';
import { Selection } from './selection';

describe('what people do to a graph', () => {
  const start = () =>
    makeMaster('M', {
      operations: {
        uv: makeOperation('texcoord', 1),
        u: makeOperation('extract', 2, { inputs: { in: linkTo('uv') } }),
        lit: makeOperation('clamp', 3, { name: 'lit', inputs: { in: linkTo('u') } }),
        far: makeOperation('multiply', 4, { inputs: { in1: linkTo('lit'), in2: linkTo('u') } }),
        red: makeOperation('tint', 5, { inputs: { colour: valueOf(1, 0, 0) } }),
      },
      outputs: { roughness: linkTo('far') },
    });
  const master = signal<MasterDocument>(start());
  let labels: string[];
  let said: string[];
  let made: MasterDocument[];
  let acts: Acts;
  let selection: Selection;
  beforeEach(() => {
    master.set(start());
    [labels, said, made] = [[], [], []];
    const context = signal(NO_CONTEXT);
    const materials = new MasterMaterials();
    const draft = (change: (d: MasterDocument) => void) =>
      master.update((d) => {
        const next = structuredClone(d);
        change(next);
        return next;
      });
    const commit = (label: string) => void labels.push(label);
    const model = {
      id: signal('m'),
      master,
      context,
      lowered: computed(() => materials.lowering(master(), NO_CONTEXT, true)),
      draft,
      commit,
      edit: (label: string, change: (d: MasterDocument) => void) => (draft(change), commit(label)),
    };
    const documents = {
      list: () => signal([{ id: 'x', body: { name: 'lit' } }]),
      create: (body: MasterDocument) => Promise.resolve(`new${made.push(body)}`),
    };
    TestBed.configureTestingModule({
      providers: [
        Acts,
        Selection,
        { provide: MasterModel, useValue: model },
        { provide: DocumentsService, useValue: documents },
        { provide: NoticesService, useValue: { say: (text: string) => said.push(text), error: (e: unknown) => fail(e) } },
      ],
    });
    acts = TestBed.inject(Acts);
    selection = TestBed.inject(Selection);
  });

  it('makes an operation of one’s own of the chosen, under a name that no master has', async () => {
    selection.chooseAll(['u', 'lit']);
    await acts.own();
    expect(made.map((m) => [m.name, Object.keys(m.operations).sort()])).toEqual([['lit 2', ['lit', 'u', 'uv']]]);
    const [key, op] = Object.entries(master().operations).find(([, o]) => o.step === 'own')!;
    expect([op.name, op.settings['master']]).toEqual(['lit 2', 'new1']);
    expect(selection.ids()).toEqual([key]);
    expect(labels).toEqual(['Make lit 2 of 2 operations']);
    // Who read them reads its published values.
    const values = Object.keys(made[0].published);
    expect(Object.values(master().operations['far'].inputs)).toEqual(jasmine.arrayWithExactContents(values.map((port) => linkTo(key, port))));
  });
  it('refuses to when something between them would be left out, and says what', async () => {
    selection.chooseAll(['u', 'far']);
    await acts.own();
    expect(said).toEqual(['lit lies between what is chosen: choose that as well']);
    expect([made.length, labels.length]).toEqual([0, 0]);
  });
  it('leaves a graph alone that changed while the new master was on its way', async () => {
    selection.chooseAll(['lit']);
    const done = acts.own();
    master.update((d) => ({ ...d, operations: { ...d.operations, later: makeOperation('sin', 9) } }));
    await done;
    expect(Object.values(master().operations).some((o) => o.step === 'own')).toBeFalse();
    expect(said[0]).toMatch(/^lit 2 is made, but the graph changed meanwhile/);
  });
  it('links what fits, and says why something does not', () => {
    expect(acts.link({ operation: 'u', port: 'in' }, linkTo('far'), 'far')).toBeFalse();
    expect(said.pop()).toMatch(/hangs on .* itself/);
    expect(acts.link({ operation: 'red', port: 'in' }, linkTo('u'), 'u')).toBeFalse();
    expect(said.pop()).toMatch(/takes a surface/);
    expect(acts.link({ operation: '', port: 'metallic' }, linkTo('lit'), 'lit')).toBeTrue();
    expect(master().outputs.metallic).toEqual(linkTo('lit'));
    expect(labels).toEqual(['Link lit to metallic']);
  });
  it('links surfaces by parameters and published names, too', () => {
    const holds = { kind: 'surface', surface: '' } as const;
    master.update((d) => ({ ...d, parameters: { p: { order: 1, name: 'ground', group: null, help: '', holds } } }));
    master.update((d) => ({ ...d, published: { q: { order: 1, name: 'dyed', operation: 'red', port: 'out' } } }));
    expect(acts.link({ operation: 'red', port: 'in' }, { from: 'parameter', parameter: 'p' }, 'ground')).toBeTrue();
    expect(acts.link({ operation: '', port: 'surface' }, { from: 'published', published: 'q' }, 'dyed')).toBeTrue();
    expect(acts.link({ operation: '', port: 'roughness' }, { from: 'published', published: 'q' }, 'dyed')).toBeFalse();
    expect(said.length).toBe(1);
  });
  it('puts steps before a place, after one, and instead of one, and chooses them', () => {
    acts.put('sin', { kind: 'feed', at: { operation: 'far', port: 'in1' } });
    const sine = selection.id()!;
    expect(master().operations[sine].inputs).toEqual({ in: linkTo('lit') });
    acts.put('own', { kind: 'free' }, { settings: { master: 'x' }, name: 'lit' });
    expect([master().operations[selection.id()!].settings['master'], master().operations[selection.id()!].name]).toEqual(['x', 'lit 2']);
    acts.put('max', { kind: 'replace', id: 'far' });
    expect(master().operations['far'].step).toBe('max');
    expect(Object.keys(master().operations['far'].inputs)).toEqual(['in1', 'in2']);
    expect(labels).toEqual(['Add sin', 'Add lit', 'Replace by max']);
  });
});
