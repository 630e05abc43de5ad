import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answered, api } from "../../api/client";
import type { Technology } from "../../api/schema";
import { Constellation } from "../../drawings/Constellation";
import { halves, signed, whole, withUnit } from "../../ui/format";
import { MODULATIONS } from "../../ui/words";

/** Redrawn this often, ms: noise is not a still picture. */
const AGAIN_MS = 1500;

function useSeed(): number {
  const [seed, setSeed] = useState(1);
  useEffect(() => {
    if (matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    const timer = setInterval(() => setSeed((before) => (before % 1000) + 1), AGAIN_MS);
    return () => clearInterval(timer);
  }, []);
  return seed;
}

/** What this SINR buys: symbols with noise as strong as measured, what survives, what 3 dB more would buy. */
export function SinrBuys({ technology, sinrDb }: { technology: Technology; sinrDb: number }) {
  const seed = useSeed();
  const [more, setMore] = useState(0);
  const at = sinrDb + more;
  const answer = useQuery({
    queryKey: ["constellation", technology, at, seed],
    gcTime: 5_000,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(api.POST("/api/calc/constellation", { body: { technology, sinr_db: at, count: 260, seed } })),
  }).data;
  if (!answer) return null;
  const { buys } = answer;
  return (
    <figure className="max-w-64">
      <figcaption className="font-bold">What {withUnit(halves(at), "dB")} buy</figcaption>
      <Constellation
        levels={answer.levels}
        symbols={answer.symbols}
        words={`${MODULATIONS[answer.modulation]} at ${halves(at)} dB: ${whole(answer.mistaken * 100)} % of the symbols are taken for another before correction.`}
      />
      <ul className="mt-1 text-sm">
        {buys.modulations.map((one) => (
          <li key={one.modulation} className={one.survives ? "font-semibold" : "text-muted"}>
            {one.survives ? "✓" : "–"} {MODULATIONS[one.modulation]}
            <span className="font-normal text-muted"> from about {withUnit(whole(one.needs_db), "dB")}</span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm">
        {signed(buys.bps_hz, 1)} bit/s in every hertz now, {signed(buys.bps_hz_with_3_db, 1)} with 3{"\u202f"}
        dB more.
      </p>
      <label className="mt-1 flex min-h-11 items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="size-5 accent-(--action)"
          checked={more > 0}
          onChange={(event) => setMore(event.target.checked ? 3 : 0)}
        />
        Show it with 3{"\u202f"}dB more
      </label>
    </figure>
  );
}
