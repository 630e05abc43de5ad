import { Link } from "@tanstack/react-router";
import type { Attach, PreflightSaid, PreflightView } from "../../api/schema";
import { ChoiceField, TextField } from "../../ui/Field";
import { ATTACHES } from "../../ui/words";

const attaches = Object.entries(ATTACHES) as [Attach, string][];

/** What to know before the next run: what would spoil it, what only the user knows, and what is carried over. */
export function Preflight({
  siteId,
  view,
  attach,
  weather,
  onAttach,
  onWeather,
}: {
  siteId: string;
  view: PreflightView;
  attach: Attach;
  weather: string;
  onAttach: (attach: Attach) => void;
  onWeather: (weather: string) => void;
}) {
  const of = (state: PreflightSaid["state"]) => view.items.filter((one) => one.state === state);
  const warnings = of("warn");
  const asked = of("ask");
  const known = of("known");
  const asks = (kind: PreflightSaid["item"]["kind"]) => asked.find((one) => one.item.kind === kind);
  const ports = asks("ports_unknown");
  return (
    <details className="mt-3" open={warnings.length > 0 || undefined}>
      <summary className="font-semibold">
        Before the next run
        <span className="font-normal text-muted">: {inShort(warnings.length, asked.length)}</span>
      </summary>
      <div className="mt-2 flex flex-col gap-3">
        {warnings.map((one) => (
          <p key={one.text} className="border-l-4 border-lamp pl-3">
            {one.text}
          </p>
        ))}
        <div className="grid items-start gap-4 sm:grid-cols-2">
          <ChoiceField
            label="Gateway since the antenna was moved"
            hint={
              asks("ask_attach")?.text ??
              "Restarted, it may catch other bands; kept attached, nothing but the antenna changed."
            }
            value={attach}
            choices={attaches}
            onChange={onAttach}
          />
          <TextField
            label="Weather, leaves"
            hint={asks("ask_weather")?.text ?? "Matters out of doors only"}
            value={weather}
            onChange={onWeather}
          />
        </div>
        {ports && (
          <p>
            {ports.text}{" "}
            <Link
              to="/sites/$siteId/mount"
              params={{ siteId }}
              className="font-semibold text-action underline"
            >
              Note the ports
            </Link>
          </p>
        )}
        {known.length > 0 && <p className="text-sm text-muted">{known.map((one) => one.text).join(" ")}</p>}
      </div>
    </details>
  );
}

/** "one warning, two questions"; "nothing to do". */
export function inShort(warnings: number, questions: number): string {
  const some = (count: number, one: string) =>
    count === 0 ? [] : [count === 1 ? `1 ${one}` : `${count} ${one}s`];
  return [...some(warnings, "warning"), ...some(questions, "question")].join(", ") || "nothing to do";
}
