import { step } from "./pointing";

type Json = null | boolean | number | string | Json[] | { [name: string]: Json };

/** The device's live answer as a tree; while something is pointed, each part can be pressed. */
export function LiveTree({ page, onPoint }: { page: unknown; onPoint?: (pointer: string) => void }) {
  return (
    <div className="max-h-[34rem] overflow-auto rounded-lg border border-rule bg-surface p-3 text-sm">
      <Branch value={page as Json} at="" name="the whole page" onPoint={onPoint} />
    </div>
  );
}

function Branch({
  value,
  at,
  name,
  onPoint,
}: {
  value: Json;
  at: string;
  name: string;
  onPoint: ((pointer: string) => void) | undefined;
}) {
  const inner = typeof value === "object" && value !== null;
  const shown = inner ? (Array.isArray(value) ? `list of ${value.length}` : "") : JSON.stringify(value);
  const label = (
    <>
      <strong>{name}</strong>
      {shown && <span className="text-muted"> {shown.length > 60 ? `${shown.slice(0, 60)}…` : shown}</span>}
    </>
  );
  const children = inner ? Object.entries(value) : [];
  return (
    <div>
      {onPoint ? (
        <button
          type="button"
          aria-label={`Point at ${at || "the whole page"}`}
          className="min-h-8 w-full rounded px-1 text-left hover:bg-lamp-wash"
          onClick={() => onPoint(at)}
        >
          {label}
        </button>
      ) : (
        <p className="px-1">{label}</p>
      )}
      {children.length > 0 && (
        <ul className="ml-2 border-l border-rule pl-2">
          {children.slice(0, 60).map(([key, child]) => (
            <li key={key}>
              <Branch value={child} at={at + step(key)} name={key} onPoint={onPoint} />
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
