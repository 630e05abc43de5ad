import type { FigureRow } from "../../api/schema";
import { figureText, LedgerTrack, scaleFor } from "../../drawings/Ledger";
import { counted, withUnit } from "../../ui/format";
import { FIGURES } from "../../ui/words";

/** Each figure of a setup on a line of its own: tests as dots, the geometric mean as a tick, its interval as a bar. */
export function Figures({ figures }: { figures: FigureRow[] }) {
  const shown = figures.filter((figure) => figure.values.length > 0);
  const rates = shown.filter((figure) => FIGURES[figure.figure].unit === "Mbit/s");
  const times = shown.filter((figure) => FIGURES[figure.figure].unit === "ms");
  return (
    <div className="flex flex-col">
      {[...rates, ...times].map((figure) => (
        <FigureLine key={figure.figure} figure={figure} />
      ))}
    </div>
  );
}

function FigureLine({ figure }: { figure: FigureRow }) {
  const { name, unit } = FIGURES[figure.figure];
  const scale = scaleFor([...figure.values.map((value) => value.value), figure.interval?.high ?? 0]);
  return (
    <div className="grid grid-cols-[9rem_minmax(0,1fr)_8.5rem] items-center gap-x-3">
      <div className="leading-tight">
        <p className="font-semibold">{name}</p>
        <p className="text-sm text-muted">{counted(figure.summary?.n ?? 0, "test")}</p>
      </div>
      <LedgerTrack row={figure} scale={scale} unit={unit} least={46} strong />
      <p className="leading-tight">
        <span className="text-xl font-bold">{figureText(figure)}</span>{" "}
        <span className="text-sm text-muted">{unit}</span>
        <span className="block text-sm text-muted">0 to {withUnit(String(scale.max), unit)}</span>
      </p>
    </div>
  );
}
