import { levelsWith } from './levels-row';

describe('levels of a route', () => {
  it('start from the whole range', () => {
    expect(levelsWith(undefined, 'low', 0.2)).toEqual({ low: 0.2, high: 1, mid: 0.5 });
    expect(levelsWith({ low: 0.2, high: 1, mid: 0.5 }, 'mid', 0.25)).toEqual({ low: 0.2, high: 1, mid: 0.25 });
  });
  it('are not written where they change nothing, in whatever order a document came back', () => {
    expect(levelsWith(undefined, 'high', 1)).toBeUndefined();
    expect(levelsWith({ low: 0.2, high: 1, mid: 0.5 }, 'low', 0)).toBeUndefined();
    expect(levelsWith({ mid: 0.5, low: 0, high: 0.75 }, 'high', 1)).toBeUndefined();
  });
});
