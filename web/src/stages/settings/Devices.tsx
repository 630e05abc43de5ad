import { Link } from "@tanstack/react-router";
import { type FormEvent, useMemo, useState } from "react";
import type { ApiError } from "../../api/client";
import { refresh } from "../../api/queries";
import type { SiteView } from "../../api/schema";
import { saveSettings, useSeenSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useNotice } from "../../ui/notices";
import { useDraft } from "../../ui/useDraft";
import { Section } from "../StageHeader";
import { AddressCheck } from "./AddressCheck";
import { GatewayTest } from "./gateway/GatewayTest";

interface DeviceDraft {
  statusUrl: string;
  interval: string;
  downloadUrl: string;
  uploadUrl: string;
  latencyUrl: string;
  secondUrl: string;
  connections: string;
  warmUp: string;
  phase: string;
  standInUrl: string;
}

const number = (text: string) => Number(text.trim().replace(",", "."));

/** Addresses of gateway, speed test and stand-in. */
export function Devices({ view }: { view: SiteView }) {
  const { gateway, speed_test: test, stand_in_url, second_test_url } = view.settings;
  const initial = useMemo<DeviceDraft>(
    () => ({
      statusUrl: gateway?.status_url ?? "",
      interval: String(gateway?.poll_interval_ms ?? 1000),
      downloadUrl: test?.download_url ?? "",
      uploadUrl: test?.upload_url ?? "",
      latencyUrl: test?.latency_url ?? "",
      secondUrl: second_test_url ?? "",
      connections: String(test?.connections ?? 4),
      warmUp: String(test?.warm_up_s ?? 2),
      phase: String(test?.phase_s ?? 8),
      standInUrl: stand_in_url ?? "",
    }),
    [gateway, test, stand_in_url, second_test_url],
  );
  const [draft, change, clear, dirty] = useDraft(`devices:${view.site.id}`, initial);
  const seen = useSeenSettings(view, "devices", dirty);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const notice = useNotice();
  const set = (part: Partial<DeviceDraft>) => change({ ...draft, ...part });
  const megabytes = Math.round(((number(draft.warmUp) + number(draft.phase)) * 100) / 8);

  const typedGateway = {
    ...gateway,
    status_url: draft.statusUrl.trim(),
    poll_interval_ms: Math.round(number(draft.interval)) || 0,
  };

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const change = {
      gateway: draft.statusUrl.trim() ? typedGateway : null,
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
      second_test_url: draft.secondUrl.trim() || null,
    };
    try {
      await saveSettings(seen, change);
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
            label="Address of its status page or modem"
            hint="A page that answers JSON as described in the guide, http://192.168.1.1/status.json for instance; or a modem that speaks the standard's commands, tcp://192.168.1.1:5000 or serial:/dev/ttyUSB2"
            inputMode="url"
            value={draft.statusUrl}
            onChange={(statusUrl) => set({ statusUrl })}
            error={problem?.field("/gateway/status_url")}
          />
          <TextField
            label="Read interval (ms)"
            hint="Shorter than its refresh period"
            inputMode="numeric"
            value={draft.interval}
            onChange={(interval) => set({ interval })}
            error={problem?.field("/gateway/poll_interval_ms")}
          />
        </div>
        <div className="mt-3 flex flex-col gap-2">
          <GatewayTest
            siteId={view.site.id}
            gateway={typedGateway}
            onTrust={(certificate_sha256) =>
              void saveSettings(view, { gateway: { ...typedGateway, certificate_sha256 } })
            }
          />
          {gateway && (
            <p>
              <Link
                to="/sites/$siteId/gateway"
                params={{ siteId: view.site.id }}
                className="font-semibold text-action underline"
              >
                Sign-in and fields
              </Link>
              {gateway.recipe?.name ? `: ${gateway.recipe.name}` : ""}
            </p>
          )}
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
              hint="Blank: use the download address"
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
          <AddressCheck
            siteId={view.site.id}
            download={draft.downloadUrl}
            upload={draft.uploadUrl}
            second={draft.secondUrl}
            onSecond={(secondUrl) => set({ secondUrl })}
          />
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
