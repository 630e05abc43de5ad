import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { keys } from "../../api/queries";
import { Section } from "../StageHeader";

/** How near what stands now is to the best that is foretold for the house, and what the step there costs. */
export function NearBest({ siteId }: { siteId: string }) {
  const found = useQuery({
    queryKey: keys.nearBest(siteId),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/sites/{id}/near-best", { params: { path: { id: siteId } } })),
  });
  const view = found.data;
  if (!view) return null;
  return (
    <Section title="How near the best">
      <p className="max-w-3xl text-lg font-bold">{view.title}</p>
      {view.found.best && <Share of={view.found.share} />}
      <p className="mt-1 max-w-3xl">{view.detail}</p>
    </Section>
  );
}

/** A bar of the best's download: what stands now, with its range. */
function Share({ of }: { of: { low: number; likely: number; high: number } }) {
  const percent = (share: number) => `${Math.min(share, 1) * 100}%`;
  return (
    <div
      aria-hidden="true"
      className="relative my-2 h-4 max-w-3xl rounded-full border border-rule bg-surface"
    >
      <div className="h-full rounded-full bg-action" style={{ width: percent(of.likely) }} />
      <div
        className="absolute top-1/2 h-0.5 -translate-y-1/2 bg-ink"
        style={{ left: percent(of.low), width: percent(of.high - of.low) }}
      />
    </div>
  );
}
