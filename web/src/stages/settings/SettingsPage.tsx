import { type FormEvent, useMemo, useState } from "react";
import { type ApiError, answered, api } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { SiteView, Units } from "../../api/schema";
import { saveSettings, useSeenSettings, useSiteId } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { EntryField, type EntryValue, entryOf, readEntry } from "../../ui/EntryField";
import { ChoiceField, TextArea, TextField } from "../../ui/Field";
import { useNotice } from "../../ui/notices";
import { useDraft } from "../../ui/useDraft";
import { Section, StageHeader } from "../StageHeader";
import { placeText, readPlace } from "../sites/coordinates";
import { Devices } from "./Devices";
import { Phones } from "./Phones";

/** Everything a site's owner sets once, and the whole site out as files. */
export function SettingsPage() {
  const view = useSite(useSiteId()).data;
  if (!view) return null;
  const missing = [
    view.settings.gateway ? "" : "the gateway's address",
    view.settings.speed_test ? "" : "a speed-test address",
  ];
  const wanted = missing.filter(Boolean).join(" and ");
  return (
    <div className="max-w-3xl">
      <StageHeader
        title={wanted ? `Enter ${wanted} to measure from here.` : "All that is needed is set."}
        detail={wanted ? "Readings and tests can also be typed in without." : undefined}
      />
      <Devices key={`devices-${view.site.id}`} view={view} />
      <SiteForm key={`site-${view.site.id}`} view={view} />
      <Phones zone={view.site.time_zone} />
      <Section title="Take it with you">
        <p>
          Everything recorded here, archived parts too: as a zip with one CSV table for each kind of thing and
          the pictures, or as one JSON file. Either can be imported again without loss.
        </p>
        <div className="mt-3 flex flex-wrap gap-3">
          <a className={buttonClass("outlined")} href={`/api/sites/${view.site.id}/export.zip`} download>
            Export as zip (CSV)
          </a>
          <a className={buttonClass("outlined")} href={`/api/sites/${view.site.id}/export.json`} download>
            Export as JSON
          </a>
        </div>
      </Section>
    </div>
  );
}

/** Metres, with thousands of them allowed; the length field of a mount stops at 200. */
async function readDistance(typed: EntryValue): Promise<EntryValue> {
  if (typed.text.trim() === "") return { text: typed.text, value: null };
  const value = Number(typed.text.trim().replace(",", ".").replace(/\s*m$/, ""));
  return Number.isFinite(value)
    ? { text: typed.text, value }
    : { text: typed.text, value: null, error: "A number of metres, for instance 4700." };
}

const UNITS: readonly (readonly [Units, string])[] = [
  ["metric", "Metres"],
  ["imperial", "Feet"],
];

function SiteForm({ view }: { view: SiteView }) {
  const { site, settings } = view;
  const initial = useMemo(
    () => ({
      name: site.name,
      zone: site.time_zone,
      notes: site.notes ?? "",
      units: settings.units ?? "metric",
      network: settings.network ?? "",
      mastName: settings.known_mast?.name ?? "",
      mastBearing: entryOf(settings.known_mast?.bearing_deg),
      mastDistance: entryOf(settings.known_mast?.distance_m),
      ...placeText(site.place),
    }),
    [site, settings],
  );
  const [draft, change, clear, dirty] = useDraft(`site:${site.id}`, initial);
  const seen = useSeenSettings(view, "site", dirty);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const [placeError, setPlaceError] = useState<string>();
  const notice = useNotice();
  const set = (part: Partial<typeof draft>) => change({ ...draft, ...part });

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const { place, error } = readPlace(draft);
    setPlaceError(error);
    const mastBearing = await readEntry("bearing", "lte", draft.mastBearing);
    const mastDistance = await readDistance(draft.mastDistance);
    set({ mastBearing, mastDistance });
    if (error || mastBearing.error || mastDistance.error) return;
    const known_mast =
      mastBearing.value === null
        ? null
        : {
            name: draft.mastName,
            // A full turn is north again.
            bearing_deg: mastBearing.value === 360 ? 0 : mastBearing.value,
            distance_m: mastDistance.value,
          };
    const path = { params: { path: { id: site.id } } };
    try {
      const body = { name: draft.name, time_zone: draft.zone, notes: draft.notes, place };
      await answered(api.PUT("/api/sites/{id}", { ...path, body }));
      await saveSettings(seen, { units: draft.units, network: draft.network.trim(), known_mast });
      setProblem(null);
      clear();
      refresh(site.id);
      notice("The site is saved.");
    } catch (failed) {
      setProblem(failed as ApiError);
    }
  };

  return (
    <form onSubmit={(event) => void save(event)} noValidate>
      <Section title="The site">
        <div className="grid gap-4 sm:grid-cols-2">
          <TextField
            label="Name"
            value={draft.name}
            onChange={(name) => set({ name })}
            error={problem?.field("/name")}
          />
          <TextField
            label="Time zone"
            value={draft.zone}
            onChange={(zone) => set({ zone })}
            error={problem?.field("/time_zone")}
          />
          <TextField
            label="Latitude"
            value={draft.latitude}
            onChange={(latitude) => set({ latitude })}
            error={placeError ?? problem?.field("/place")}
          />
          <TextField label="Longitude" value={draft.longitude} onChange={(longitude) => set({ longitude })} />
          <ChoiceField
            label="Lengths in"
            value={draft.units}
            choices={UNITS}
            onChange={(units) => set({ units })}
          />
          <TextField
            label="Operator in use"
            hint="As you call it"
            value={draft.network}
            onChange={(network) => set({ network })}
            error={problem?.field("/network")}
          />
        </div>
        <fieldset className="mt-4 grid items-start gap-4 sm:grid-cols-3">
          <legend className="mb-1 font-semibold">The mast, if its direction is known</legend>
          <TextField label="Name" value={draft.mastName} onChange={(mastName) => set({ mastName })} />
          <EntryField
            label="Direction from the house"
            quantity="bearing"
            hint="From true north"
            entry={draft.mastBearing}
            onChange={(mastBearing) => set({ mastBearing })}
            serverError={problem?.field("/known_mast/bearing_deg")}
          />
          <TextField
            label="Distance, m"
            inputMode="decimal"
            value={draft.mastDistance.text}
            onChange={(text) => set({ mastDistance: { text, value: null } })}
            error={draft.mastDistance.error ?? problem?.field("/known_mast/distance_m")}
          />
        </fieldset>
        <div className="mt-4">
          <TextArea
            label="Notes"
            value={draft.notes}
            onChange={(notes) => set({ notes })}
            error={problem?.field("/notes")}
          />
        </div>
        {problem && problem.problem.errors.length === 0 && (
          <p role="alert" className="mt-3 font-semibold text-starved">
            {problem.message}
          </p>
        )}
        <Button type="submit" look={dirty ? "filled" : "outlined"} disabled={!dirty} className="mt-4">
          Save the site
        </Button>
      </Section>
    </form>
  );
}
