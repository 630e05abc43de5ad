import type { BandOutlook, JudgedKit } from "../../api/schema";
import { difference, range, rough, signed, whole } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { WhyTable } from "../../ui/WhyTable";
import { bandName } from "../../ui/words";
import { Narrowing, PASSED_OVER } from "../SetupOutlook";
import { LIMITS } from "./words";

/** Signal, clean signal, what limits and speeds on every band, and all of it together. */
export function KitOutlook({ judged, baseSpot }: { judged: JudgedKit; baseSpot: string | undefined }) {
  const outlook = judged.assessment.outlook;
  if (outlook.bands.length === 0) {
    return (
      <p className="max-w-3xl">
        Nothing is known of the air here yet. Read the gateway at the Baseline, or name the bands on offer and
        the mast's distance under “The household and the site” below.
      </p>
    );
  }
  const { need } = outlook;
  return (
    <>
      <TableBox label="By band with this kit">
        <table className="w-full text-right leading-snug">
          <thead>
            <tr className="border-b border-rule text-sm text-muted [&>th]:px-1.5 [&>th]:py-1 [&>th]:font-semibold">
              <th className="text-left">Band</th>
              <th>Power (RSRP), dBm</th>
              <th>SINR, dB</th>
              <th className="text-left">Held back by</th>
              <th>Download, Mbit/s</th>
              <th>Upload, Mbit/s</th>
            </tr>
          </thead>
          <tbody>
            {outlook.bands.map((band) => (
              <BandRow
                key={`${band.band.technology}${band.band.band}-${band.budget.frequency_mhz}`}
                band={band}
              />
            ))}
            <tr className="align-top font-bold [&>td]:px-1.5 [&>td]:py-2 [&>td]:whitespace-nowrap">
              <td className="text-left" colSpan={4}>
                Expected together
                {outlook.lan_caps && <span className="font-normal">, capped by the wire</span>}
              </td>
              <td>{outlook.down_mbps ? range(outlook.down_mbps, rough) : "–"}</td>
              <td>{outlook.up_mbps ? range(outlook.up_mbps, rough) : "–"}</td>
            </tr>
            <tr className="border-t border-rule text-muted [&>td]:px-2 [&>td]:py-1">
              <td className="text-left" colSpan={4}>
                The household needs
              </td>
              <td>{rough(need.down_mbps)}</td>
              <td>{rough(need.up_mbps)}</td>
            </tr>
          </tbody>
        </table>
      </TableBox>
      <p className="mt-3 max-w-3xl">{judged.margin}</p>
      {judged.day && <p className="mt-2 max-w-3xl">{judged.day}</p>}
      {judged.doubts && <p className="mt-2 max-w-3xl">{judged.doubts}</p>}
      <p className="mt-2 max-w-3xl text-sm text-muted">
        Each band's speed is for an empty cell
        {outlook.possible_down_mbps && `; together ${range(outlook.possible_down_mbps, rough)} Mbit/s`}. What
        is expected takes the share of that which is measured at this house
        {baseSpot && `, changes are against ${baseSpot}`}. Ranges hold in eight of ten cases, as far as walls,
        paths and interference are known.
      </p>
      <Narrowing lines={judged.narrowing} />
      <WhyTable rows={judged.why} />
    </>
  );
}

/** What a band's figures rest on. */
function basis(origin: BandOutlook["origin"]): string {
  switch (origin.from) {
    case "heard":
      return `heard at ${origin.spot}`;
    case "mast":
      return `computed from ${origin.mast}, not heard yet`;
    default:
      return `by the path model${origin.beyond_model ? ", beyond its table" : ""}`;
  }
}

function BandRow({ band }: { band: BandOutlook }) {
  const radio = band.radio;
  return (
    <tr className="border-b border-rule align-top [&>td]:px-1.5 [&>td]:py-2 [&>td]:whitespace-nowrap">
      <td className="text-left">
        <span className="font-bold">{bandName(band.band.technology, band.band.band)}</span>
        {band.bandwidth_mhz != null && (
          <span className="text-muted"> {signed(band.bandwidth_mhz, 0)} MHz</span>
        )}
        <span className="block text-sm whitespace-normal text-muted">
          {radio && `${radio.layers} stream${radio.layers === 1 ? "" : "s"}, `}
          {basis(band.origin)}
          {radio && !radio.counts && `; ${PASSED_OVER}`}
        </span>
      </td>
      {radio ? (
        <>
          <td className="whitespace-nowrap">
            {range(radio.rsrp_dbm, whole)}
            <span className="block text-sm text-muted">{difference(radio.rsrp_change_db.likely, 0)} dB</span>
          </td>
          <td className="whitespace-nowrap">
            {range(radio.sinr_db, whole)}
            <span className="block text-sm text-muted">{difference(radio.sinr_change_db, 0)} dB</span>
          </td>
          <td className="text-left">{LIMITS[radio.limit]}</td>
          <td>{radio.down_mbps ? range(radio.down_mbps, rough) : "–"}</td>
          <td>
            {radio.up_mbps ? range(radio.up_mbps, rough) : "–"}
            {radio.up_power_limited && <span className="block text-sm text-muted">its power limits</span>}
          </td>
        </>
      ) : (
        <td className="text-left text-muted" colSpan={5}>
          This kit does not carry it.
        </td>
      )}
    </tr>
  );
}
