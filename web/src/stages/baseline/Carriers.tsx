import { useNavigate, useSearch } from "@tanstack/react-router";
import { Tabs } from "radix-ui";
import type { BandPlace, ExplainedCarrier, Said, SpotView } from "../../api/schema";
import { Spectrum } from "../../drawings/Spectrum";
import { WidthBracket } from "../../drawings/WidthBracket";
import { ClassMark } from "../../ui/ClassMark";
import { frequency } from "../../ui/format";
import { bandName, MODES, ROLES } from "../../ui/words";
import { Section } from "../StageHeader";
import { SinrBuys } from "./SinrBuys";

const idOf = (one: ExplainedCarrier) =>
  `${one.cell.technology}-${one.cell.band ?? ""}-${one.carrier.channel ?? ""}-${one.cell.pci ?? ""}`;

/** How the carriers are bundled, and one of them at a time explained. */
export function Carriers({ spot, said }: { spot: SpotView; said: Said[][] }) {
  const navigate = useNavigate();
  const { carrier } = useSearch({ from: "/sites/$siteId" });
  const ids = spot.carriers.map(idOf);
  const chosen = carrier !== undefined && ids.includes(carrier) ? carrier : (ids[0] ?? "");
  const choose = (id: string) =>
    void navigate({ to: ".", search: (before) => ({ ...before, carrier: id }), resetScroll: false });
  const bands = spot.carriers
    .map((one) => one.band)
    .filter((band) => band?.downlink != null)
    .map((band) => ({
      name: band?.name ?? "",
      low: band?.downlink?.low_mhz ?? 0,
      high: band?.downlink?.high_mhz ?? 0,
    }));
  return (
    <Section
      title={`What ${spot.name} is connected to`}
      aside={<span className="text-muted">{MODES[spot.mode]}</span>}
    >
      <Spectrum
        bands={bands}
        carriers={spot.carriers
          .filter((one) => one.frequency_mhz != null)
          .map((one) => ({
            id: idOf(one),
            name: bandName(one.cell.technology, one.cell.band),
            mhz: one.frequency_mhz ?? 0,
            widths: one.carrier.bandwidth_mhz ?? one.rates.assumed_widths ?? undefined,
            anchor: one.carrier.role === "anchor",
            chosen: idOf(one) === chosen,
          }))}
        onChoose={choose}
      />
      <Tabs.Root value={chosen} onValueChange={choose} className="mt-2">
        <Tabs.List aria-label="Carriers" className="flex flex-wrap gap-2">
          {spot.carriers.map((one) => (
            <Tabs.Trigger
              key={idOf(one)}
              value={idOf(one)}
              className="min-h-11 rounded-xl border border-rule px-4 font-semibold data-[state=active]:border-ink data-[state=active]:bg-surface"
            >
              {bandName(one.cell.technology, one.cell.band)}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {spot.carriers.map((one, index) => (
          <Tabs.Content key={idOf(one)} value={idOf(one)} className="mt-4">
            <Carrier one={one} said={said[index] ?? []} />
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </Section>
  );
}

function Carrier({ one, said }: { one: ExplainedCarrier; said: Said[] }) {
  const names = one.band?.common_names ?? [];
  const facts = [
    one.frequency_mhz != null ? frequency(one.frequency_mhz) : "",
    names.length > 0 ? `known as ${names.join(", ")}` : "",
    one.cell.pci != null ? `PCI ${one.cell.pci}` : "",
    ROLES[one.carrier.role],
    one.band?.duplex === "tdd" ? "takes turns up and down (TDD)" : "",
  ].filter(Boolean);
  return (
    <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_16rem]">
      <div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
          <h3 className="text-lg font-bold">{bandName(one.cell.technology, one.cell.band)}</h3>
          {one.class && <ClassMark of={one.class.class} />}
          {one.carrier.bandwidth_mhz != null ? (
            <WidthBracket mhz={one.carrier.bandwidth_mhz} />
          ) : (
            one.rates.assumed_widths && <WidthBracket assumed={one.rates.assumed_widths} />
          )}
        </div>
        <p className="text-sm text-muted">{facts.join(", ")}</p>
        <ul className="mt-3 flex max-w-2xl flex-col gap-2 leading-snug">
          {said.map((sentence) => (
            <li
              key={sentence.text}
              className={sentence.finding.kind === "odd" ? "border-l-4 border-lamp pl-3" : ""}
            >
              {sentence.text}
            </li>
          ))}
        </ul>
        {one.band && <BandFacts band={one.band} />}
      </div>
      {one.careful_sinr_db != null && (
        <SinrBuys technology={one.cell.technology} sinrDb={one.careful_sinr_db} />
      )}
    </div>
  );
}

const span = ({ low_mhz, high_mhz }: { low_mhz: number; high_mhz: number }) => `${low_mhz} to ${high_mhz}`;

function BandFacts({ band }: { band: BandPlace }) {
  const parts = [
    band.downlink ? `down ${span(band.downlink)}` : "",
    band.uplink ? `up ${span(band.uplink)}` : "",
    band.bandwidths_mhz.length > 0 ? `carriers of ${band.bandwidths_mhz.join(", ")}` : "",
  ].filter(Boolean);
  return (
    <p className="mt-3 max-w-2xl text-sm text-muted">
      Band {band.name}, all in MHz: {parts.join("; ")}.
    </p>
  );
}
