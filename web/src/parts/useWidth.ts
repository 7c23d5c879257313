/** The width of what holds a drawing, followed as it changes. */
import { useLayoutEffect, useRef, useState, type RefObject } from "react";

export function useWidth(usual: number): [RefObject<HTMLDivElement | null>, number] {
  const holder = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(usual);
  useLayoutEffect(() => {
    const element = holder.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setWidth(element.clientWidth));
    watch.observe(element);
    setWidth(element.clientWidth);
    return () => watch.disconnect();
  }, []);
  return [holder, width];
}
