import { useEffect, useRef, useState } from "react";

/** The size an element has on the page. */
export function useSize(): [React.RefObject<HTMLDivElement | null>, number, number] {
  const ref = useRef<HTMLDivElement>(null);
  const [[width, height], setSize] = useState([400, 0]);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize([Math.max(120, entry.contentRect.width), entry.contentRect.height]);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width ?? 400, height ?? 0];
}
