import { readList } from "../../api/lists";
import { refresh } from "../../api/queries";
import type { ExpectedCarrier, KitSettings, KitsView, SiteView } from "../../api/schema";
import { type SeenSite, saveSettings, useStoredSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import {
  AreaInput,
  CellInput,
  CheckInput,
  type DraftForm,
  FormProblem,
  TextInput,
  useDraftForm,
} from "../../ui/form";
import { useNotice } from "../../ui/notices";
import { readNumber } from "../../ui/number";
import { Section } from "../StageHeader";
import { USES } from "./words";

type Draft = {
  uses: { count: string; down: string; up: string }[];
  currency: string;
  cable: string;
  height: string;
  mast: string;
  expected: string;
  interferers: string;
  eirp: string;
  temperature: string;
  wind: string;
  line: string;
  tenant: boolean;
};

const text = (value: number | null | undefined) => (value == null ? "" : String(value).replace("-", "−"));
/** Beyond every range, so that the server names the range beside the field where no number was typed. */
const NONE = 9999;

function draftOf(kit: KitSettings, expected: string): Draft {
  return {
    uses: (kit.uses ?? []).map((one) => ({
      count: text(one.count),
      down: text(one.down_mbps),
      up: text(one.up_mbps),
    })),
    currency: kit.currency ?? "EUR",
    cable: text(kit.cable_m),
    height: text(kit.height_m),
    mast: text(kit.mast_height_m),
    expected,
    interferers: (kit.interferer_bearings_deg ?? []).map(text).join(", "),
    eirp: text(kit.permitted_eirp_dbm),
    temperature: text(kit.cable_temperature_c),
    wind: text(kit.wind_m_s),
    line: text(kit.overhead_line_m),
    tenant: kit.tenant ?? false,
  };
}

/** What the household does with its line, and what is assumed of the site: all of it open to change. */
export function Household({ site, kits }: { site: SiteView; kits: KitsView }) {
  const settings = kits.settings;
  const uses = settings.uses ?? [];
  const notice = useNotice();
  const need = (value: string) => readNumber(value) ?? NONE;
  const stored = useStoredSettings(site);
  const save = async (draft: Draft, seen: SeenSite = stored) => {
    const expected = await readList<ExpectedCarrier>("expected_carriers", draft.expected, "/kit/expected");
    const kit: KitSettings = {
      ...settings,
      uses: uses.map((one, at) => ({
        ...one,
        count: Math.min(255, Math.max(0, Math.round(need(draft.uses[at]?.count ?? "")))),
        down_mbps: need(draft.uses[at]?.down ?? ""),
        up_mbps: need(draft.uses[at]?.up ?? ""),
      })),
      currency: draft.currency.trim().toUpperCase(),
      cable_m: need(draft.cable),
      height_m: need(draft.height),
      mast_height_m: need(draft.mast),
      expected,
      interferer_bearings_deg: draft.interferers
        .split(/[,;\s]+/)
        .filter(Boolean)
        .map(need),
      permitted_eirp_dbm: draft.eirp.trim() === "" ? null : need(draft.eirp),
      cable_temperature_c: need(draft.temperature),
      wind_m_s: need(draft.wind),
      overhead_line_m: draft.line.trim() === "" ? null : need(draft.line),
      tenant: draft.tenant,
    };
    const now = await saveSettings(seen, { kit });
    refresh(site.site.id);
    notice("The household and the site are saved.");
    return now;
  };
  const form = useDraftForm({
    draft: `household:${site.site.id}`,
    initial: draftOf(settings, kits.expected_text),
    save,
    stored,
    draftOf: (there) => draftOf(there.settings.kit ?? settings, kits.expected_text),
  });
  return (
    <Section title="The household and the site">
      <form onSubmit={form.submit} className="flex max-w-3xl flex-col gap-5" noValidate>
        <fieldset>
          <legend className="font-semibold">At once, at the busiest time</legend>
          <p className="text-sm text-muted">
            Rates each are common practice; change them to your own. A quarter is added on top, because a line
            filled to its brim delays everything.
          </p>
          <div className="mt-2 grid grid-cols-[minmax(0,1fr)_5rem_6rem_6rem] items-center gap-x-3 gap-y-2">
            <span />
            <span className="text-sm text-muted">how many</span>
            <span className="text-sm text-muted">Mbit/s down</span>
            <span className="text-sm text-muted">Mbit/s up</span>
            {uses.map((one, at) => (
              <UseRow key={one.use} form={form} name={USES[one.use]} at={at} />
            ))}
          </div>
        </fieldset>
        <div className="grid items-start gap-4 sm:grid-cols-3">
          <TextInput label="Cable needed, m" of={form} name="cable" at="/kit/cable_m" />
          <TextInput label="Antenna height, m" of={form} name="height" at="/kit/height_m" />
          <TextInput label="Currency" of={form} name="currency" at="/kit/currency" />
          <TextInput
            label="Mast height, m"
            hint="For the path model"
            of={form}
            name="mast"
            at="/kit/mast_height_m"
          />
          <TextInput
            label="Cable temperature, °C"
            hint="Loss grows in the sun"
            of={form}
            name="temperature"
            at="/kit/cable_temperature_c"
          />
          <TextInput label="Design wind, m/s" of={form} name="wind" at="/kit/wind_m_s" />
          <TextInput
            label="Overhead line, m away"
            hint="From the mast's foot; empty for none seen"
            of={form}
            name="line"
            at="/kit/overhead_line_m"
          />
          <TextInput
            label="Permitted EIRP, dBm"
            hint="As your regulator says; empty if not known"
            of={form}
            name="eirp"
            at="/kit/permitted_eirp_dbm"
          />
          <TextInput
            label="Disturbing masts, ° true"
            hint="Bearings; empty: all round"
            of={form}
            name="interferers"
            at="/kit/interferer_bearings_deg"
          />
        </div>
        <AreaInput
          label="Bands on offer that were not heard"
          of={form}
          name="expected"
          at="/kit/expected"
          hint="One each with its width, for instance B20 10, n78 80. The mast's distance is set at the Settings; the rural model does the rest."
          rows={1}
        />
        <CheckInput
          of={form}
          name="tenant"
          label="Rented: nothing may be drilled, all of it must come away again"
        />
        <FormProblem of={form} />
        <Button
          type="submit"
          look={form.dirty ? "filled" : "outlined"}
          disabled={!form.dirty}
          className="self-start"
        >
          Save household and site
        </Button>
      </form>
    </Section>
  );
}

function UseRow({ form, name, at }: { form: DraftForm<Draft>; name: string; at: number }) {
  const errors = form.form.formState.errors.uses?.[at];
  const wrong = errors?.count?.message ?? errors?.down?.message ?? errors?.up?.message;
  const cell = (label: string, key: "count" | "down" | "up", pointer: string) => (
    <CellInput
      of={form}
      name={`uses.${at}.${key}`}
      at={`/kit/uses/${at}/${pointer}`}
      label={`${name}: ${label}`}
    />
  );
  return (
    <>
      <span>{name}</span>
      {cell("how many", "count", "count")}
      {cell("Mbit/s down", "down", "down_mbps")}
      {cell("Mbit/s up", "up", "up_mbps")}
      {wrong && (
        <p role="alert" className="col-span-4 text-sm font-semibold text-starved">
          {name}: {wrong}
        </p>
      )}
    </>
  );
}
