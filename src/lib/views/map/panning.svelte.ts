// Moving about the Map: d3-zoom on the paper, its transform written straight to the drawing, which moves as one picture while it moves.
import { select } from 'd3-selection';
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomTransform } from 'd3-zoom';

/** How long after the last move it is drawn sharp again. */
const REST_MS = 160;

export function createPanning() {
  let paper: HTMLElement | null = null;
  let drawing: SVGSVGElement | null = null;
  let now: ZoomTransform = zoomIdentity;
  /** Whether somebody has moved it by hand: until then it keeps to its frame. */
  let own = false;
  let rest: ReturnType<typeof setTimeout> | undefined;

  const behaviour = zoom<HTMLElement, unknown>()
    .scaleExtent([0.15, 3])
    // What is a button or a river's end is not the paper; Shift and wheel go sideways.
    .filter(
      (event: MouseEvent) =>
        !event.button && !(event.type === 'wheel' && event.shiftKey) && !(event.target as Element).closest('.node, .end')
    )
    .on('zoom', ({ transform, sourceEvent }: D3ZoomEvent<HTMLElement, unknown>) => {
      now = transform;
      if (sourceEvent) own = true;
      if (!drawing) return;
      drawing.style.transform = `translate(${transform.x}px, ${transform.y}px) scale(${transform.k})`;
      drawing.style.willChange = 'transform';
      clearTimeout(rest);
      rest = setTimeout(() => drawing && (drawing.style.willChange = ''), REST_MS);
    });
  const go = (transform: ZoomTransform) => paper && select(paper).call(behaviour.transform, transform);

  return {
    get own() {
      return own;
    },
    attach: (element: HTMLElement, svg: SVGSVGElement) => {
      paper = element;
      drawing = svg;
      select(element).call(behaviour).on('dblclick.zoom', null);
      const sideways = (event: WheelEvent) => {
        if (!event.shiftKey) return;
        event.preventDefault();
        own = true;
        select(element).call(behaviour.translateBy, -(event.deltaX || event.deltaY) / now.k, 0);
      };
      element.addEventListener('wheel', sideways, { passive: false });
      return () => {
        clearTimeout(rest);
        element.removeEventListener('wheel', sideways);
        select(element).on('.zoom', null);
      };
    },
    /** The whole drawing in the window, or as much of it as can be read. */
    fit: (width: number, height: number, readable: number) => {
      own = false;
      if (!paper || width === 0) return;
      const scale = Math.max(readable, Math.min(1, paper.clientWidth / width, paper.clientHeight / height));
      go(zoomIdentity.translate(Math.max(0, (paper.clientWidth - width * scale) / 2), 0).scale(scale));
    },
    /** Keeps what was at one place of the drawing where it is on screen, now that it is at another. */
    follow: (was: { readonly x: number; readonly y: number }, is: { readonly x: number; readonly y: number }) => {
      // From here on it is where somebody put it, and no change takes it back to its frame.
      own = true;
      go(now.translate(was.x - is.x, was.y - is.y));
    },
    /** A place on screen as one of the drawing. */
    place: (event: MouseEvent): { x: number; y: number } => {
      const frame = paper!.getBoundingClientRect();
      const [x, y] = now.invert([event.clientX - frame.left, event.clientY - frame.top]);
      return { x, y };
    }
  };
}
