import { answered, api, newId } from "../../../api/client";
import { useTestPlan } from "../../../api/queries";
import type { OpenSitting } from "../../../api/schema";
import { useChooseSetup } from "../../../shell/useSiteContext";
import { Button } from "../../../ui/Button";
import { clock } from "../../../ui/format";
import { useAction } from "../../../ui/useAction";

/** The sitting that is open: what comes next in it, and how it is closed. */
export function SittingBar({
  siteId,
  setupId,
  zone,
  onTest,
}: {
  siteId: string;
  setupId: string;
  zone: string;
  /** Runs so many speed tests on the setup that is shown; none where they cannot be run. */
  onTest: ((tests: number) => void) | undefined;
}) {
  const view = useTestPlan(siteId).data;
  if (!view?.sitting) return null;
  return <Open sitting={view.sitting} siteId={siteId} setupId={setupId} zone={zone} onTest={onTest} />;
}

function Open({
  sitting,
  siteId,
  setupId,
  zone,
  onTest,
}: {
  sitting: OpenSitting;
  siteId: string;
  setupId: string;
  zone: string;
  onTest: ((tests: number) => void) | undefined;
}) {
  const choose = useChooseSetup();
  const close = useAction(siteId, () =>
    answered(api.POST("/api/sittings/{id}/close", { params: { path: { id: sitting.sitting.id } } })),
  );
  const { next_setup_id: next, next_tests: tests } = sitting;
  const here = next === setupId;
  return (
    <section
      aria-label="Open sitting"
      className="mt-4 flex max-w-3xl flex-wrap items-center gap-x-4 gap-y-2 rounded-xl border border-edge bg-surface p-4"
    >
      <div className="min-w-56 flex-1">
        <p className="font-semibold">Sitting open: {sitting.called}</p>
        <p>{sitting.said}</p>
        <p className="text-sm text-muted">
          It closes by itself at {clock(sitting.ends_at, zone).slice(0, 5)}.
        </p>
      </div>
      <div className="flex flex-wrap items-center gap-3">
        {next && !here && (
          <Button look="filled" onClick={() => choose(next)}>
            Go to the next stop
          </Button>
        )}
        {here && tests && onTest && (
          <Button look="filled" onClick={() => onTest(tests)}>
            Run {tests === 1 ? "the test" : `the ${tests} tests`}
          </Button>
        )}
        <Button onClick={() => close.run()} disabled={close.busy}>
          Close sitting
        </Button>
      </div>
    </section>
  );
}

/** Opens a sitting. */
export function OpenSittingButton({ siteId, filled }: { siteId: string; filled: boolean }) {
  const open = useAction(siteId, () =>
    answered(
      api.POST("/api/sites/{id}/sittings", {
        params: { path: { id: siteId } },
        body: { id: newId(), name: "" },
      }),
    ),
  );
  return (
    <Button look={filled ? "filled" : "outlined"} onClick={() => open.run()} disabled={open.busy}>
      Open a sitting
    </Button>
  );
}
