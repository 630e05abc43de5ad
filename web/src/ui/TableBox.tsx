import type { ReactNode } from "react";

/** A wide table scrolls within itself, by keyboard too, and never the page. */
export function TableBox({
  label,
  className = "",
  children,
}: {
  label: string;
  className?: string;
  children: ReactNode;
}) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard (WCAG 2.1.1)
    <section aria-label={label} tabIndex={0} className={`relative overflow-x-auto ${className}`}>
      {children}
    </section>
  );
}
