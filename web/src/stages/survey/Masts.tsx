import { useState } from "react";
import { answered, api } from "../../api/client";
import type { EntryMistakeSaid, Mast, MastView, SurveyView, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { bearing, length } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { Sheet } from "../../ui/Sheet";
import { type Column, SortableTable } from "../../ui/SortableTable";
import { useAction } from "../../ui/useAction";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";
import { MastForm } from "./MastForm";
import { MastImport } from "./MastImport";
import { putMast } from "./queries";
import { distance } from "./words";

function corrected(mast: Mast, { slip }: EntryMistakeSaid): Mast | undefined {
  if (slip.slip === "swapped" || slip.slip === "wrong_hemisphere") return { ...mast, place: slip.corrected };
  if (slip.slip === "feet") return { ...mast, height_m: Math.round(slip.corrected_m * 10) / 10 };
  return undefined;
}

/** The masts around: entered, imported, merged, exported. */
export function Masts({
  siteId,
  view,
  units,
  network,
}: {
  siteId: string;
  view: SurveyView;
  units: Units;
  network: string;
}) {
  const [editing, setEditing] = useState<Mast | "new">();
  const [importing, setImporting] = useState(false);
  const notice = useNotice();
  const put = useAction(
    siteId,
    (...masts: Mast[]) => Promise.all(masts.map((mast) => putMast(siteId, mast))),
    { queue: true },
  );
  const away = useAction(siteId, async (mast: Mast) => {
    await putMast(siteId, mast, { archived: true, seen: mast });
    notice(`${mast.name} was archived.`, () => put.run(mast));
  });
  const merge = useAction(siteId, async (keep: string, other: string, names: string) => {
    const before = view.masts.map((one) => one.mast).filter((one) => one.id === keep || one.id === other);
    await answered(
      api.POST("/api/sites/{id}/masts/merge", {
        params: { path: { id: siteId } },
        body: { keep, others: [other] },
      }),
    );
    notice(`${names} are one mast now.`, () => put.run(...before));
  });
  const columns: Column<MastView>[] = [
    {
      name: "Mast",
      sort: ({ mast }) => mast.name,
      cell: (one) => <MastName one={one} onMend={(mast) => put.run(mast)} />,
    },
    {
      name: "From the house",
      sort: (one) => one.distance_m,
      cell: ({ distance_m, bearing_deg }) => (
        <span className="whitespace-nowrap">
          {distance_m != null && bearing_deg != null
            ? `${distance(distance_m, units)}, ${bearing(bearing_deg)}`
            : "house not placed"}
        </span>
      ),
    },
    {
      name: "Height",
      sort: ({ mast }) => mast.height_m,
      cell: ({ mast }) => (
        <span className="whitespace-nowrap">
          {mast.height_m == null ? "not known" : length(mast.height_m, units)}
        </span>
      ),
    },
    { name: "Cells", sort: ({ mast }) => mast.cells?.length, cell: ({ mast }) => cellsOf(mast) },
    {
      name: "Actions",
      unseen: true,
      cell: ({ mast }) => (
        <span className="whitespace-nowrap">
          <Button look="plain" onClick={() => setEditing(mast)} aria-label={`Change ${mast.name}`}>
            Change
          </Button>{" "}
          <Button look="plain" onClick={() => away.run(mast)} aria-label={`Archive ${mast.name}`}>
            Archive
          </Button>
        </span>
      ),
    },
  ];
  return (
    <Section
      title="Masts"
      aside={
        <span className="flex flex-wrap gap-x-4">
          {(["csv", "geojson", "kml"] as const).map((kind) => (
            <a
              key={kind}
              href={`/api/sites/${siteId}/masts.${kind}`}
              className="font-semibold text-action underline underline-offset-4"
            >
              {{ csv: "CSV", geojson: "GeoJSON", kml: "KML" }[kind]}
            </a>
          ))}
        </span>
      }
    >
      <div id="masts" className="flex flex-wrap gap-3">
        <Button look={view.masts.length === 0 ? "filled" : "outlined"} onClick={() => setImporting(true)}>
          Import masts
        </Button>
        <Button onClick={() => setEditing("new")}>Enter a mast</Button>
      </div>
      {view.duplicates.map((pair) => (
        <p key={pair.keep + pair.other} className="mt-3 border-l-4 border-lamp pl-3">
          {pair.names} stand so near each other that they are probably one.{" "}
          <Button look="plain" onClick={() => merge.run(pair.keep, pair.other, pair.names)}>
            Make them one
          </Button>
        </p>
      ))}
      {view.masts.length === 0 ? (
        <p className="mt-3 max-w-3xl">
          Many countries publish where masts stand, as a table or map file. A name, coordinates and the bands
          are enough; PCI and base station number let the gateway's own reading confirm which mast it hears.
        </p>
      ) : (
        <SortableTable
          label="List of masts"
          className="mt-3"
          rows={view.masts}
          rowKey={(one) => one.mast.id}
          columns={columns}
        />
      )}
      <Sheet
        open={editing !== undefined}
        onOpenChange={(open) => !open && setEditing(undefined)}
        title={editing === "new" ? "Enter a mast" : "Change the mast"}
        description="Name, place and bands are enough; the rest makes it surer."
      >
        {editing !== undefined && (
          <MastForm
            key={editing === "new" ? "new" : editing.id}
            siteId={siteId}
            mast={editing === "new" ? undefined : editing}
            network={network}
            onDone={() => setEditing(undefined)}
          />
        )}
      </Sheet>
      <Sheet
        open={importing}
        onOpenChange={setImporting}
        title="Import masts"
        description="CSV with any columns, GeoJSON or KML. You see what was understood before anything is stored."
      >
        <MastImport siteId={siteId} onDone={() => setImporting(false)} />
      </Sheet>
    </Section>
  );
}

/** Who it is and where, and what cannot be with it. */
function MastName({ one, onMend }: { one: MastView; onMend: (mast: Mast) => void }) {
  const { mast } = one;
  return (
    <>
      <span className="font-semibold">{mast.name}</span>
      {mast.operator && <span className="text-muted">, {mast.operator}</span>}
      <span className="block text-sm text-muted">
        {one.latitude_text} {one.longitude_text}
        {one.utm_text && ` · UTM ${one.utm_text}`}
        {one.mgrs_text && ` · MGRS ${one.mgrs_text}`}
      </span>
      {one.slips.map((said) => {
        const better = corrected(mast, said);
        return (
          <span key={said.text} className="mt-1 block border-l-4 border-starved pl-2">
            {said.text}{" "}
            {better && (
              <Button look="plain" onClick={() => onMend(better)}>
                Mend it
              </Button>
            )}
          </span>
        );
      })}
    </>
  );
}

const cellsOf = ({ cells = [] }: Mast) =>
  cells.length === 0
    ? "none yet"
    : cells
        .map((cell) => `${bandName(cell.technology, cell.band)}${cell.pci == null ? "" : `/${cell.pci}`}`)
        .join(", ");
