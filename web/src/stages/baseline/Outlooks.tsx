import { refresh } from "../../api/queries";
import type {
  BaselineView,
  Building,
  LinkAssumptions,
  OutdoorAssumptions,
  OutdoorOutlook,
  SiteView,
} from "../../api/schema";
import { type SeenSite, saveSettings, useStoredSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { ChoiceInput, FormProblem, TextInput, useDraftForm } from "../../ui/form";
import { difference, range, signed, significant } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { readNumber } from "../../ui/number";
import { TableBox } from "../../ui/TableBox";
import { WhyTable } from "../../ui/WhyTable";
import { BUILDINGS, OUTDOOR_KINDS } from "../../ui/words";
import { Narrowing } from "../SetupOutlook";
import { Section } from "../StageHeader";

/** What three kinds of outdoor antenna would do here, with the assumptions in view. */
export function Outlooks({ view, site }: { view: BaselineView; site: SiteView }) {
  const verdict = view.baseline.verdict;
  const from = view.baseline.spots.find((spot) => spot.setup_id === verdict.from_setup);
  const widest = from?.carriers[0];
  const band = widest ? `${widest.cell.technology === "lte" ? "B" : "n"}${widest.cell.band ?? "?"}` : "";
  return (
    <Section title="What an outdoor antenna would do here">
      <p className="max-w-3xl text-muted">
        Against {from?.name}, {band} for the decibels, all carriers together for the speeds. Ranges, not
        promises: the same hour, the same cells.
      </p>
      <TableBox label="Expected by kind of antenna" className="mt-2">
        <table className="w-full text-right leading-snug">
          <thead>
            <tr className="border-b border-rule text-sm text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
              <th className="text-left">Kind</th>
              <th>Signal (RSRP), dB</th>
              <th>Signal-to-noise (SINR), dB</th>
              <th>Download, Mbit/s</th>
              <th>Upload, Mbit/s</th>
            </tr>
          </thead>
          <tbody>
            {verdict.outlooks.map((outlook) => (
              <OutlookRow key={outlook.kind} outlook={outlook} />
            ))}
          </tbody>
        </table>
      </TableBox>
      <WhyTable rows={view.why} of={view.why_of ? OUTDOOR_KINDS[view.why_of].toLowerCase() : undefined} />
      <Narrowing lines={view.narrowing} />
      <details className="mt-3">
        <summary className="font-semibold">What this assumes</summary>
        <Assumptions assumed={view.assumed} link={view.link} site={site} />
      </details>
    </Section>
  );
}

const decibels = (value: number) => difference(Math.round(value), 0);
const times = (value: number) => signed(value, value < 9.95 ? 1 : 0);

function OutlookRow({ outlook }: { outlook: OutdoorOutlook }) {
  return (
    <tr className="border-b border-rule align-top [&>td]:px-2 [&>td]:py-2">
      <td className="text-left font-bold">{OUTDOOR_KINDS[outlook.kind]}</td>
      <td>{range(outlook.rsrp_change_db, decibels)}</td>
      <td>{range(outlook.sinr_change_db, decibels)}</td>
      <td>
        {outlook.download_mbps ? range(outlook.download_mbps, significant) : "–"}
        {outlook.download_ratio && (
          <span className="block text-sm text-muted">{range(outlook.download_ratio, times)} ×</span>
        )}
      </td>
      <td>
        {outlook.upload_mbps ? range(outlook.upload_mbps, significant) : "–"}
        {outlook.upload_ratio && (
          <span className="block text-sm text-muted">{range(outlook.upload_ratio, times)} ×</span>
        )}
      </td>
    </tr>
  );
}

const buildings = Object.entries(BUILDINGS) as [Building | "", string][];

type Draft = {
  building: Building | "";
  stock: string;
  feed: string;
  layers: string;
  pattern: string;
  power: string;
  kinds: { gain: string; rejection: string }[];
};

const text = (value: number) => String(value).replace("-", "−");
/** Beyond every range, so that the server names the range beside the field where no number was typed. */
const NONE = 9999;

const number = (typed: string) => readNumber(typed) ?? NONE;

function draftOf(assumed: OutdoorAssumptions, link: LinkAssumptions): Draft {
  return {
    building: assumed.building ?? "",
    stock: text(assumed.stock_gain_dbi ?? 0),
    feed: text(assumed.feed_loss_db ?? 0),
    layers: text(link.layers ?? 2),
    pattern: link.nr_pattern ?? "",
    power: text(link.transmit_power_dbm ?? 23),
    kinds: (assumed.kinds ?? []).map((kind) => ({
      gain: text(kind.gain_dbi),
      rejection: text(kind.rejection_db),
    })),
  };
}

/** Everything assumed, open to change; what is measured takes its place by itself. */
function Assumptions({
  assumed,
  link,
  site,
}: {
  assumed: OutdoorAssumptions;
  link: LinkAssumptions;
  site: SiteView;
}) {
  const notice = useNotice();
  const kinds = assumed.kinds ?? [];
  const stored = useStoredSettings(site);
  const save = async (draft: Draft, seen: SeenSite = stored) => {
    const outdoor: OutdoorAssumptions = {
      building: draft.building || null,
      stock_gain_dbi: number(draft.stock),
      feed_loss_db: number(draft.feed),
      kinds: kinds.map((kind, index) => ({
        kind: kind.kind,
        gain_dbi: number(draft.kinds[index]?.gain ?? ""),
        rejection_db: number(draft.kinds[index]?.rejection ?? ""),
      })),
    };
    const layers = Math.min(255, Math.max(0, Math.round(number(draft.layers))));
    const changed = {
      ...link,
      layers,
      nr_pattern: draft.pattern.trim().toUpperCase(),
      transmit_power_dbm: number(draft.power),
    };
    const now = await saveSettings(seen, { outdoor, link: changed });
    refresh(site.site.id);
    notice("The assumptions are saved.");
    return now;
  };
  const form = useDraftForm({
    draft: `outdoor-4:${site.site.id}`,
    initial: draftOf(assumed, link),
    save,
    stored,
    draftOf: ({ settings }) => draftOf(settings.outdoor ?? assumed, settings.link ?? link),
  });
  return (
    <form onSubmit={form.submit} className="mt-3 flex max-w-3xl flex-col gap-4" noValidate>
      <p className="text-sm text-muted">
        Walls by ITU-R P.2109 over all buildings of that kind, or of both kinds where you are not sure; every
        reading at the house narrows what they take. Antennas and cable are common practice. Direction is how
        much less interfering masts are heard than the wanted one.
      </p>
      <div className="grid items-end gap-4 sm:grid-cols-4">
        <ChoiceInput label="The house" of={form} name="building" choices={buildings} />
        <TextInput label="Stock antennas, dBi" of={form} name="stock" at="/outdoor/stock_gain_dbi" />
        <TextInput label="Cable and joints, dB" of={form} name="feed" at="/outdoor/feed_loss_db" />
      </div>
      {kinds.map((kind, index) => (
        <fieldset key={kind.kind} className="grid items-end gap-4 sm:grid-cols-4">
          <legend className="font-semibold">{OUTDOOR_KINDS[kind.kind]}</legend>
          <TextInput
            of={form}
            name={`kinds.${index}.gain`}
            at={`/outdoor/kinds/${index}/gain_dbi`}
            label="Gain, dBi"
          />
          <TextInput
            of={form}
            name={`kinds.${index}.rejection`}
            at={`/outdoor/kinds/${index}/rejection_db`}
            label="Direction, dB"
          />
        </fieldset>
      ))}
      <fieldset className="grid items-end gap-4 sm:grid-cols-4">
        <legend className="font-semibold">Assumptions for what a carrier allows</legend>
        <TextInput label="Streams at the most" of={form} name="layers" at="/link/layers" />
        <TextInput
          label="5G turns (TDD)"
          hint="One letter a slot"
          of={form}
          name="pattern"
          at="/link/nr_pattern"
        />
        <TextInput label="Gateway transmits, dBm" of={form} name="power" at="/link/transmit_power_dbm" />
      </fieldset>
      <FormProblem of={form} />
      <Button type="submit" look="filled" disabled={!form.dirty} className="self-start">
        Save the assumptions
      </Button>
    </form>
  );
}
