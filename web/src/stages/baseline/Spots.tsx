import type { KnownMast, Said, SetupNode, SpotView, Units } from "../../api/schema";
import { Fan } from "../../drawings/Fan";
import { useChooseSetup } from "../../shell/useSiteContext";
import { ClassMark } from "../../ui/ClassMark";
import { halves, range, significant, whole, withUnit } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";

const share = (value: { low: number; high: number; likely: number } | null | undefined) =>
  value ? `${whole(Math.min(value.likely, 1) * 100)}\u202f%` : "–";

/** Every spot a line: what it hears best, what it could carry, what was measured. */
export function Spots({
  spots,
  unread,
  chosen,
  chosenId,
  mast,
  facing,
  units,
}: {
  spots: SpotView[];
  /** Spots without a reading yet: they can be chosen too. */
  unread: SetupNode[];
  chosen: SpotView | undefined;
  /** The setup that the next reading goes to. */
  chosenId: string | undefined;
  mast: KnownMast | undefined;
  /** How each spot faces the mast, in words. */
  facing: Said[];
  units: Units;
}) {
  const choose = useChooseSetup();
  const turned = spots.filter((spot) => spot.facing_deg != null);
  return (
    <Section title="Spots">
      <div>
        <TableBox label="What each spot hears">
          <table className="w-full text-left leading-snug">
            <thead>
              <tr className="border-b border-rule text-sm text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
                <th>Spot</th>
                <th>Widest carrier</th>
                <th className="text-right">Measured, Mbit/s</th>
                <th className="text-right">Possible on an empty cell, Mbit/s</th>
                <th className="text-right">Measured share</th>
              </tr>
            </thead>
            <tbody>
              {spots.map((spot) => (
                <SpotRow
                  key={`${spot.setup_id}-${spot.instrument}`}
                  spot={spot}
                  chosen={spot === chosen}
                  onChoose={() => choose(spot.setup_id)}
                />
              ))}
              {unread.map((node) => (
                <tr
                  key={node.setup.id}
                  className={`border-b border-rule [&>td]:px-2 [&>td]:py-2 ${node.setup.id === chosenId ? "bg-lamp-wash" : ""}`}
                >
                  <td>
                    <button
                      type="button"
                      onClick={() => choose(node.setup.id)}
                      aria-pressed={node.setup.id === chosenId}
                      className="prints text-left font-bold underline-offset-4 hover:underline"
                    >
                      {node.label}
                    </button>
                  </td>
                  <td colSpan={4} className="text-muted">
                    no reading yet
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </TableBox>
        {mast && (
          <div className="mt-4 grid items-center gap-6 sm:grid-cols-[18rem_1fr]">
            <Fan
              masts={[
                {
                  id: "mast",
                  name: mast.name ?? "",
                  bearing: mast.bearing_deg,
                  ...(mast.distance_m != null && { distance: far(mast.distance_m, units) }),
                },
              ]}
              spots={turned.map((spot) => ({
                id: `${spot.setup_id}-${spot.instrument}`,
                name: spot.name,
                facing: spot.facing_deg ?? 0,
                chosen: spot === chosen,
              }))}
            />
            <ul className="flex flex-col gap-2 leading-snug">
              {facing.map((said) => (
                <li key={said.text}>{said.text}</li>
              ))}
            </ul>
          </div>
        )}
      </div>
    </Section>
  );
}

const far = (metres: number, units: Units) =>
  units === "imperial"
    ? withUnit(significant(metres / 1609.344), "mi")
    : withUnit(significant(metres / 1000), "km");

function SpotRow({ spot, chosen, onChoose }: { spot: SpotView; chosen: boolean; onChoose: () => void }) {
  const widest = spot.carriers[0];
  const where = [
    spot.place,
    spot.instrument === "phone" ? "by phone" : spot.instrument === "modem" ? "by modem" : "",
  ];
  const down = spot.download.geometric_mean;
  const up = spot.upload.geometric_mean;
  return (
    <tr className={`border-b border-rule align-top [&>td]:px-2 [&>td]:py-2 ${chosen ? "bg-lamp-wash" : ""}`}>
      <td>
        <button
          type="button"
          onClick={onChoose}
          aria-pressed={chosen}
          className="prints text-left font-bold underline-offset-4 hover:underline"
        >
          {spot.name}
        </button>
        <span className="block text-sm text-muted">{where.filter(Boolean).join(", ")}</span>
      </td>
      <td>
        {widest ? (
          <>
            <span className="flex items-center gap-3">
              <strong>{bandName(widest.cell.technology, widest.cell.band)}</strong>
              {widest.class && <ClassMark of={widest.class.class} />}
            </span>
            <span className="block text-sm text-muted">
              {[
                widest.carrier.rsrp_dbm != null
                  ? `RSRP ${withUnit(whole(widest.carrier.rsrp_dbm), "dBm")}`
                  : "",
                widest.carrier.sinr_db != null
                  ? `SINR ${withUnit(halves(widest.carrier.sinr_db), "dB")}`
                  : "",
              ]
                .filter(Boolean)
                .join(", ")}
            </span>
          </>
        ) : (
          "no reading"
        )}
      </td>
      <td className="text-right whitespace-nowrap">
        <strong>{down != null ? significant(down) : "–"}</strong> down
        <span className="block text-sm text-muted">
          {up != null ? significant(up) : "–"} up, {spot.tests} test{spot.tests === 1 ? "" : "s"}
        </span>
      </td>
      <td className="text-right whitespace-nowrap">
        {spot.possible.down_mbps ? range(spot.possible.down_mbps, significant) : "–"}
        <span className="block text-sm text-muted">
          {spot.possible.up_mbps ? `${range(spot.possible.up_mbps, significant)} up` : ""}
        </span>
      </td>
      <td className="text-right whitespace-nowrap">
        {share(spot.download_share)}
        <span className="block text-sm text-muted">
          {spot.upload_share ? `${share(spot.upload_share)} up` : ""}
        </span>
      </td>
    </tr>
  );
}
