import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { answered, api } from "../../api/client";
import { keys, useSite } from "../../api/queries";
import { PortDrawing } from "../../drawings/PortDrawing";
import { Button } from "../../ui/Button";
import { effortWords, PartsTable } from "./Cost";
import { SaidAt } from "./Said";
import { PASSAGES } from "./words";

const HEADING = "mt-6 border-b border-rule pb-1 text-lg font-bold";

/** Everything for the day of the job on paper: parts, tools, steps, ports, and the cautions that apply. */
export function JobCardPage() {
  const { siteId, kitId } = useParams({ from: "/sites/$siteId/job-card/$kitId" });
  const zone = useSite(siteId).data?.site.time_zone ?? "UTC";
  const card = useQuery({
    queryKey: keys.jobCard(kitId),
    queryFn: () => answered(api.GET("/api/kits/{id}/job-card", { params: { path: { id: kitId } } })),
    staleTime: 0,
  });
  if (card.isError) {
    return (
      <main className="mx-auto max-w-xl p-10">
        <h1 className="text-2xl font-bold">There is no job card.</h1>
        <p className="mt-3">{card.error.message}</p>
      </main>
    );
  }
  if (!card.data) return null;
  const { kit, judged, setup, site_name, position_name, currency, tools, steps, cautions, port_bands } =
    card.data;
  const { chain, port_maps } = judged.assessment;
  const wrong = judged.said.filter((one) => one.severity === "wrong");
  const date = (day: string) =>
    new Intl.DateTimeFormat("en-GB", {
      day: "numeric",
      month: "long",
      year: "numeric",
      timeZone: zone,
    }).format(new Date(`${day}T12:00:00Z`));
  return (
    <main className="mx-auto max-w-4xl px-6 py-6 print:max-w-none print:p-0 print:text-[11pt]">
      <p className="flex flex-wrap items-center gap-4 print:hidden">
        <Link
          to="/sites/$siteId/kit"
          params={{ siteId }}
          search={{ kit: kitId }}
          className="font-semibold text-action underline"
        >
          Back to the kit
        </Link>
        <Button look="filled" onClick={() => window.print()}>
          Print
        </Button>
      </p>
      <h1 className="mt-4 text-2xl leading-tight font-bold">
        Job card: {kit.name}, {site_name}
      </h1>
      <p className="mt-1 text-lg">{judged.title}</p>
      <p className="mt-1">
        {position_name ? `Position: ${position_name}. ` : "No position chosen yet. "}
        {kit.spec.passage.way !== "none" &&
          `The cable comes in: ${PASSAGES[kit.spec.passage.way].toLowerCase()}. `}
        {effortWords(judged)}
        {kit.return_by && ` Parts can be given back until ${date(kit.return_by)}: finish the tests before.`}
      </p>
      {setup && (
        <p className="mt-1">
          <strong>Set it like this:</strong> {setup}
        </p>
      )}
      {wrong.length > 0 && (
        <section className="mt-4 border-2 border-starved p-3" aria-label="Fix before you buy">
          <h2 className="font-bold">Fix before you buy</h2>
          <SaidAt judged={{ ...judged, said: wrong }} at={() => true} />
        </section>
      )}
      <section aria-label="Cautions" className="break-inside-avoid">
        <h2 className={HEADING}>Cautions for this plan</h2>
        {cautions.length === 0 ? (
          <p className="mt-2">None beyond the usual care indoors.</p>
        ) : (
          <ul className="mt-2 flex flex-col gap-1.5">
            {cautions.map((one) => (
              <li key={one.text} className="border-l-4 border-lamp pl-3">
                {one.text}
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-label="Parts">
        <h2 className={HEADING}>Parts</h2>
        <div className="mt-2">
          <PartsTable judged={judged} currency={currency} />
        </div>
      </section>
      <section aria-label="Tools" className="break-inside-avoid">
        <h2 className={HEADING}>Tools</h2>
        <p className="mt-2">{tools.join(" · ")}</p>
      </section>
      <section aria-label="Steps">
        <h2 className={HEADING}>Steps, in this order</h2>
        <ol className="mt-2 flex flex-col gap-1.5">
          {steps.map((step, index) => (
            <li key={step} className="grid break-inside-avoid grid-cols-[1.25rem_1.75rem_1fr] gap-2">
              <span className="mt-1 size-4 border-2 border-ink" aria-hidden="true" />
              <span className="text-right font-bold">{index + 1}</span>
              <span>{step}</span>
            </li>
          ))}
        </ol>
      </section>
      {chain.leads > 0 && port_maps[0] && (
        <section aria-label="Ports" className="break-inside-avoid">
          <h2 className={HEADING}>Leads and ports</h2>
          <div className="mt-3">
            <PortDrawing
              leads={chain.leads}
              ports={port_bands.map((port) => ({ name: port.port, note: port.bands.join(" ") }))}
              links={port_maps[0].links}
            />
          </div>
        </section>
      )}
      <section aria-label="To know" className="break-inside-avoid">
        <h2 className={HEADING}>To know</h2>
        <div className="mt-2">
          <SaidAt
            judged={{ ...judged, said: judged.said.filter((one) => one.severity !== "wrong") }}
            at={() => true}
          />
        </div>
      </section>
      {kit.notes && (
        <section aria-label="Notes">
          <h2 className={HEADING}>Notes</h2>
          <p className="mt-2 whitespace-pre-wrap">{kit.notes}</p>
        </section>
      )}
      <p className="mt-6 text-sm text-muted">
        Figures of wind, loss and speed are indications, not a structural design and not a promise. Local
        codes and licensed trades go before anything that stands here.
      </p>
    </main>
  );
}
