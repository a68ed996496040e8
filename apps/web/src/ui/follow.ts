/** Pixels of moving before a press is no click any more. */
const SLACK = 4;

/** Calls `click` when the pointer is let go where it was pressed. */
export function clicked(event: PointerEvent, click: () => void): void {
  const { clientX, clientY } = event;
  let far = false;
  follow(
    event,
    (_, __, e) => {
      far ||= Math.hypot(e.clientX - clientX, e.clientY - clientY) > SLACK;
    },
    () => {
      if (!far) click();
    },
  );
}

/** Follows a pointer until it is let go; `move` gets the way since the last call in CSS pixels. */
export function follow(event: PointerEvent, move: (dx: number, dy: number, e: PointerEvent) => void, end: () => void = () => undefined): void {
  let { clientX: x, clientY: y } = event;
  const onMove = (e: PointerEvent) => {
    move(e.clientX - x, e.clientY - y, e);
    ({ clientX: x, clientY: y } = e);
  };
  const onEnd = () => {
    removeEventListener('pointermove', onMove);
    removeEventListener('pointerup', onEnd);
    removeEventListener('pointercancel', onEnd);
    end();
  };
  addEventListener('pointermove', onMove);
  addEventListener('pointerup', onEnd);
  addEventListener('pointercancel', onEnd);
  event.preventDefault();
}
