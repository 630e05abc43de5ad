import type { ReactNode } from "react";

/** The sentence on top, made by the core, with what supports it. */
export function StageHeader({
  title,
  detail,
  children,
}: {
  title: string;
  detail?: string;
  children?: ReactNode;
}) {
  return (
    <div className="max-w-3xl">
      <h1 className="text-2xl leading-tight font-bold lg:text-[1.7rem]">{title}</h1>
      {detail && <p className="mt-2 text-lg leading-snug text-muted">{detail}</p>}
      {children}
    </div>
  );
}

/** A heading inside a stage. */
export function Section({
  title,
  children,
  aside,
}: {
  title: string;
  children: ReactNode;
  aside?: ReactNode;
}) {
  return (
    <section className="mt-8" aria-label={title}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1 border-b border-rule pb-1.5">
        <h2 className="text-lg font-bold">{title}</h2>
        {aside}
      </div>
      <div className="mt-3">{children}</div>
    </section>
  );
}
