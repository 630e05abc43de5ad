import { useCallback, useMemo } from "react";
import { ApiError, answered, api } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { SiteView, Units } from "../../api/schema";
import { type SeenSite, saveSettings, useSiteId, useStoredSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { entryOf } from "../../ui/EntryField";
import { AreaInput, ChoiceInput, EntryInput, FormProblem, TextInput, useDraftForm } from "../../ui/form";
import { useNotice } from "../../ui/notices";
import { readNumber } from "../../ui/number";
import { Section, StageHeader } from "../StageHeader";
import { placeOf, placeText } from "../sites/coordinates";
import { PlaceInputs } from "../sites/PlaceInputs";
import { Devices } from "./Devices";
import { Exports } from "./Exports";
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
      <Exports siteId={view.site.id} />
    </div>
  );
}

/** Metres, with thousands of them allowed; the length field of a mount stops at 200. */
const metres = (text: string) => readNumber(text, "m");
const badDistance = (text: string) =>
  metres(text) !== null ? undefined : "A number of metres, for instance 4700.";

const UNITS: readonly (readonly [Units, string])[] = [
  ["metric", "Metres"],
  ["imperial", "Feet"],
];

function SiteForm({ view }: { view: SiteView }) {
  const stored = useStoredSettings(view);
  const { site } = view;
  const draftOf = useCallback(
    ({ site, settings }: SeenSite) => ({
      name: site.name,
      zone: site.time_zone,
      notes: site.notes ?? "",
      units: settings.units ?? "metric",
      network: settings.network ?? "",
      mastName: settings.known_mast?.name ?? "",
      mastBearing: entryOf(settings.known_mast?.bearing_deg),
      mastDistance: entryOf(settings.known_mast?.distance_m).text,
      ...placeText(site.place),
    }),
    [],
  );
  const initial = useMemo(() => draftOf(stored), [draftOf, stored]);
  const notice = useNotice();
  const save = async (draft: typeof initial, seen: SeenSite = stored) => {
    const { value: bearing } = draft.mastBearing;
    const known_mast =
      bearing === null
        ? null
        : {
            name: draft.mastName,
            bearing_deg: bearing === 360 ? 0 : bearing,
            distance_m: metres(draft.mastDistance),
          };
    const path = { params: { path: { id: site.id } } };
    const body = { name: draft.name, time_zone: draft.zone, notes: draft.notes, place: placeOf(draft) };
    const saved = await answered(
      api.PUT("/api/sites/{id}", { ...path, body: { ...body, seen: seen.site } }),
    ).catch((error) => {
      if (!(error instanceof ApiError) || !error.problem.newer) throw error;
      throw new ApiError({ ...error.problem, newer: { ...seen, site: error.problem.newer } as never });
    });
    const now = await saveSettings(
      { ...seen, site: saved },
      { units: draft.units, network: draft.network.trim(), known_mast },
    );
    refresh(site.id);
    notice("The site is saved.");
    return now;
  };
  // Without a direction nothing of the mast can be stored: it is told, not dropped.
  const needsDirection = (text: string) =>
    text.trim() !== "" && form.form.getValues("mastBearing").text.trim() === ""
      ? "Its direction from the house is needed too."
      : undefined;
  const form = useDraftForm({ draft: `site:${site.id}`, initial, save, stored, draftOf });

  return (
    <form onSubmit={form.submit} noValidate>
      <Section title="The site">
        <div className="grid gap-4 sm:grid-cols-2">
          <TextInput of={form} name="name" at="/name" label="Name" />
          <TextInput of={form} name="zone" at="/time_zone" label="Time zone" />
          <PlaceInputs of={form} />
          <ChoiceInput of={form} name="units" at="/units" label="Lengths in" choices={UNITS} />
          <TextInput of={form} name="network" at="/network" label="Operator in use" hint="As you call it" />
        </div>
        <fieldset className="mt-4 grid items-start gap-4 sm:grid-cols-3">
          <legend className="mb-1 font-semibold">The mast, if its direction is known</legend>
          <TextInput of={form} name="mastName" at="/known_mast/name" label="Name" check={needsDirection} />
          <EntryInput
            of={form}
            name="mastBearing"
            at="/known_mast/bearing_deg"
            label="Direction from the house"
            quantity="bearing"
            hint="From true north"
          />
          <TextInput
            of={form}
            name="mastDistance"
            at="/known_mast/distance_m"
            label="Distance, m"
            inputMode="decimal"
            check={(text: string) => badDistance(text) ?? needsDirection(text)}
          />
        </fieldset>
        <div className="mt-4">
          <AreaInput of={form} name="notes" at="/notes" label="Notes" />
        </div>
        <FormProblem of={form} />
        <Button
          type="submit"
          look={form.dirty ? "filled" : "outlined"}
          disabled={!form.dirty}
          className="mt-4"
        >
          Save the site
        </Button>
      </Section>
    </form>
  );
}
