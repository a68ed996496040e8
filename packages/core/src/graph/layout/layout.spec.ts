import type { MasterDocument } from '../../document';
import { linkTo, makeMaster, makeOperation } from '../../document';
import { makeRandom } from '../../noise';
import { appendStep, insertStep, removeOperations, sourceAt } from '../edits';
import type { CardPlaces } from './lay';
import { layCards, railsOf } from './lay';
import { cardsOf } from './cards';

/** A graph as people build them: chains that branch and meet, feeding several outputs. */
function built(size: number, seed: number): MasterDocument {
  const next = makeRandom(seed);
  const d = makeMaster('Built');
  const two = ['add', 'multiply', 'mix', 'max', 'smoothstep'];
  for (let i = 0; i < size; i++) {
    const reach = Math.min(i, 9);
    const op = makeOperation(i % 4 === 0 ? 'fractal2d' : two[Math.floor(next() * two.length)], i + 1);
    if (i % 4 !== 0 && i > 0) {
      const ports = op.step === 'smoothstep' ? ['in'] : op.step === 'mix' ? ['bg', 'fg'] : ['in1', 'in2'];
      for (const port of ports) op.inputs[port] = linkTo(`n${i - 1 - Math.floor(next() * reach)}`);
    }
    d.operations[`n${i}`] = op;
  }
  const read = new Set(Object.values(d.operations).flatMap((o) => Object.values(o.inputs).map((s) => (s.from === 'link' ? s.operation : ''))));
  const ends = Object.keys(d.operations).filter((id) => !read.has(id));
  (['baseColor', 'roughness', 'occlusion', 'height'] as const).forEach(
    (name, i) => (d.outputs[name] = linkTo(ends[i % ends.length] ?? `n${size - 1}`)),
  );
  return d;
}

const overlaps = (d: MasterDocument, places: CardPlaces): string[] => {
  const { cards } = cardsOf(d);
  return cards.flatMap((a, i) =>
    cards.slice(i + 1).flatMap((b) => {
      const [p, q] = [places[a.id], places[b.id]];
      return p.x < q.x + b.width && q.x < p.x + a.width && p.y < q.y + b.height && q.y < p.y + a.height ? [`${a.id} on ${b.id}`] : [];
    }),
  );
};
const backwards = (d: MasterDocument, places: CardPlaces): string[] => {
  const { cards, links } = cardsOf(d);
  return links.flatMap(({ from, to }) =>
    places[from].x + (cards.find((c) => c.id === from)?.width ?? 0) + 8 <= places[to].x ? [] : [`${from} → ${to}`],
  );
};
/** Share of the cards that were there and moved by 40 px or more. */
const disturbed = (before: CardPlaces, after: CardPlaces): number => {
  const both = Object.keys(before).filter((id) => after[id]);
  return both.filter((id) => Math.hypot(after[id].x - before[id].x, after[id].y - before[id].y) >= 40).length / both.length;
};

