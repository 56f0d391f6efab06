import { useEffect, useLayoutEffect, useRef, type RefObject } from 'react';
import { LABEL, panTime, RULER, zoomTime, type X } from './axis';

/**
 * The wheel with Ctrl, or over the ruler, zooms the time axis about the pointer, and sideways moves along it. What comes
 * between two pictures of the page is taken together: to draw all strips for each turn would hold the next one up.
 */
export function useWheel(host: RefObject<HTMLDivElement | null>, x: X, inner: number): void {
  const axis = useRef({ x, inner });
  useLayoutEffect(() => {
    axis.current = { x, inner };
  });
  useEffect(() => {
    // Not through React: its wheel listeners are passive, and this one keeps the page from zooming.
    const element = host.current!;
    const left = () => element.getBoundingClientRect().left + LABEL;
    let [along, turned, clientX, due] = [0, 0, 0, 0];
    const apply = () => {
      due = 0;
      const now = axis.current;
      if (along !== 0) panTime(along / now.inner);
      if (turned !== 0) zoomTime(Math.exp(turned * 0.002), now.x.invert(clientX - left()));
      [along, turned] = [0, 0];
    };
    const onRuler = (e: WheelEvent) => e.clientY - element.getBoundingClientRect().top < RULER;
    const onWheel = (e: WheelEvent) => {
      const sideways = Math.abs(e.deltaX) > Math.abs(e.deltaY);
      if (!e.ctrlKey && !e.altKey && !sideways && !onRuler(e)) return;
      e.preventDefault();
      if (sideways) along += e.deltaX;
      else [turned, clientX] = [turned + e.deltaY, e.clientX];
      due ||= requestAnimationFrame(apply);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => {
      element.removeEventListener('wheel', onWheel);
      cancelAnimationFrame(due);
    };
  }, [host]);
}
