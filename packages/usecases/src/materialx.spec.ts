import type { GraphContext } from '@pebble/core';
import { BLEND_ROLES, makeMaster, makeOperation, linkTo } from '@pebble/core';
import { EXAMPLE_MASTERS, STILL_MASTERS, materialXOf } from './index';

const roles = new Set([...BLEND_ROLES, 'id'] as const);
const facts = { sizeM: 1, reliefM: 0.02, mid: 0.5, roles: roles as never };
const CONTEXT: GraphContext = {
  surfaces: Object.fromEntries(
    ['roof-tile', 'weathered-copper', 'lime-plaster', 'laterite-clay', 'copper-still-ids', 'terrace-stone'].map((id) => [id, facts]),
  ),
  blends: {},
  masters: {},
};
/** Elements of a document by their graph: names, and what they name. */
function read(text: string) {
  const graphs: { name: string; names: string[]; asked: string[]; inputs: string[]; faces: string[] }[] = [];
  const nodedefs = new Map<string, string>();
  let at: (typeof graphs)[number] | null = null;
  const used = new Set<string>();
  for (const line of text.split('\n')) {
    const [, tag = '', rest = ''] = /^\s*<([\w]+)((?:\s[^>]*)?)>?/.exec(line) ?? [];
    const said = (name: string) => new RegExp(`\\s${name}="([^"]*)"`).exec(rest)?.[1];
    const name = said('name') ?? '';
    if (tag === 'nodedef') nodedefs.set(said('node') ?? '', name);
    else if (tag === 'nodegraph') graphs.push((at = { name, names: [], asked: [], inputs: [], faces: [] }));
    else if (line.includes('</nodegraph>')) at = null;
    else if (at && tag === 'input') {
      const [node, face] = [said('nodename'), said('interfacename')];
      if (node) at.asked.push(node);
      else if (face) at.faces.push(face);
      else if (/^ {4}</.test(line)) at.inputs.push(name);
    } else if (at && tag === 'output') at.asked.push(said('nodename') ?? '');
    else if (at && tag) {
      at.names.push(name);
      used.add(tag);
    }
  }
  return { graphs, nodedefs, used };
}

describe('masters as MaterialX', () => {
  for (const [id, master] of Object.entries({ ...EXAMPLE_MASTERS, ...STILL_MASTERS }))
    if (id !== 'terrace-ground')
      it(`${master.name}: every name is there once, every node that is named is there, every node of ours is defined`, () => {
        const text = materialXOf(master, CONTEXT);
        expect(text).toMatch(/^<\?xml version="1.0" encoding="UTF-8"\?>\n<materialx version="1.39"/);
        const { graphs, nodedefs, used } = read(text);
        for (const { name, names, asked, inputs, faces } of graphs) {
          expect(new Set(names).size).withContext(name).toBe(names.length);
          for (const node of asked) expect(names).withContext(name).toContain(node);
          // Faces of the graph itself; those of definitions are inputs of their nodedef.
          if (!name.startsWith('NG_')) for (const face of faces) expect(inputs).withContext(name).toContain(face);
        }
        for (const tag of used) if (tag.startsWith('PB_')) expect(nodedefs.has(tag)).withContext(tag).toBeTrue();
        for (const nodedef of nodedefs.values()) expect(text).withContext(nodedef).toContain(`nodedef="${nodedef}"`);
      });
  it('names that clash, and characters that XML forbids, come out apart and clean', () => {
    const number = (value: number) => ({ kind: 'number' as const, value: [value], low: 0, high: 1, unit: '' });
    const d = makeMaster('a <b> & "c"\u0007', {
      help: 'line\nbreak',
      operations: {
        m: makeOperation('add', 1, { inputs: { in1: { from: 'parameter', parameter: 'x' }, in2: { from: 'parameter', parameter: 'y' } } }),
      },
      parameters: {
        x: { order: 1, name: 'add', group: null, help: '', holds: number(0.1) },
        y: { order: 2, name: 'Add!', group: null, help: '<>', holds: number(0.2) },
      },
      outputs: { roughness: linkTo('m') },
    });
    const text = materialXOf(d, CONTEXT);
    const { graphs } = read(text);
    expect(new Set(graphs.at(-1)!.inputs).size).toBe(2);
    expect(graphs.at(-1)!.inputs).not.toContain('add');
    expect(text).not.toMatch(/[\u0000-\u0008]/);
    expect(text).toContain('&lt;&gt;');
  });
});
