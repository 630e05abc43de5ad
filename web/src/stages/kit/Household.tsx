import { type FormEvent, useState } from "react";
import { ApiError } from "../../api/client";
import { refresh } from "../../api/queries";
import type { KitSettings, KitsView, SiteView } from "../../api/schema";
import { saveSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { TextArea, TextField } from "../../ui/Field";
import { useNotice } from "../../ui/notices";
import { useDraft } from "../../ui/useDraft";
import { Section } from "../StageHeader";
import { expectedText, readExpected } from "./bands";
import { typed } from "./draft";
import { USES } from "./words";

interface Draft {
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
}

const text = (value: number | null | undefined) => (value == null ? "" : String(value).replace("-", "−"));
/** Beyond every range, so that the server names the range beside the field where no number was typed. */
const NONE = 9999;

function draftOf(kit: KitSettings): Draft {
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
    expected: expectedText(kit.expected ?? []),
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
  const [draft, change, clear, dirty] = useDraft(`household:${site.site.id}`, draftOf(settings));
  const [problem, setProblem] = useState<ApiError>();
  const notice = useNotice();
  const set = (part: Partial<Draft>) => change((now) => ({ ...now, ...part }));
  const need = (value: string) => typed(value) ?? NONE;
  const field = (name: string) => problem?.field(`/kit/${name}`);
  const save = async (event: FormEvent) => {
    event.preventDefault();
    const expected = readExpected(draft.expected);
    if (typeof expected === "string") {
      setProblem(
        new ApiError({
          type: "problems/invalid",
          title: "Not understood",
          status: 422,
          detail: expected,
          errors: [{ pointer: "/kit/expected", detail: expected }],
        }),
      );
      return;
    }
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
    try {
      await saveSettings(site, { kit });
      clear();
      setProblem(undefined);
      refresh(site.site.id);
      notice("The household and the site are saved.");
    } catch (error) {
      if (error instanceof ApiError) setProblem(error);
    }
  };
  return (
    <Section title="The household and the site">
      <form onSubmit={(event) => void save(event)} className="flex max-w-3xl flex-col gap-5" noValidate>
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
              <UseRow
                key={one.use}
                name={USES[one.use]}
                values={draft.uses[at] ?? { count: "", down: "", up: "" }}
                errors={[
                  field(`uses/${at}/count`),
                  field(`uses/${at}/down_mbps`),
                  field(`uses/${at}/up_mbps`),
                ]}
                onChange={(values) =>
                  set({ uses: draft.uses.map((row, index) => (index === at ? values : row)) })
                }
              />
            ))}
          </div>
        </fieldset>
        <div className="grid items-start gap-4 sm:grid-cols-3">
          <TextField
            label="Cable needed, m"
            value={draft.cable}
            onChange={(cable) => set({ cable })}
            error={field("cable_m")}
          />
          <TextField
            label="Antenna height, m"
            value={draft.height}
            onChange={(height) => set({ height })}
            error={field("height_m")}
          />
          <TextField
            label="Currency"
            value={draft.currency}
            onChange={(currency) => set({ currency })}
            error={field("currency")}
          />
          <TextField
            label="Mast height, m"
            hint="For the path model"
            value={draft.mast}
            onChange={(mast) => set({ mast })}
            error={field("mast_height_m")}
          />
          <TextField
            label="Cable temperature, °C"
            hint="Loss grows in the sun"
            value={draft.temperature}
            onChange={(temperature) => set({ temperature })}
            error={field("cable_temperature_c")}
          />
          <TextField
            label="Design wind, m/s"
            value={draft.wind}
            onChange={(wind) => set({ wind })}
            error={field("wind_m_s")}
          />
          <TextField
            label="Overhead line, m away"
            hint="From the mast's foot; empty for none seen"
            value={draft.line}
            onChange={(line) => set({ line })}
            error={field("overhead_line_m")}
          />
          <TextField
            label="Permitted EIRP, dBm"
            hint="As your regulator says; empty if not known"
            value={draft.eirp}
            onChange={(eirp) => set({ eirp })}
            error={field("permitted_eirp_dbm")}
          />
          <TextField
            label="Disturbing masts, ° true"
            hint="Bearings; empty: all round"
            value={draft.interferers}
            onChange={(interferers) => set({ interferers })}
            error={(settings.interferer_bearings_deg ?? [])
              .concat(0, 0, 0, 0, 0, 0, 0, 0)
              .map((_, at) => field(`interferer_bearings_deg/${at}`))
              .find(Boolean)}
          />
        </div>
        <TextArea
          label="Bands on offer that were not heard"
          value={draft.expected}
          onChange={(expected) => set({ expected })}
          hint="One each with its width, for instance B20 10, n78 80. The mast's distance is set at the Settings; the rural model does the rest."
          error={
            field("expected") ??
            Array.from({ length: 12 }, (_, at) => field(`expected/${at}`)).find(
              (detail) => detail !== undefined,
            )
          }
          rows={1}
        />
        <label className="flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="size-5 accent-action"
            checked={draft.tenant}
            onChange={(event) => set({ tenant: event.target.checked })}
          />
          Rented: nothing may be drilled, all of it must come away again
        </label>
        {problem && problem.problem.errors.length === 0 && (
          <p role="alert" className="font-semibold text-starved">
            {problem.message}
          </p>
        )}
        <Button type="submit" look={dirty ? "filled" : "outlined"} disabled={!dirty} className="self-start">
          Save household and site
        </Button>
      </form>
    </Section>
  );
}

interface UseValues {
  count: string;
  down: string;
  up: string;
}

function UseRow({
  name,
  values,
  errors,
  onChange,
}: {
  name: string;
  values: UseValues;
  errors: (string | undefined)[];
  onChange: (values: UseValues) => void;
}) {
  const cell = (label: string, key: keyof UseValues, error: string | undefined) => (
    <input
      aria-label={`${name}: ${label}`}
      aria-invalid={error !== undefined || undefined}
      inputMode="decimal"
      className={`min-h-11 w-full rounded-lg border bg-surface px-3 ${error ? "border-starved" : "border-edge"}`}
      value={values[key]}
      onChange={(event) => onChange({ ...values, [key]: event.target.value })}
    />
  );
  return (
    <>
      <span>{name}</span>
      {cell("how many", "count", errors[0])}
      {cell("Mbit/s down", "down", errors[1])}
      {cell("Mbit/s up", "up", errors[2])}
      {errors.some(Boolean) && (
        <p role="alert" className="col-span-4 text-sm font-semibold text-starved">
          {name}: {errors.find(Boolean)}
        </p>
      )}
    </>
  );
}
