import { Link } from "@tanstack/react-router";
import { useEffect, useId, useState } from "react";
import type { Choice, Units } from "../../api/schema";
import { HeightCurve } from "../../drawings/HeightCurve";
import { PathSlice } from "../../drawings/PathSlice";
import { Button, buttonClass } from "../../ui/Button";
import { difference, halves, length, range, rough, whole } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { WhyTable } from "../../ui/WhyTable";
import { bandName } from "../../ui/words";
import { Narrowing, PASSED_OVER } from "../SetupOutlook";
import { Section } from "../StageHeader";
import { usePath } from "./queries";
import { distance } from "./words";

/** One path: its slice, what height brings, and where its loss comes from. */
export function PathPanel({
  siteId,
  choice,
  height,
  units,
  onHeight,
}: {
  siteId: string;
  choice: Choice;
  height: number | undefined;
  units: Units;
  onHeight: (metres: number | undefined) => void;
}) {
  const id = useId();
  const [near, setNear] = useState(false);
  const own = choice.height_m - choice.raised_m;
  const given = height ?? choice.height_m;
  // The address follows a moment later; until then the hand's own value holds.
  const [moved, setMoved] = useState<number>();
  useEffect(() => {
    if (moved === given) setMoved(undefined);
  }, [moved, given]);
  const tried = moved ?? given;
  const asked = { position: choice.position_id, mast: choice.mast_id, height_m: tried };
  const { data: view, isError, error } = usePath(siteId, asked);
  if (isError)
    return (
      <p role="alert" className="mt-4 font-semibold text-starved">
        {error.message}
      </p>
    );
  if (!view) return null;
  const now = view.choice;
  const nearby = Math.max(
    300,
    ...view.obstacles.filter((one) => one.from_m < 2000).map((one) => one.to_m * 1.5),
  );
  const top = Math.max(12, Math.ceil(own + 8));
  const raise = (metres: number) => {
    setMoved(metres);
    onHeight(metres);
  };
  const short = (metres: number) =>
    units === "imperial" ? `${Math.round(metres / 0.3048)} ft` : `${Math.round(metres)} m`;
  return (
    <Section
      title={`Path: ${now.position} to ${now.mast}`}
      aside={
        <Link
          to="/sites/$siteId/aim/$positionId/$mastId"
          params={{ siteId, positionId: now.position_id, mastId: now.mast_id }}
          search={{ height: String(tried) }}
          className={buttonClass("filled")}
        >
          Aiming card
        </Link>
      }
    >
      {view.said.clearance && <p className="text-lg">{view.said.clearance}</p>}
      <p className="mt-1 text-muted">{view.said.source}</p>
      {view.said.doubts && <p className="mt-1 max-w-3xl">{view.said.doubts}</p>}
      {view.said.margin && <p className="mt-1 max-w-3xl">{view.said.margin}</p>}
      {view.said.day && <p className="mt-1 max-w-3xl">{view.said.day}</p>}
      {view.said.leaves && <p className="mt-1 max-w-3xl">{view.said.leaves}</p>}
      <Narrowing lines={view.narrowing} />
      <WhyTable rows={view.said.why} />
      {nearby < now.distance_m * 0.6 && view.points.length > 0 && (
        <Button className="mt-3" aria-pressed={near} onClick={() => setNear(!near)}>
          {near ? "Draw the whole path" : `Draw the first ${distance(nearby, units)}`}
        </Button>
      )}
      {view.points.length > 0 && (
        <TableBox label="Slice of the ground" className="mt-3">
          <PathSlice
            points={view.points}
            until={near ? nearby : undefined}
            obstacles={view.obstacles}
            clearance={now.clearance}
            heightText={short}
            distanceText={(metres) => (metres === 0 ? "house" : distance(metres, units))}
            onRaise={(metres) => raise(Math.min(top, Math.max(1, metres)))}
            label={`Slice of the ground from ${now.position} to ${now.mast}. ${view.said.clearance ?? ""}`}
          />
        </TableBox>
      )}
      <div className="mt-4 grid items-start gap-6 md:grid-cols-2">
        <div>
          <label htmlFor={id} className="font-semibold">
            Antenna height above ground: {length(tried, units)}
          </label>
          <input
            id={id}
            type="range"
            min={1}
            max={top}
            step={0.1}
            value={tried}
            onChange={(event) => raise(Number(event.target.value))}
            className="mt-2 h-11 w-full accent-[var(--lamp)]"
          />
          {height !== undefined && Math.abs(height - own) > 0.01 && (
            <Button
              look="plain"
              onClick={() => {
                setMoved(undefined);
                onHeight(undefined);
              }}
            >
              Back to {length(own, units)}
            </Button>
          )}
        </div>
        {view.curve.length > 1 && <HeightCurve points={view.curve} height={tried} heightText={short} />}
      </div>
      <div className="mt-4">
        <TableBox label="Bands on this path">
          <table className="w-full border-collapse text-left">
            <thead className="text-sm text-muted">
              <tr>
                <th className="py-1 pr-4 font-semibold">Band</th>
                <th className="pr-4 font-semibold">Signal (RSRP), dBm</th>
                <th className="pr-4 font-semibold">SINR, dB</th>
                <th className="pr-4 font-semibold">Down, Mbit/s</th>
                <th className="pr-4 font-semibold">Loss: free space + ground + obstacles, dB</th>
                <th className="pr-4 font-semibold">Readings add, dB</th>
                <th className="font-semibold">Antenna: gain − off its beam − polarisation, dB</th>
              </tr>
            </thead>
            <tbody>
              {now.bands.map((band) => (
                <tr key={`${band.band.technology}${band.band.band}`} className="border-t border-rule">
                  <td className="py-2 pr-4 font-semibold">
                    {bandName(band.band.technology, band.band.band)}
                    {!band.counts && (
                      <span className="block max-w-40 text-sm font-normal text-muted">{PASSED_OVER}</span>
                    )}
                  </td>
                  <td className="pr-4 whitespace-nowrap">{range(band.rsrp_dbm, whole)}</td>
                  <td className="pr-4 whitespace-nowrap">{range(band.sinr_db, halves)}</td>
                  <td className="pr-4 whitespace-nowrap">
                    {band.down_mbps ? range(band.down_mbps, rough) : "not known"}
                  </td>
                  <td className="pr-4 whitespace-nowrap">
                    {whole(band.free_space_db)} + {whole(band.ground_db)} + {whole(band.obstacles_db)}
                    {band.near_ground_db > 0.5 && ` + near the ground ${whole(band.near_ground_db)}`}
                    {band.wall_db > 0 && ` + walls ${whole(band.wall_db)}`}
                  </td>
                  <td className="pr-4 whitespace-nowrap">{difference(band.measured_db, 0)}</td>
                  <td className="whitespace-nowrap">
                    {halves(band.net_gain_dbi)} − {halves(band.pattern_db)} − {halves(band.polarisation_db)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </TableBox>
      </div>
    </Section>
  );
}
