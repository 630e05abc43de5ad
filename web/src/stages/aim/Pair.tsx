import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../api/client";
import { TextField } from "../../ui/Field";
import { readNumber } from "../../ui/number";
import { Section } from "../StageHeader";

const read = (text: string) => readNumber(text) ?? Number.NaN;

/** Two single antennas made a pair: slants at right angles, and far enough apart. */
export function Pair() {
  const [first, setFirst] = useState("-45");
  const [second, setSecond] = useState("45");
  const [apart, setApart] = useState("0.5");
  const [frequency, setFrequency] = useState("1800");
  const query = {
    first_deg: read(first),
    second_deg: read(second),
    apart_m: read(apart),
    frequency_mhz: read(frequency),
  };
  const fine = Object.values(query).every(Number.isFinite);
  const answer = useQuery({
    queryKey: ["pair", query],
    enabled: fine,
    retry: false,
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/calc/pair", { params: { query } })),
  });
  return (
    <Section title="Two single antennas as a pair">
      <details>
        <summary className="min-h-11 font-semibold">Slant angles and distance</summary>
        <p className="mt-1 text-muted">
          Lay the phone's level on each antenna's element. Both ports hear apart only where the slants stand
          at right angles.
        </p>
        <div className="mt-3 grid gap-3 sm:grid-cols-4">
          <TextField label="First, ° from upright" inputMode="decimal" value={first} onChange={setFirst} />
          <TextField label="Second, ° from upright" inputMode="decimal" value={second} onChange={setSecond} />
          <TextField label="Apart, m" inputMode="decimal" value={apart} onChange={setApart} />
          <TextField label="Frequency, MHz" inputMode="decimal" value={frequency} onChange={setFrequency} />
        </div>
        <div role="status" className="mt-3">
          {!fine && <p>Write each as a number, for instance −45, 45, 0.5 and 1800.</p>}
          {fine && answer.isError && <p className="font-semibold text-starved">{answer.error.message}</p>}
          {fine && answer.data?.words.map((line) => <p key={line}>{line}</p>)}
        </div>
      </details>
    </Section>
  );
}
