/** Follows the pointer from a press on an element until it is let go, wherever it goes meanwhile. */
export function followPointer(
  event: PointerEvent,
  move: (event: PointerEvent) => void,
  ended: (event: PointerEvent) => void = () => {}
): void {
  const target = event.currentTarget as HTMLElement;
  target.setPointerCapture(event.pointerId);
  const done = (last: PointerEvent) => {
    target.removeEventListener('pointermove', move);
    target.removeEventListener('pointerup', done);
    target.removeEventListener('pointercancel', done);
    ended(last);
  };
  target.addEventListener('pointermove', move);
  target.addEventListener('pointerup', done);
  target.addEventListener('pointercancel', done);
}
