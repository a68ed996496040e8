import { measure } from './difference';

describe('the difference of two pictures', () => {
  const picture = (...rgb: number[]) => new ImageData(Uint8ClampedArray.from([...rgb, 255, ...rgb, 255]), 2, 1);
  it('is told by its largest and its mean, and raised to be seen', () => {
    const a = picture(10, 20, 30);
    const b = picture(10, 26, 30);
    const { most, mean, difference } = measure(a, b);
    expect(most).toBe(6);
    expect(mean).toBe(2);
    expect([...difference.data.subarray(0, 4)]).toEqual([0, 24, 0, 255]);
  });
  it('is nothing for the same picture', () =>
    expect(measure(picture(1, 2, 3), picture(1, 2, 3))).toEqual(jasmine.objectContaining({ most: 0, mean: 0 })));
});
