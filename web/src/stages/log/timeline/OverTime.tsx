import { type ComponentProps, useState } from "react";
import { useOverTime, useWorklist } from "../../../api/queries";
import type { OverTimeQuantity } from "../../../api/schema";
import { TimeCourse } from "../../../drawings/TimeCourse";
import { ChoiceField } from "../../../ui/Field";
import { moment } from "../../../ui/format";
import { useSize } from "../../../ui/useSize";
import { Section } from "../../StageHeader";

const QUANTITIES: readonly (readonly [OverTimeQuantity, string])[] = [
  ["download", "Download"],
  ["upload", "Upload"],
  ["idle_latency", "Latency, idle"],
  ["download_latency", "Latency while downloading"],
  ["upload_latency", "Latency while uploading"],
  ["rsrp", "Signal strength, RSRP"],
  ["sinr", "Signal-to-noise, SINR"],
];
const UNITS: Record<OverTimeQuantity, string> = {
  download: "Mbit/s",
  upload: "Mbit/s",
  idle_latency: "ms",
  download_latency: "ms",
  upload_latency: "ms",
  rsrp: "dBm",
  sinr: "dB",
};

/** One figure or signal over time, with what happened meanwhile. */
export function OverTime({ siteId, setupId, zone }: { siteId: string; setupId: string; zone: string }) {
  const [quantity, setQuantity] = useState<OverTimeQuantity>("download");
  const [band, setBand] = useState("");
  const [alone, setAlone] = useState<"all" | "this">("all");
  const signal = quantity === "rsrp" || quantity === "sinr";
  const view = useOverTime(siteId, {
    quantity,
    ...(signal && band !== "" ? { band } : {}),
    ...(alone === "this" ? { setup: setupId } : {}),
  }).data;
  const list = useWorklist(siteId).data;
  const name = QUANTITIES.find(([key]) => key === quantity)?.[1] ?? "";
  if (!view) return null;
  const last = view.points.at(-1);
  const first = view.points[0];
  return (
    <Section title="Over time">
      <div className="grid max-w-3xl gap-3 sm:grid-cols-3">
        <ChoiceField label="Figure or signal" value={quantity} choices={QUANTITIES} onChange={setQuantity} />
        <ChoiceField
          label="Of"
          value={alone}
          choices={[
            ["all", "All setups"],
            ["this", "This setup"],
          ]}
          onChange={setAlone}
        />
        {signal && (
          <ChoiceField
            label="Carrier"
            value={band}
            choices={[["", "The strongest"], ...view.bands.map((one) => [one, one] as const)]}
            onChange={setBand}
          />
        )}
      </div>
      <div className="mt-3">
        {first && last ? (
          <Sized
            points={view.points}
            events={view.events}
            setupId={setupId}
            zone={zone}
            evening={[list?.evening_from ?? 18, list?.evening_to ?? 22]}
            label={`${name} from ${moment(first.at, zone)} to ${moment(last.at, zone)}, ${view.of} values`}
            unit={UNITS[quantity]}
            fromZero={!signal}
          />
        ) : (
          <p className="text-muted">Nothing of this was measured yet.</p>
        )}
      </div>
      {first && (
        <p className="mt-1 text-sm text-muted">
          Filled: this setup. Rings: others. Lines: events. Shaded: the evening.
        </p>
      )}
    </Section>
  );
}

/** The drawing as wide as its place. */
function Sized(course: Omit<ComponentProps<typeof TimeCourse>, "width">) {
  const [box, width] = useSize();
  return (
    <div ref={box}>
      <TimeCourse {...course} width={Math.floor(width)} />
    </div>
  );
}