describe('the layout', () => {
  for (const size of [1, 5, 20, 60, 300])
    it(`of ${size} operations lays no card on another and runs every link to the right`, () => {
      for (let seed = 1; seed <= (size > 100 ? 2 : 8); seed++) {
        const d = built(size, seed);
        const places = layCards(cardsOf(d));
        expect(overlaps(d, places)).withContext(`seed ${seed}`).toEqual([]);
        expect(backwards(d, places)).withContext(`seed ${seed}`).toEqual([]);
      }
    });
  it('ends its lanes at the outputs, which stand in one line at the right', () => {
    const d = built(30, 3);
    const places = layCards(cardsOf(d));
    const ends = Object.keys(places).filter((id) => id.startsWith('>'));
    expect(new Set(ends.map((id) => places[id].x)).size).toBe(1);
    for (const [id, { x }] of Object.entries(places)) if (!id.startsWith('>')) expect(x).toBeLessThan(places[ends[0]].x);
    // In the order of the channels, from the top.
    const tops = ['>baseColor', '>roughness', '>occlusion', '>height'].map((id) => places[id].y);
    expect([...tops].sort((a, b) => a - b)).toEqual(tops);
  });
  it('is the same for the same graph', () => {
    const d = built(60, 5);
    expect(layCards(cardsOf(d))).toEqual(layCards(cardsOf(JSON.parse(JSON.stringify(d)) as MasterDocument)));
  });
  it('leaves nine of ten cards where they were, whatever one edit of one operation does, and no card on another', () => {
    let worst = 0;
    for (let seed = 1; seed <= 25; seed++) {
      const next = makeRandom(seed * 77);
      const d = built(60, seed);
      const before = layCards(cardsOf(d));
      const ids = Object.keys(d.operations);
      const fed = ids.filter((id) => Object.keys(d.operations[id].inputs).length);
      const id = fed[Math.floor(next() * fed.length)];
      const port = Object.keys(d.operations[id].inputs)[0];
      if (seed % 4 === 0) insertStep(d, { operation: id, port }, 'clamp', 'new');
      else if (seed % 4 === 1) appendStep(d, { operation: id, port: 'out' }, 'invert', 'new');
      else if (seed % 4 === 2) removeOperations(d, [id]);
      else d.operations[id].inputs['more'] = { from: 'parameter', parameter: 'p' };
      const after = layCards(cardsOf(d), before);
      const share = disturbed(before, after);
      worst = Math.max(worst, share);
      expect(share).withContext(`seed ${seed}`).toBeLessThanOrEqual(0.1);
      expect(overlaps(d, after)).withContext(`seed ${seed}`).toEqual([]);
      expect(backwards(d, after)).withContext(`seed ${seed}`).toEqual([]);
    }
    expect(worst).toBeGreaterThan(0);
  });
  it('stays so over twenty insertions in one place of a long chain', () => {
    const d = makeMaster('Chain');
    for (let i = 0; i < 60; i++) d.operations[`n${i}`] = makeOperation('sin', i + 1, i ? { inputs: { in: linkTo(`n${i - 1}`) } } : {});
    d.outputs.roughness = linkTo('n59');
    let places = layCards(cardsOf(d));
    for (let k = 0; k < 20; k++) {
      insertStep(d, { operation: 'n30', port: 'in' }, 'cos', `k${k}`);
      const after = layCards(cardsOf(d), places);
      expect(disturbed(places, after))
        .withContext(`insertion ${k}`)
        .toBeLessThanOrEqual(k < 1 ? 0.1 : 0.7);
      expect(overlaps(d, after)).toEqual([]);
      expect(backwards(d, after)).toEqual([]);
      places = after;
    }
    expect(sourceAt(d, { operation: 'n30', port: 'in' })).toEqual(linkTo('k19'));
  });
  it('brings a card that is taken back to where it lay', () => {
    const d = built(40, 9);
    const before = layCards(cardsOf(d));
    const less = JSON.parse(JSON.stringify(d)) as MasterDocument;
    removeOperations(less, ['n20']);
    const without = layCards(cardsOf(less), before);
    expect(layCards(cardsOf(d), { ...before, ...without })).toEqual(before);
  });
  it('lays what feeds itself, too, instead of going on for ever', () => {
    const d = makeMaster('Circle', {
      operations: { a: makeOperation('sin', 1, { inputs: { in: linkTo('b') } }), b: makeOperation('cos', 2, { inputs: { in: linkTo('a') } }) },
      outputs: { roughness: linkTo('a') },
    });
    expect(overlaps(d, layCards(cardsOf(d)))).toEqual([]);
  });
  it('folds a frame to one card that keeps its links', () => {
    const d = built(20, 4);
    d.frames['f'] = { order: 1, name: 'Wear', folded: true };
    for (const id of ['n9', 'n10', 'n11']) d.operations[id].frame = 'f';
    const { cards, links } = cardsOf(d);
    expect(cards.filter((c) => c.kind === 'frame').map((c) => c.id)).toEqual(['#f']);
    expect(cards.some((c) => c.id === 'n10')).toBeFalse();
    expect(links.some((l) => l.from === '#f' || l.to === '#f')).toBeTrue();
    expect(links.every((l) => l.from !== l.to && cards.some((c) => c.id === l.from) && cards.some((c) => c.id === l.to))).toBeTrue();
  });
  it('draws rails of right angles, from port to port, around what lies in between', () => {
    const d = built(30, 6);
    const graph = cardsOf(d);
    const places = layCards(graph);
    const rails = railsOf(graph, places);
    graph.links.forEach((link, i) => {
      const rail = rails[i];
      for (let k = 1; k < rail.length; k++) expect(rail[k].x === rail[k - 1].x || rail[k].y === rail[k - 1].y).toBeTrue();
      const from = graph.cards.find((c) => c.id === link.from)!;
      expect(rail[0].x).toBe(places[link.from].x + from.width);
      expect(rail[rail.length - 1].x).toBe(places[link.to].x);
    });
  });
});
