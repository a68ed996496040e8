import { parseQuantity, showQuantity } from './quantity';

describe('quantities', () => {
  const mm = { factor: 0.001, unit: 'mm', decimals: 1 };
  const percent = { factor: 0.01, unit: '%', decimals: 0 };
  const plain = { factor: 1, unit: '', decimals: 2 };
  it('are shown without trailing zeros', () => {
    expect(showQuantity(0.004, mm)).toBe('4');
    expect(showQuantity(0.0045, mm)).toBe('4.5');
    expect(showQuantity(0.3, percent)).toBe('30');
    expect(showQuantity(100, { ...plain, decimals: 0 })).toBe('100');
  });
  it('are read with units, fractions, sums and changes', () => {
    const read = (text: string, present = 0.01, q = mm) => parseQuantity(text, present, q);
    expect(read('4')).toBeCloseTo(0.004, 12);
    expect(read('12cm')).toBeCloseTo(0.12, 12);
    expect(read('1.5 m')).toBeCloseTo(1.5, 12);
    expect(read('*0.5')).toBeCloseTo(0.005, 12);
    expect(read('/4')).toBeCloseTo(0.0025, 12);
    expect(read('+=2')).toBeCloseTo(0.012, 12);
    expect(read('-=2mm')).toBeCloseTo(0.008, 12);
    expect(read('-3')).toBeCloseTo(-0.003, 12);
    expect(read('1/3', 0, plain)).toBeCloseTo(1 / 3, 12);
    expect(read('2*(0.2+0.05)', 0, plain)).toBeCloseTo(0.5, 12);
    expect(read('0,5', 0, plain)).toBeCloseTo(0.5, 12);
    expect(read('40', 0, percent)).toBeCloseTo(0.4, 12);
    expect(read('40%', 0, plain)).toBeCloseTo(0.4, 12);
  });
  it('that make no sense are not read', () => {
    for (const text of ['', 'abc', '1+', '(1', '1 2', '5 kg', '/0', '1/0'])
      expect(parseQuantity(text, 1, mm))
        .withContext(text)
        .toBeNull();
  });
});
