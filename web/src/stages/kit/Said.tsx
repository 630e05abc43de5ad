import type { At, JudgedKit, KitSaid } from "../../api/schema";
import { Section } from "../StageHeader";
import { SEVERITIES } from "./words";

/** A shape for each weight, so that colour is never alone. */
export function SeverityMark({ severity }: { severity: KitSaid["severity"] }) {
  const colour = { wrong: "text-starved", costs: "text-thin", mind: "text-muted" }[severity];
  return (
    <>
      <svg viewBox="0 0 16 16" className={`mt-1 size-4 shrink-0 ${colour}`} aria-hidden="true">
        {severity === "wrong" && <path d="M2 2 L14 14 M14 2 L2 14" stroke="currentColor" strokeWidth="3.2" />}
        {severity === "costs" && <path d="M8 1.5 L15 14 H1 Z" fill="currentColor" />}
        {severity === "mind" && (
          <circle cx="8" cy="8" r="4" fill="none" stroke="currentColor" strokeWidth="2" />
        )}
      </svg>
      <span className="sr-only">({SEVERITIES[severity]}) </span>
    </>
  );
}

/** Findings of one place, in words. */
export function SaidAt({ judged, at }: { judged: JudgedKit; at: (place: At) => boolean }) {
  const own = judged.said.filter((one) => at(one.at));
  if (own.length === 0) return null;
  return (
    <ul className="flex flex-col gap-1">
      {own.map((one) => (
        <li key={one.text} className="flex gap-2">
          <SeverityMark severity={one.severity} />
          <span className={one.severity === "wrong" ? "font-semibold" : ""}>{one.text}</span>
        </li>
      ))}
    </ul>
  );
}

/** What is said of the kit as a whole; what belongs to a place in the chain stands there. */
export function Said({ judged }: { judged: JudgedKit }) {
  const elsewhere = (place: At) => ["kit", "mount", "ethernet"].includes(place.at);
  const whole = judged.said.filter((one) => elsewhere(one.at));
  if (whole.length === 0) return null;
  return (
    <Section title="What to fix, and what to know">
      <div className="max-w-3xl">
        <SaidAt judged={judged} at={elsewhere} />
      </div>
    </Section>
  );
}
