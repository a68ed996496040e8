import { clicked, follow } from './follow';

describe('following a pointer', () => {
  const send = (type: string, x: number, y: number, pointerId = 7) => {
    const event = new PointerEvent(type, { clientX: x, clientY: y, pointerId, cancelable: true });
    dispatchEvent(event);
    return event;
  };
  const press = (x: number, y: number) => new PointerEvent('pointerdown', { clientX: x, clientY: y, pointerId: 7, cancelable: true });
  const record = () => {
    const told: string[] = [];
    follow(
      press(10, 10),
      (dx, dy) => told.push(`${dx} ${dy}`),
      (kept) => told.push(kept ? 'kept' : 'lost'),
    );
    return told;
  };

  it('gives the way since the last call, until the pointer is let go', () => {
    const told = record();
    send('pointermove', 13, 9);
    send('pointermove', 20, 9);
    send('pointerup', 20, 9);
    send('pointermove', 40, 40);
    expect(told).toEqual(['3 -1', '7 0', 'kept']);
  });
  it('heeds no other pointer: a hand that rests on the screen moves and ends nothing', () => {
    const told = record();
    send('pointermove', 90, 90, 8);
    send('pointerup', 90, 90, 8);
    send('pointermove', 11, 10);
    send('pointerup', 11, 10);
    expect(told).toEqual(['1 0', 'kept']);
  });
  it('says when the pointer was lost', () => {
    const told = record();
    send('pointermove', 11, 10);
    send('pointercancel', 0, 0);
    expect(told).toEqual(['1 0', 'lost']);
  });
  it('takes a press for a click when it was let go where it began', () => {
    let clicks = 0;
    const go = (way: number, end: string) => {
      clicked(press(0, 0), () => clicks++);
      send('pointermove', way, 0);
      send(end, way, 0);
    };
    go(2, 'pointerup');
    expect(clicks).toBe(1);
    go(9, 'pointerup');
    go(0, 'pointercancel');
    expect(clicks).toBe(1);
  });
});
