import { Link } from "@tanstack/react-router";
import type { SiteView } from "../api/schema";

/** A bought kit's last day to be given back, where tests are planned. */
export function ReturnNotice({ site }: { site: SiteView }) {
  const deadline = site.return_deadline;
  if (!deadline) return null;
  const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", timeZone: "UTC" }).format(
    new Date(`${deadline.return_by}T12:00:00Z`),
  );
  const left =
    deadline.in_days === 0
      ? "today"
      : deadline.in_days === 1
        ? "tomorrow"
        : `${deadline.in_days} days from now`;
  return (
    <p className="mt-3 max-w-3xl text-muted">
      <Link
        to="/sites/$siteId/kit"
        params={{ siteId: site.site.id }}
        search={{ kit: deadline.kit_id }}
        className="font-semibold text-action underline underline-offset-4"
      >
        {deadline.kit_name}
      </Link>{" "}
      can be given back until {day}, {left}: end its tests before.
    </p>
  );
}
