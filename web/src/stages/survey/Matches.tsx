import type { SurveyView } from "../../api/schema";
import { Section } from "../StageHeader";
import { FITS } from "./words";

/** What the gateway heard, held against the list of masts, with the evidence. */
export function Matches({ view }: { view: SurveyView }) {
  return (
    <Section title="Heard cells and their masts">
      <ul className="flex flex-col gap-2">
        {view.matches.map((one) => (
          <li
            key={`${one.heard}${one.mast_id}${one.evidence.join()}`}
            className="grid gap-x-4 md:grid-cols-[9rem_12rem_1fr]"
          >
            <span className="font-semibold">{one.heard}</span>
            <span>
              <span aria-hidden="true" className={FITS[one.fit].colour}>
                {FITS[one.fit].mark}
              </span>{" "}
              {one.mast}, {one.fit_text}
            </span>
            <span className="text-muted">{one.evidence.join("; ")}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
