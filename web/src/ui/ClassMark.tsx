import type { Class } from "../api/schema";
import { CLASSES } from "./words";

const COLOURS: Record<Class, string> = {
  starved: "text-starved",
  thin: "text-thin",
  usable: "text-usable",
  solid: "text-solid",
  ample: "text-ample",
};

/** One shape a class, so that the word and the colour are never alone. */
function Shape({ of }: { of: Class }) {
  switch (of) {
    case "starved":
      return <path d="M3 3 L11 11 M11 3 L3 11" stroke="currentColor" strokeWidth="2.6" fill="none" />;
    case "thin":
      return <path d="M1.5 7 H12.5" stroke="currentColor" strokeWidth="3.2" />;
    case "usable":
      return <path d="M7 2 L12.5 12 H1.5 Z" fill="none" stroke="currentColor" strokeWidth="2.2" />;
    case "solid":
      return <rect x="2" y="2" width="10" height="10" fill="currentColor" />;
    case "ample":
      return <circle cx="7" cy="7" r="5.6" fill="currentColor" />;
  }
}

export function ClassMark({ of }: { of: Class }) {
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
      <svg viewBox="0 0 14 14" className={`size-3.5 ${COLOURS[of]}`} aria-hidden="true">
        <Shape of={of} />
      </svg>
      {CLASSES[of]}
    </span>
  );
}
