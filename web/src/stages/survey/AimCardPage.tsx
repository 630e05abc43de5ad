import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { answered, api } from "../../api/client";
import { useSite } from "../../api/queries";
import { Button } from "../../ui/Button";
import { length } from "../../ui/format";
import { distance } from "./words";

const degrees = (value: number) => String(Math.round(value) % 360);

function Big({ label, value, unit, note }: { label: string; value: string; unit: string; note?: string }) {
  return (
    <div className="border-t border-rule pt-2">
      <p className="text-base font-semibold text-muted">{label}</p>
      <p className="text-5xl leading-tight font-bold">
        {value}
        <span className="text-3xl">{unit}</span>
      </p>
      {note && <p className="text-base">{note}</p>}
    </div>
  );
}

/** What is taken up the ladder, for a phone in the hand or on paper. */
export function AimCardPage() {
  const { siteId, positionId, mastId } = useParams({ from: "/sites/$siteId/aim/$positionId/$mastId" });
  const { height } = useSearch({ from: "/sites/$siteId/aim/$positionId/$mastId" });
  const units = useSite(siteId).data?.settings.units ?? "metric";
  const height_m = height && Number(height) > 0 ? Number(height) : undefined;
  const asked = { position: positionId, mast: mastId, ...(height_m === undefined ? {} : { height_m }) };
  const found = useQuery({
    queryKey: ["aim-card", siteId, asked],
    queryFn: () =>
      answered(api.GET("/api/sites/{id}/aim-card", { params: { path: { id: siteId }, query: asked } })),
  });
  if (found.isError)
    return (
      <main className="mx-auto max-w-xl p-6">
        <h1 className="text-2xl font-bold">There is no aiming card.</h1>
        <p className="mt-3">{found.error.message}</p>
      </main>
    );
  if (!found.data) return null;
  const { card, landmarks, expect, said, cautions, site_name } = found.data;
  const { choice, magnetic_deg, declination } = card;
  const tilt = choice.elevation_deg;
  return (
    <main className="mx-auto max-w-xl px-5 py-5 print:max-w-none print:p-0">
      <p className="flex flex-wrap items-center gap-4 print:hidden">
        <Link
          to="/sites/$siteId/survey"
          params={{ siteId }}
          search={{ path: `${positionId}~${mastId}`, ...(height ? { height } : {}) }}
          className="font-semibold text-action underline"
        >
          Back to the survey
        </Link>
        <Button look="filled" onClick={() => window.print()}>
          Print
        </Button>
      </p>
      <h1 className="mt-4 text-2xl leading-tight font-bold">
        Aim {choice.position} at {choice.mast}
      </h1>
      <p className="mt-1 text-lg">
        {site_name}, antenna {length(choice.height_m, units)} up, mast {distance(choice.distance_m, units)}{" "}
        away.
      </p>
      <div className="mt-4 grid grid-cols-2 gap-x-5 gap-y-3">
        {magnetic_deg != null ? (
          <Big
            label="On the compass"
            value={degrees(magnetic_deg)}
            unit="° M"
            note={
              declination
                ? `declination ${Math.abs(declination.declination_deg).toFixed(1)}° ${declination.declination_deg < 0 ? "west" : "east"}`
                : ""
            }
          />
        ) : (
          <Big label="On the compass" value="–" unit="" note="No declination here; aim by the landmark." />
        )}
        <Big label="On the map (true)" value={degrees(choice.bearing_deg)} unit="° T" />
        <Big
          label="Tilt, by the level"
          value={tilt == null ? "0" : String(Math.round(Math.abs(tilt)))}
          unit="°"
          note={
            tilt == null
              ? "heights not known: level to begin with"
              : Math.round(tilt) === 0
                ? "level"
                : tilt > 0
                  ? "up"
                  : "down"
          }
        />
        <div className="border-t border-rule pt-2">
          <p className="text-base font-semibold text-muted">By sight</p>
          {landmarks.length > 0 ? (
            landmarks.map((text) => (
              <p key={text} className="text-xl leading-snug font-bold">
                {text}
              </p>
            ))
          ) : (
            <p className="text-base">No landmark entered. Add one that is seen from up there.</p>
          )}
        </div>
      </div>
      <section aria-label="What you should hear" className="mt-5">
        <h2 className="border-b border-rule pb-1 text-lg font-bold">The right mast shows</h2>
        <ul className="mt-2 text-lg">
          {expect.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
        <p className="mt-2">{said.clearance}</p>
        <p className="mt-1 text-muted">{said.source}</p>
      </section>
      <section aria-label="Cautions" className="mt-5">
        <h2 className="border-b border-rule pb-1 text-lg font-bold">Before you go up</h2>
        <ul className="mt-2 flex flex-col gap-1.5">
          {cautions.map((text) => (
            <li key={text} className="border-l-4 border-lamp pl-3">
              {text}
            </li>
          ))}
        </ul>
        <p className="mt-2 text-muted">Local codes and licensed practice go before this list.</p>
      </section>
    </main>
  );
}
