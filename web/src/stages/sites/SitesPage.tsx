import { Link, Navigate } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { useSites } from "../../api/queries";
import type { Site } from "../../api/schema";
import { Button, buttonClass } from "../../ui/Button";
import { moment } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { Page } from "./Page";
import { Rehearse } from "./Rehearse";

/** The list of sites, for those who do several houses. Without any, the first-run screen. */
export function SitesPage() {
  const sites = useSites();
  const [showArchived, setShowArchived] = useState(false);
  if (sites.data?.length === 0) return <Navigate to="/new" />;
  const used = (sites.data ?? []).filter((site) => !site.archived_at);
  const archived = (sites.data ?? []).filter((site) => site.archived_at);
  return (
    <Page title={used.length === 0 ? "All sites are archived." : "Which house?"}>
      {sites.isError && <p role="alert">{sites.error.message}</p>}
      <ul className="mt-6 flex flex-col divide-y divide-rule border-y border-rule">
        {used.map((site) => (
          <SiteEntry key={site.id} site={site} />
        ))}
      </ul>
      <div className="mt-6 flex flex-wrap gap-3">
        <Link to="/new" className={buttonClass("filled")}>
          Add a site
        </Link>
        <Link to="/import" className={buttonClass("outlined")}>
          Import a site
        </Link>
      </div>
      <Rehearse />
      {archived.length > 0 && (
        <div className="mt-8">
          <Button look="plain" aria-expanded={showArchived} onClick={() => setShowArchived(!showArchived)}>
            {showArchived ? "Hide" : "Show"} archived ({archived.length})
          </Button>
          {showArchived && (
            <ul className="mt-2 flex flex-col divide-y divide-rule border-y border-rule">
              {archived.map((site) => (
                <SiteEntry key={site.id} site={site} />
              ))}
            </ul>
          )}
        </div>
      )}
    </Page>
  );
}

function SiteEntry({ site }: { site: Site }) {
  const notice = useNotice();
  const path = { params: { path: { id: site.id } } };
  const restore = useAction(site.id, () => answered(api.POST("/api/sites/{id}/restore", path)));
  const archive = useAction(site.id, async () => {
    await answered(api.POST("/api/sites/{id}/archive", path));
    notice(`${site.name} is archived. Nothing is lost.`, restore.run);
  });
  const duplicate = useAction(site.id, async () => {
    const body = { id: newId(), name: `${site.name}, copy` };
    await answered(api.POST("/api/sites/{id}/duplicate", { ...path, body }));
    notice(`${body.name} has the same settings and no positions yet.`);
  });
  return (
    <li className="flex flex-wrap items-center gap-x-6 gap-y-1 py-3">
      <div className="min-w-0 flex-1">
        {site.archived_at ? (
          <p className="text-xl font-bold">{site.name}</p>
        ) : (
          <Link
            to="/sites/$siteId/log"
            params={{ siteId: site.id }}
            className="text-xl font-bold hover:underline"
          >
            {site.name}
          </Link>
        )}
        <p className="text-muted">{site.notes || `since ${moment(site.created_at, site.time_zone)}`}</p>
      </div>
      {site.archived_at ? (
        <Button onClick={restore.run}>Bring back</Button>
      ) : (
        <div className="flex gap-4">
          <Button look="plain" onClick={duplicate.run} aria-label={`Duplicate ${site.name}`}>
            Duplicate
          </Button>
          <Button look="plain" onClick={archive.run} aria-label={`Archive ${site.name}`}>
            Archive
          </Button>
        </div>
      )}
    </li>
  );
}
