import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { answered, api } from "../../api/client";
import { keys, queryClient, useSite } from "../../api/queries";
import { Button } from "../../ui/Button";
import { useAction } from "../../ui/useAction";
import { useBands } from "./queries";

/** How a lock is undone, on one page, to be read before the first one and printed. */
export function UndoPage() {
  const { siteId } = useParams({ from: "/sites/$siteId/undo" });
  const site = useSite(siteId).data;
  const card = useBands(siteId).data?.undo;
  const navigate = useNavigate();
  const read = useAction(
    siteId,
    async () => {
      await answered(api.POST("/api/sites/{id}/bands/undo-read", { params: { path: { id: siteId } } }));
      // The plan is changed by this: who types there next must have the newer one.
      await queryClient.invalidateQueries({ queryKey: keys.site(siteId) });
      await navigate({ to: "/sites/$siteId/bands", params: { siteId } });
    },
    { beside: true },
  );
  const { problem } = read;
  if (!site || !card) return null;
  return (
    <main className="mx-auto max-w-3xl px-6 py-6 print:max-w-none print:p-0 print:text-[12pt]">
      <p className="flex flex-wrap items-center gap-4 print:hidden">
        <Link to="/sites/$siteId/bands" params={{ siteId }} className="font-semibold text-action underline">
          Back to Bands
        </Link>
        <Button onClick={() => window.print()}>Print</Button>
      </p>
      <h1 className="mt-4 text-2xl leading-tight font-bold">How to undo a band lock, {site.site.name}</h1>
      <p className="mt-2 text-lg">
        The wrong lock takes the whole house offline, this page with it. Print it, or save it on a phone with
        its own SIM.
      </p>
      <ol className="mt-5 flex list-decimal flex-col gap-3 pl-6 text-lg">
        {card.steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </ol>
      <p className="mt-5 text-lg font-semibold">{card.caution}</p>
      <p className="mt-6 print:hidden">
        <Button look="filled" onClick={() => read.run()}>
          {card.read_at ? "Read it again" : "I have read this"}
        </Button>
      </p>
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-starved">
          {problem}
        </p>
      )}
    </main>
  );
}
