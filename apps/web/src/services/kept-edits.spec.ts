import { makeBlend, makeEdit } from '@pebble/core';
import { KeptEdits } from './kept-edits';

const start = makeBlend('Step', { extentM: 2, layers: {} });
const edit = (name: string) => ({ ...makeEdit(start, name, (d) => void (d.name = name)), opId: crypto.randomUUID() });
const records = () => Object.keys(localStorage).filter((k) => k.startsWith('pebble-edit:'));
const labels = (of: ReadonlyMap<string, readonly { label: string }[]>) => [...of].map(([id, edits]) => [id, edits.map((e) => e.label)]);

describe('edits that wait', () => {
  const tabs: KeptEdits[] = [];
  const settle = () => new Promise((resolve) => setTimeout(resolve, 20));
  /** A tab of its own: what a browser copies into a new one is not copied. */
  const open = async () => {
    sessionStorage.removeItem('pebble-tab');
    const tab = new KeptEdits();
    tabs.push(tab);
    await tab.take('d');
    return tab;
  };
  beforeEach(() => records().forEach((k) => localStorage.removeItem(k)));
  afterEach(() => {
    tabs.splice(0).forEach((t) => t.end());
    records().forEach((k) => localStorage.removeItem(k));
    localStorage.removeItem('pebble-pending-edits');
  });

  it('are a record each, and nobody else takes or wipes those of a tab that lives', async () => {
    const [one, two] = [await open(), await open()];
    const [a, b, c] = [edit('a'), edit('b'), edit('c')];
    one.set('d', 'x', [a, b]);
    two.set('d', 'x', [c]);
    expect(records().length).toBe(3);
    expect(labels(await two.take('d'))).toEqual([]);
    two.set('d', 'x', []);
    expect(records().length).toBe(2);
    one.set('d', 'x', [b]);
    expect(records().length).toBe(1);
  });
  it('are taken over, in their order, once their tab is gone, by one tab alone', async () => {
    const [one, two, three] = [await open(), await open(), await open()];
    one.set('d', 'x', [edit('a'), edit('b')]);
    one.set('d', 'y', [edit('c')]);
    one.end();
    await settle();
    const both = await Promise.all([two.take('d'), three.take('d')]);
    expect(both.flatMap(labels).sort()).toEqual([
      ['x', ['a', 'b']],
      ['y', ['c']],
    ]);
    expect(records().length).toBe(3);
    // Whoever took them lets go of them as well.
    const taker = both[0].size ? two : three;
    taker.set('d', 'x', []);
    taker.set('d', 'y', []);
    expect(records()).toEqual([]);
  });
  it('are the same tab’s after a reload, another’s where a tab was duplicated, and of other data are left alone', async () => {
    const one = await open();
    one.set('d', 'x', [edit('a')]);
    // A duplicate has the session of the first, which lives.
    const copy = new KeptEdits();
    tabs.push(copy);
    expect(labels(await copy.take('d'))).toEqual([]);
    one.end();
    copy.end();
    await settle();
    const reloaded = new KeptEdits();
    tabs.push(reloaded);
    expect(labels(await reloaded.take('other data'))).toEqual([]);
    expect(labels(await reloaded.take('d'))).toEqual([['x', ['a']]]);
    // Put aside, they are found again when their data comes back.
    reloaded.aside();
    expect(labels(await reloaded.take('d'))).toEqual([['x', ['a']]]);
  });
  it('of an earlier version are found, and what is no edit is left out', async () => {
    sessionStorage.removeItem('pebble-tab');
    localStorage.setItem('pebble-pending-edits', JSON.stringify({ x: [edit('old')] }));
    localStorage.setItem('pebble-edit:gone:1', '{"no":"edit"}');
    localStorage.setItem('pebble-edit:gone:2', 'nonsense');
    const tab = new KeptEdits();
    tabs.push(tab);
    expect(labels(await tab.take('d'))).toEqual([['x', ['old']]]);
    expect(localStorage.getItem('pebble-pending-edits')).toBeNull();
  });
});
