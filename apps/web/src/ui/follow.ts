/** Pixels of moving before a press is no click any more. */
const CLICK_SLACK_PX = 4;

/** Calls `click` when the pointer is let go where it was pressed. */
export function clicked(event: PointerEvent, click: () => void): void {
  const { clientX, clientY } = event;
  let far = false;
  follow(
    event,
    (_, __, e) => {
      far ||= Math.hypot(e.clientX - clientX, e.clientY - clientY) > CLICK_SLACK_PX;
    },
    (kept) => {
      if (kept && !far) click();
    },
  );
}

/**
 * Follows the pointer that was pressed until it is let go; `move` gets the way since the last call in CSS pixels.
 * `end` is told whether it was let go (true) or lost: a pen out of reach, a gesture the system took over.
 */
export function follow(
  event: PointerEvent,
  move: (dx: number, dy: number, e: PointerEvent) => void,
  end: (kept: boolean) => void = () => undefined,
): void {
  const { pointerId } = event;
  let { clientX: x, clientY: y } = event;
  const onMove = (e: PointerEvent) => {
    if (e.pointerId !== pointerId) return;
    move(e.clientX - x, e.clientY - y, e);
    ({ clientX: x, clientY: y } = e);
  };
  const onEnd = (e: PointerEvent) => {
    if (e.pointerId !== pointerId) return;
    removeEventListener('pointermove', onMove);
    removeEventListener('pointerup', onEnd);
    removeEventListener('pointercancel', onEnd);
    end(e.type === 'pointerup');
  };
  addEventListener('pointermove', onMove);
  addEventListener('pointerup', onEnd);
  addEventListener('pointercancel', onEnd);
  event.preventDefault();
}
