import { matchSlots } from './index';

const match = (slots: readonly string[], names: readonly string[], mesh = '') =>
  Object.fromEntries(
    [
      ...matchSlots(
        slots,
        names.map((name) => ({ key: name, name })),
        mesh,
      ),
    ].map(([slot, { key, by }]) => [slot, `${key} by ${by}`]),
  );
const byName = (pairs: Record<string, string>) => Object.fromEntries(Object.entries(pairs).map(([slot, key]) => [slot, `${key} by name`]));

describe('finished maps and slots', () => {
  it('belong together by name, whatever both begin with and however they are spelt', () => {
    expect(match(['body', 'wheels', 'interior'], ['cart_wheels', 'cart_body', 'cart_interior'], 'cart')).toEqual(
      byName({ body: 'cart_body', wheels: 'cart_wheels', interior: 'cart_interior' }),
    );
    expect(match(['M_Still_Body', 'M_Still_Pipe', 'M_Still_Stand'], ['T Stand', 'T Body', 'T Pipe'], 'Still')).toEqual(
      byName({ M_Still_Body: 'T Body', M_Still_Pipe: 'T Pipe', M_Still_Stand: 'T Stand' }),
    );
    expect(match(['copperBody', 'leafLid'], ['Copper body', 'Leaf lid'])).toEqual(byName({ copperBody: 'Copper body', leafLid: 'Leaf lid' }));
    expect(match(['Wheel', 'Door'], ['Wheels', 'Doors'])).toEqual(byName({ Wheel: 'Wheels', Door: 'Doors' }));
    expect(match(['Material.001', 'Material.002'], ['set_1', 'set_2'])).toEqual(byName({ 'Material.001': 'set_1', 'Material.002': 'set_2' }));
    expect(match(['plaster', 'timber', 'stone'], ['shed_stone_wall', 'shed_timber_beam', 'shed_plaster'])).toEqual(
      byName({ plaster: 'shed_plaster', timber: 'shed_timber_beam', stone: 'shed_stone_wall' }),
    );
  });
  it('are not shared out by a part of a word, nor where two are as likely', () => {
    expect(match(['body', 'body glass'], ['glass', 'body'])).toEqual(byName({ body: 'body', 'body glass': 'glass' }));
    expect(match(['pipe', 'lid'], ['pipe left', 'pipe right'])).toEqual({});
    expect(match(['a1', 'a2', 'a3'], ['a12', 'a13'])).toEqual({});
    expect(match(['iron', 'oak'], ['slate', 'lime'])).toEqual({});
  });
  it('of one kind may serve several slots', () => {
    expect(match(['wheel front', 'wheel rear', 'hull'], ['wheel', 'hull'])).toEqual(
      byName({ 'wheel front': 'wheel', 'wheel rear': 'wheel', hull: 'hull' }),
    );
  });
  it('whose names say nothing go by where pictures were made for, where one fits clearly best', () => {
    const fits = (table: Record<string, Record<string, number>>) =>
      Object.fromEntries(
        [
          ...matchSlots(
            Object.keys(table),
            ['p', 'q', 'r'].map((key) => ({ key, name: key })),
            '',
            (slot, key) => table[slot][key] ?? null,
          ),
        ].map(([slot, { key, by }]) => [slot, `${key} by ${by}`]),
      );
    expect(fits({ oak: { p: 0.9, q: 0.3, r: 0.1 }, iron: { p: 0.2, q: 0.8, r: 0.4 }, clay: {} })).toEqual({
      oak: 'p by layout',
      iron: 'q by layout',
      clay: 'r by left over',
    });
    // Two that fit as well, and what fits badly, are left to be asked.
    expect(fits({ oak: { p: 0.9, q: 0.85 }, iron: { r: 0.5 } })).toEqual({});
  });
  it('go together where there is no choice, and say that this is why', () => {
    expect(match(['top', 'foot'], ['lantern'])).toEqual({ top: 'lantern by only one', foot: 'lantern by only one' });
    expect(match(['body', 'shape_7'], ['body', 'bits'])).toEqual({ body: 'body by name', shape_7: 'bits by left over' });
    expect(match(['body'], [])).toEqual({});
  });
});
