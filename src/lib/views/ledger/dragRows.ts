// Dragging rows by pointer: onto a bus re-routes into it, onto the upper half of a track puts them before it.

type Target = { readonly id: string; readonly into: boolean };
type Hooks = {
  /** What moves when `id` is grabbed. */
  readonly ids: (id: string) => string[];
  readonly bus: (id: string) => boolean;
  readonly hover: (id: string | null) => void;
  readonly drop: (moved: string[], target: Target) => void;
};

/** Pixels before a press becomes a drag. */
const THRESHOLD = 6;
const EDGE = 30;

export const dragRows =
  ({ ids, bus, hover, drop }: Hooks) =>
  (event: PointerEvent, id: string): void => {
    if (event.button !== 0 || (event.target as HTMLElement).closest('input')) return;
    let dragging = false;
    let target: Target | null = null;
    const moved = ids(id);

    const under = (x: number, y: number): Target | null => {
      const row = document.elementFromPoint(x, y)?.closest<HTMLElement>('[data-row]');
      const over = row?.dataset.row;
      if (!row || !over || moved.includes(over)) return null;
      const { top, height } = row.getBoundingClientRect();
      return { id: over, into: bus(over) && y > top + height * 0.25 };
    };
    /** Near the edge of what scrolls, it scrolls. */
    const scroller = (event.target as HTMLElement).closest<HTMLElement>('.scroll');
    let speed = 0;
    const scrolling = setInterval(() => speed && scroller?.scrollBy(0, speed), 16);
    const move = (at: PointerEvent) => {
      if (!dragging && Math.hypot(at.clientX - event.clientX, at.clientY - event.clientY) < THRESHOLD) return;
      dragging = true;
      document.body.style.cursor = 'grabbing';
      const box = scroller?.getBoundingClientRect();
      speed = !box ? 0 : at.clientY < box.top + EDGE + 46 ? -8 : at.clientY > box.bottom - EDGE ? 8 : 0;
      target = under(at.clientX, at.clientY);
      hover(target?.id ?? null);
    };
    const end = (at: Event) => {
      clearInterval(scrolling);
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', end);
      window.removeEventListener('pointercancel', end);
      document.body.style.cursor = '';
      hover(null);
      if (dragging && target && at.type === 'pointerup') drop(moved, target);
    };
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', end);
    window.addEventListener('pointercancel', end);
  };
