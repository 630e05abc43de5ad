import { type FormEvent, useMemo, useState } from "react";
import { type ApiError, answered, api } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { SiteView, Units } from "../../api/schema";
import { Button, buttonClass } from "../../kit/Button";
import { ChoiceField, TextArea, TextField } from "../../kit/Field";
import { useNotice } from "../../kit/notices";
import { useDraft } from "../../kit/useDraft";
import { useSiteId } from "../../shell/useSiteContext";
import { Section, StageHeader } from "../StageHeader";
import { placeText, readPlace } from "../sites/coordinates";

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

interface DeviceDraft {
  statusUrl: string;
  interval: string;
  downloadUrl: string;
  uploadUrl: string;
  latencyUrl: string;
  connections: string;
  warmUp: string;
  phase: string;
  standInUrl: string;
}

const number = (text: string) => Number(text.trim().replace(",", "."));

function Devices({ view }: { view: SiteView }) {
  const { gateway, speed_test: test, stand_in_url } = view.settings;
  const initial = useMemo<DeviceDraft>(
    () => ({
      statusUrl: gateway?.status_url ?? "",
      interval: String(gateway?.poll_interval_ms ?? 1000),
      downloadUrl: test?.download_url ?? "",
      uploadUrl: test?.upload_url ?? "",
      latencyUrl: test?.latency_url ?? "",
      connections: String(test?.connections ?? 4),
      warmUp: String(test?.warm_up_s ?? 2),
      phase: String(test?.phase_s ?? 8),
      standInUrl: stand_in_url ?? "",
    }),
    [gateway, test, stand_in_url],
  );
  const [draft, change, clear, dirty] = useDraft(`devices:${view.site.id}`, initial);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const notice = useNotice();
  const set = (part: Partial<DeviceDraft>) => change({ ...draft, ...part });
  const megabytes = Math.round(((number(draft.warmUp) + number(draft.phase)) * 100) / 8);

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const body = {
      ...view.settings,
      gateway: draft.statusUrl.trim()
        ? { status_url: draft.statusUrl.trim(), poll_interval_ms: Math.round(number(draft.interval)) || 0 }
        : null,
      speed_test: draft.downloadUrl.trim()
        ? {
            download_url: draft.downloadUrl.trim(),
            upload_url: draft.uploadUrl.trim() || null,
            latency_url: draft.latencyUrl.trim() || null,
            connections: Math.min(255, Math.max(0, Math.round(number(draft.connections)) || 0)),
            warm_up_s: Number.isFinite(number(draft.warmUp)) ? number(draft.warmUp) : -1,
            phase_s: Number.isFinite(number(draft.phase)) ? number(draft.phase) : -1,
          }
        : null,
      stand_in_url: draft.standInUrl.trim() || null,
    };
    try {
      await answered(api.PUT("/api/sites/{id}/settings", { params: { path: { id: view.site.id } }, body }));
      setProblem(null);
      clear();
      refresh(view.site.id);
      notice("The settings are saved.");
    } catch (failed) {
      setProblem(failed as ApiError);
    }
  };

  return (
    <form onSubmit={(event) => void save(event)} noValidate>
      <Section title="Gateway">
        <div className="grid gap-4 sm:grid-cols-[1fr_12rem]">
          <TextField
            label="Address of its status page"
            hint="Answers JSON as described in the guide, for instance http://192.168.1.1/status.json"
            inputMode="url"
            value={draft.statusUrl}
            onChange={(statusUrl) => set({ statusUrl })}
            error={problem?.field("/gateway/status_url")}
          />
          <TextField
            label="Look every, ms"
            hint="Oftener than it refreshes"
            inputMode="numeric"
            value={draft.interval}
            onChange={(interval) => set({ interval })}
            error={problem?.field("/gateway/poll_interval_ms")}
          />
        </div>
      </Section>
      <Section title="Speed test">
        <div className="grid gap-4">
          <TextField
            label="Download address"
            hint="A long file on a fast server outside the house"
            inputMode="url"
            value={draft.downloadUrl}
            onChange={(downloadUrl) => set({ downloadUrl })}
            error={problem?.field("/speed_test/download_url")}
          />
          <div className="grid gap-4 sm:grid-cols-2">
            <TextField
              label="Upload address (optional)"
              hint="Takes a POST; without it upload is not measured"
              inputMode="url"
              value={draft.uploadUrl}
              onChange={(uploadUrl) => set({ uploadUrl })}
              error={problem?.field("/speed_test/upload_url")}
            />
            <TextField
              label="Latency address (optional)"
              hint="A short answer; else the download address is asked"
              inputMode="url"
              value={draft.latencyUrl}
              onChange={(latencyUrl) => set({ latencyUrl })}
              error={problem?.field("/speed_test/latency_url")}
            />
          </div>
          <div className="grid gap-4 sm:grid-cols-3">
            <TextField
              label="Connections"
              inputMode="numeric"
              value={draft.connections}
              onChange={(connections) => set({ connections })}
              error={problem?.field("/speed_test/connections")}
            />
            <TextField
              label="Warm-up discarded, s"
              inputMode="decimal"
              value={draft.warmUp}
              onChange={(warmUp) => set({ warmUp })}
              error={problem?.field("/speed_test/warm_up_s")}
            />
            <TextField
              label="Measured each way, s"
              inputMode="decimal"
              value={draft.phase}
              onChange={(phase) => set({ phase })}
              error={problem?.field("/speed_test/phase_s")}
            />
          </div>
          {Number.isFinite(megabytes) && (
            <p className="text-sm text-muted">
              Mind the plan's cap: at 100 Mbit/s one direction of one test moves about {megabytes} MB.
            </p>
          )}
        </div>
      </Section>
      {(view.settings.stand_in_url || draft.standInUrl) && (
        <Section title="Simulated antenna">
          <TextField
            label="Control address"
            value={draft.standInUrl}
            onChange={(standInUrl) => set({ standInUrl })}
            error={problem?.field("/stand_in_url")}
          />
        </Section>
      )}
      {problem && problem.problem.errors.length === 0 && (
        <p role="alert" className="mt-3 font-semibold text-starved">
          {problem.message}
        </p>
      )}
      <div className="mt-5 flex items-center gap-4">
        <Button type="submit" look={dirty ? "filled" : "outlined"} disabled={!dirty}>
          Save the addresses
        </Button>
        {dirty && (
          <Button look="plain" onClick={clear}>
            Discard changes
          </Button>
        )}
      </div>
    </form>
  );
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
      ...placeText(site.place),
    }),
    [site, settings.units],
  );
  const [draft, change, clear, dirty] = useDraft(`site:${site.id}`, initial);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const [placeError, setPlaceError] = useState<string>();
  const notice = useNotice();
  const set = (part: Partial<typeof draft>) => change({ ...draft, ...part });

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const { place, error } = readPlace(draft);
    setPlaceError(error);
    if (error) return;
    const path = { params: { path: { id: site.id } } };
    try {
      const body = { name: draft.name, time_zone: draft.zone, notes: draft.notes, place };
      await answered(api.PUT("/api/sites/{id}", { ...path, body }));
      if (draft.units !== settings.units) {
        await answered(
          api.PUT("/api/sites/{id}/settings", { ...path, body: { ...settings, units: draft.units } }),
        );
      }
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
        </div>
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
