import type { CarrierSummary, RadioSummary, Summary } from "../../api/schema";
import { ClassMark } from "../../ui/ClassMark";
import { frequency, halves, whole, withUnit } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { ACTIVITIES, bandName, ROLES } from "../../ui/words";

function Spread({ summary, show }: { summary: Summary | null | undefined; show: (value: number) => string }) {
  if (!summary) return <td className="px-3 py-1.5 text-right text-muted">–</td>;
  return (
    <td className="px-3 py-1.5 text-right whitespace-nowrap">
      <strong>{show(summary.median)}</strong>
      {summary.n > 1 && (
        <span className="block text-sm text-muted">
          {show(summary.min)} to {show(summary.max)}
        </span>
      )}
    </td>
  );
}

/** Medians with their extremes, a line for each carrier and kind of traffic. */
export function CarrierMedians({ radio }: { radio: RadioSummary }) {
  return (
    <TableBox label="Medians by carrier">
      <table className="w-full text-left leading-snug">
        <thead>
          <tr className="border-b border-rule text-sm text-muted">
            <th className="py-1 pr-3 font-semibold">Carrier</th>
            <th className="px-3 py-1 font-semibold">Traffic</th>
            <th className="px-3 py-1 text-right font-semibold">RSRP, dBm</th>
            <th className="px-3 py-1 text-right font-semibold">SINR, dB</th>
            <th className="px-3 py-1 text-right font-semibold">RSRQ, dB</th>
            <th className="px-3 py-1 text-right font-semibold">Samples</th>
            <th className="py-1 pl-3 font-semibold">Class</th>
          </tr>
        </thead>
        <tbody>
          {radio.carriers.map((carrier) => (
            <CarrierLine
              key={`${carrier.activity}-${carrier.cell.technology}-${carrier.cell.band}-${carrier.channel}-${carrier.cell.pci}`}
              carrier={carrier}
            />
          ))}
        </tbody>
      </table>
    </TableBox>
  );
}

function CarrierLine({ carrier }: { carrier: CarrierSummary }) {
  const { cell } = carrier;
  const details = [
    carrier.frequency_mhz != null ? frequency(carrier.frequency_mhz) : "",
    carrier.bandwidth_mhz != null ? withUnit(String(carrier.bandwidth_mhz), "MHz wide") : "",
    cell.pci != null ? `PCI ${cell.pci}` : "",
    ROLES[carrier.role],
  ].filter(Boolean);
  return (
    <tr className="border-b border-rule align-top">
      <td className="py-1.5 pr-3">
        <strong>{bandName(cell.technology, cell.band)}</strong>
        <span className="block text-sm text-muted">{details.join(", ")}</span>
      </td>
      <td className="px-3 py-1.5">{ACTIVITIES[carrier.activity]}</td>
      <Spread summary={carrier.rsrp_dbm} show={whole} />
      <Spread summary={carrier.sinr_db} show={halves} />
      <Spread summary={carrier.rsrq_db} show={halves} />
      <td className="px-3 py-1.5 text-right">{carrier.samples}</td>
      <td className="py-1.5 pl-3">{carrier.class && <ClassMark of={carrier.class.class} />}</td>
    </tr>
  );
}
