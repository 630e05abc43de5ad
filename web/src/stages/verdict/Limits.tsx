import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { keys } from "../../api/queries";
import { whole } from "../../ui/format";
import { Section } from "../StageHeader";

/** What limits a setup: the likeliest cause, what to do about it, what speaks for and against it, and its rivals. */
export function Limits({ siteId, setupId }: { siteId: string; setupId: string }) {
  const found = useQuery({
    queryKey: keys.diagnosis(siteId, setupId),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/setups/{id}/diagnosis", { params: { path: { id: setupId } } })),
  });
  const view = found.data;
  if (!view) return null;
  const rows = view.causes_said.map((said, at) => ({
    ...said,
    cause: view.diagnosis.causes[at]?.cause ?? said.name,
    chance: view.diagnosis.causes[at]?.chance ?? 0,
  }));
  const [first, ...rivals] = rows;
  return (
    <Section title="What limits it">
      <p className="max-w-3xl text-lg font-bold">{view.title}</p>
      <p className="mt-1 max-w-3xl">{view.detail}</p>
      {first && <Grounds of={first} />}
      {rivals.length > 0 && (
        <details className="mt-3">
          <summary className="font-semibold">What else it may be</summary>
          <ul className="mt-2 flex flex-col gap-3">
            {rivals.map((one) => (
              <li key={one.cause}>
                <p className="font-bold">
                  {one.name}
                  <span className="font-normal text-muted">, {whole(one.chance * 100)} %</span>
                </p>
                <Grounds of={one} />
              </li>
            ))}
          </ul>
        </details>
      )}
      <p className="mt-2 max-w-3xl text-sm text-muted">
        Chances among the causes known here, from usual patterns: a hint where to look, not a proof.
      </p>
    </Section>
  );
}

function Grounds({ of }: { of: { speaks_for: string[]; against: string[] } }) {
  const lines = [
    ["For", of.speaks_for],
    ["Against", of.against],
  ] as const;
  return (
    <dl className="mt-1 grid max-w-3xl grid-cols-[5rem_1fr] gap-x-3 gap-y-0.5">
      {lines.map(
        ([name, said]) =>
          said.length > 0 && (
            <div key={name} className="col-span-2 grid grid-cols-subgrid">
              <dt className="text-muted">{name}</dt>
              <dd>{said.join("; ")}</dd>
            </div>
          ),
      )}
    </dl>
  );
}
