import { Link } from "@tanstack/react-router";
import { useMemo } from "react";
import { refresh } from "../../api/queries";
import type { SiteView } from "../../api/schema";
import { type SeenSite, saveSettings, useSaveSettings, useStoredSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { FormProblem, TextInput, useDraftForm } from "../../ui/form";
import { useNotice } from "../../ui/notices";
import { readNumber } from "../../ui/number";
import { Section } from "../StageHeader";
import { AddressCheck } from "./AddressCheck";
import { GatewayTest } from "./gateway/GatewayTest";

type DeviceDraft = {
  statusUrl: string;
  interval: string;
  downloadUrl: string;
  uploadUrl: string;
  latencyUrl: string;
  secondUrl: string;
  connections: string;
  warmUp: string;
  phase: string;
  mostMb: string;
  preciseTo: string;
  pagePartUrl: string;
  standInUrl: string;
};

/** Nothing, or no number, becomes a value below every range: the server names the range beside the field. */
const number = (text: string) => readNumber(text) ?? -1;
/** As a small count: what lies outside is told by the server, too. */
const count = (text: string) => Math.min(255, Math.max(0, Math.round(number(text))));

const draftOf = ({ settings }: SeenSite): DeviceDraft => {
  const { gateway, speed_test: test, stand_in_url, second_test_url } = settings;
  return {
    statusUrl: gateway?.status_url ?? "",
    interval: String(gateway?.poll_interval_ms ?? 1000),
    downloadUrl: test?.download_url ?? "",
    uploadUrl: test?.upload_url ?? "",
    latencyUrl: test?.latency_url ?? "",
    secondUrl: second_test_url ?? "",
    connections: String(test?.connections ?? 4),
    warmUp: String(test?.warm_up_s ?? 2),
    phase: String(test?.phase_s ?? 8),
    mostMb: test?.most_mb == null ? "" : String(test.most_mb),
    preciseTo: test?.precise_to == null ? "" : String(Math.round(test.precise_to * 1000) / 10),
    pagePartUrl: test?.page_part_url ?? "",
    standInUrl: stand_in_url ?? "",
  };
};

/** Addresses of gateway, speed test and stand-in. */
export function Devices({ view }: { view: SiteView }) {
  const { gateway } = view.settings;
  const stored = useStoredSettings(view);
  const initial = useMemo(() => draftOf(stored), [stored]);
  const notice = useNotice();
  const store = useSaveSettings(view);
  const gatewayOf = (draft: DeviceDraft) => ({
    ...gateway,
    status_url: draft.statusUrl.trim(),
    poll_interval_ms: Math.max(0, Math.round(number(draft.interval))),
  });
  const save = async (draft: DeviceDraft, seen: SeenSite = stored) => {
    const change = {
      gateway: draft.statusUrl.trim() ? gatewayOf(draft) : null,
      speed_test: draft.downloadUrl.trim()
        ? {
            download_url: draft.downloadUrl.trim(),
            upload_url: draft.uploadUrl.trim() || null,
            latency_url: draft.latencyUrl.trim() || null,
            connections: count(draft.connections),
            warm_up_s: number(draft.warmUp),
            phase_s: number(draft.phase),
            most_mb: draft.mostMb.trim() ? number(draft.mostMb) : null,
            precise_to: draft.preciseTo.trim() ? number(draft.preciseTo) / 100 : null,
            page_part_url: draft.pagePartUrl.trim() || null,
          }
        : null,
      stand_in_url: draft.standInUrl.trim() || null,
      second_test_url: draft.secondUrl.trim() || null,
    };
    const now = await saveSettings(seen, change);
    refresh(view.site.id);
    notice("The settings are saved.");
    return now;
  };
  const form = useDraftForm({ draft: `devices:${view.site.id}`, initial, save, stored, draftOf });
  const { values: draft, dirty } = form;
  const typedGateway = gatewayOf(draft);

  return (
    <form onSubmit={form.submit} noValidate>
      <Section title="Gateway">
        <div className="grid gap-4 sm:grid-cols-[1fr_12rem]">
          <TextInput
            label="Address of its status page or modem"
            hint="A page that answers JSON as described in the guide, http://192.168.1.1/status.json for instance; or a modem that speaks the standard's commands, tcp://192.168.1.1:5000 or serial:/dev/ttyUSB2"
            inputMode="url"
            of={form}
            name="statusUrl"
            at="/gateway/status_url"
          />
          <TextInput
            label="Read interval (ms)"
            hint="Shorter than its refresh period"
            inputMode="numeric"
            of={form}
            name="interval"
            at="/gateway/poll_interval_ms"
          />
        </div>
        <div className="mt-3 flex flex-col gap-2">
          <GatewayTest
            siteId={view.site.id}
            gateway={typedGateway}
            onTrust={(certificate_sha256) => store({ gateway: { ...typedGateway, certificate_sha256 } })}
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
          <TextInput
            label="Download address"
            hint="A long file on a fast server outside the house"
            inputMode="url"
            of={form}
            name="downloadUrl"
            at="/speed_test/download_url"
          />
          <div className="grid gap-4 sm:grid-cols-2">
            <TextInput
              label="Upload address (optional)"
              hint="Takes a POST; without it upload is not measured"
              inputMode="url"
              of={form}
              name="uploadUrl"
              at="/speed_test/upload_url"
            />
            <TextInput
              label="Latency address (optional)"
              hint="Blank: use the download address"
              inputMode="url"
              of={form}
              name="latencyUrl"
              at="/speed_test/latency_url"
            />
          </div>
          <div className="grid gap-4 sm:grid-cols-3">
            <TextInput
              label="Connections"
              inputMode="numeric"
              of={form}
              name="connections"
              at="/speed_test/connections"
            />
            <TextInput
              label="Warm-up discarded, s"
              inputMode="decimal"
              of={form}
              name="warmUp"
              at="/speed_test/warm_up_s"
            />
            <TextInput
              label="Measured each way, s"
              inputMode="decimal"
              of={form}
              name="phase"
              at="/speed_test/phase_s"
            />
          </div>
          <div className="grid gap-4 sm:grid-cols-2">
            <TextInput
              label="Data each way, at most, MB (optional)"
              hint="For a plan with a cap: a direction ends once it has moved so much"
              inputMode="decimal"
              of={form}
              name="mostMb"
              at="/speed_test/most_mb"
            />
            <TextInput
              label="Precise enough, ± % (optional)"
              hint="A direction ends once its rate is known so well, after four seconds at the earliest; a later slowdown is then not seen"
              inputMode="decimal"
              of={form}
              name="preciseTo"
              at="/speed_test/precise_to"
            />
          </div>
          <TextInput
            label="Small file for page loading (optional)"
            hint="Some kilobytes, fetched 21 times as a page with twenty parts would be: tells whether pages open quickly. Of this program's own test server: http://…/down?bytes=20000"
            inputMode="url"
            of={form}
            name="pagePartUrl"
            at="/speed_test/page_part_url"
          />
          <AddressCheck
            siteId={view.site.id}
            download={draft.downloadUrl}
            upload={draft.uploadUrl}
            second={draft.secondUrl}
            onSecond={(secondUrl) => form.set({ secondUrl })}
          />
          {view.test_data && <p className="text-sm text-muted">{view.test_data}</p>}
        </div>
      </Section>
      {(view.settings.stand_in_url || draft.standInUrl) && (
        <Section title="Simulated antenna">
          <TextInput label="Control address" of={form} name="standInUrl" at="/stand_in_url" />
        </Section>
      )}
      <FormProblem of={form} />
      <div className="mt-5 flex items-center gap-4">
        <Button type="submit" look={dirty ? "filled" : "outlined"} disabled={!dirty}>
          Save the addresses
        </Button>
        {dirty && (
          <Button look="plain" onClick={form.discard}>
            Discard changes
          </Button>
        )}
      </div>
    </form>
  );
}
