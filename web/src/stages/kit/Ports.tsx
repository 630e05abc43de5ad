import { Link } from "@tanstack/react-router";
import { answered, api, newId } from "../../api/client";
import type { Kit, PortLink } from "../../api/schema";
import { PortDrawing } from "../../drawings/PortDrawing";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";
import type { Editing } from "./editing";

/** Leads to ports, drawn; other ways worth a test go to the Log as setups. */
export function Ports({ editing, kit, saved }: { editing: Editing; kit: Kit; saved: boolean }) {
  const { site, catalogue, spec, judged, set } = editing;
  const notice = useNotice();
  const gateway = catalogue.find(({ part }) => part.id === spec.gateway)?.part.spec;
  const leads = judged.assessment.chain.leads;
  const maps = judged.assessment.port_maps;
  const queue = useAction(site.site.id, async () => {
    const made = await answered(
      api.POST("/api/kits/{id}/queue-ports", {
        params: { path: { id: kit.id } },
        body: { setup_ids: maps.map(() => newId()) },
      }),
    );
    notice(`${made.length} setups wait in the Log, one for each way to plug.`);
  });
  if (gateway?.kind !== "gateway" || leads === 0 || maps.length === 0) return null;
  const ports = (gateway.ports ?? []).map((port) => ({
    name: port.name,
    note:
      (port.bands ?? []).length === 0
        ? "all bands"
        : (port.bands ?? []).map((band) => bandName(band.technology, band.band)).join(" "),
    second: port.direction === "receive" ? "receives only" : "",
  }));
  const plan = maps[0]?.links ?? [];
  const plug = (lead: number, port: string) => {
    const others = plan.filter((link) => link.lead !== lead);
    const swapped = others.map((link): PortLink => {
      const before = plan.find((one) => one.lead === lead);
      return link.port === port && before ? { ...link, port: before.port } : link;
    });
    set({ ports: [...swapped, { lead, port }].sort((a, b) => a.lead - b.lead) });
  };
  return (
    <Section title="Which lead goes to which port">
      <div className="grid gap-x-8 gap-y-3 lg:grid-cols-[minmax(0,26rem)_1fr]">
        <PortDrawing leads={leads} ports={ports} links={plan} />
        <div className="flex flex-col gap-2">
          {plan.map((link) => (
            <label key={link.lead} className="flex items-center gap-3">
              <span className="w-14">Lead {link.lead}</span>
              <select
                className="min-h-11 rounded-lg border border-edge bg-surface px-3"
                value={link.port}
                onChange={(event) => plug(link.lead, event.target.value)}
              >
                {ports.map((port) => (
                  <option key={port.name} value={port.name}>
                    port {port.name}
                  </option>
                ))}
              </select>
            </label>
          ))}
        </div>
      </div>
      {maps.length > 1 && (
        <div className="mt-3 max-w-3xl">
          <p>
            Some swear that the port does not matter, others found one pair much better: it is worth a test.
            Other ways to plug here:
          </p>
          <ul className="mt-1 list-disc pl-5">
            {maps.slice(1).map(({ links }) => {
              const words = links.map((link) => `${link.lead} to ${link.port}`).join(", ");
              return <li key={words}>{words}</li>;
            })}
          </ul>
          <div className="mt-2 flex flex-wrap items-center gap-4">
            <Button disabled={!saved || !spec.position_id} onClick={() => queue.run()}>
              Queue them for the Log
            </Button>
            {(!saved || !spec.position_id) && (
              <p className="text-sm text-muted">
                {spec.position_id
                  ? "Save the kit first."
                  : "Choose a position above and save; the tests are queued there."}
              </p>
            )}
            <Link
              to="/sites/$siteId/log"
              params={{ siteId: site.site.id }}
              className="font-semibold text-action underline underline-offset-4"
            >
              To the Log
            </Link>
          </div>
        </div>
      )}
    </Section>
  );
}
