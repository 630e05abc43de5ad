import { useWorklist } from "../../api/queries";
import type { WorkRowView } from "../../api/schema";
import { HourStrip } from "../../drawings/HourStrip";
import { useChooseSetup } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { counted, significant } from "../../ui/format";
import { type Column, SortableTable } from "../../ui/SortableTable";
import { Section } from "../StageHeader";

/**
 * What to measure next at this site, in a sentence; where that is another setup, the way there. `first`: the setup that is
 * shown lacks nothing by itself.
 */
export function NextWork({ siteId, setupId, first }: { siteId: string; setupId: string; first: boolean }) {
  const view = useWorklist(siteId).data;
  const choose = useChooseSetup();
  if (!view) return null;
  const { next } = view;
  const look = first && next && !next.later ? "filled" : "outlined";
  return (
    <div className="mt-4 flex max-w-3xl flex-wrap items-center gap-x-4 gap-y-2 border-l-4 border-lamp pl-3">
      <p>{view.next_said}</p>
      {next && next.setup_id !== setupId && (
        <Button look={look} onClick={() => choose(next.setup_id)}>
          Show {next.label}
        </Button>
      )}
    </div>
  );
}

/** Every setup with what was measured on it, at which hours, and what it lacks. */
export function Worklist({ siteId }: { siteId: string }) {
  const view = useWorklist(siteId).data;
  const choose = useChooseSetup();
  if (!view || view.rows.length < 2) return null;
  const rate = (value: number | null | undefined) => (value == null ? "–" : significant(value));
  const columns: Column<WorkRowView>[] = [
    {
      name: "Setup",
      sort: (row) => row.label,
      cell: (row) => (
        <div className="min-w-44">
          <button
            type="button"
            className="min-h-10 text-left font-semibold text-action underline lg:min-h-0"
            onClick={() => choose(row.setup_id)}
          >
            {row.label}
          </button>
          <span className="block text-sm text-muted">
            {row.missing_said}
            {row.in_place ? ". Measured last" : ""}
          </span>
        </div>
      ),
    },
    {
      name: "Down, Mbit/s",
      align: "right",
      sort: (row) => row.down_mbps,
      cell: (row) => rate(row.down_mbps),
    },
    { name: "Up, Mbit/s", align: "right", sort: (row) => row.up_mbps, cell: (row) => rate(row.up_mbps) },
    {
      name: "Tests",
      align: "right",
      sort: (row) => row.tests,
      cell: (row) => (
        <>
          {row.tests}
          {row.doubted > 0 && <span className="block text-sm text-muted">{row.doubted} doubtful</span>}
        </>
      ),
    },
    { name: "Sittings", align: "right", sort: (row) => row.sittings, cell: (row) => row.sittings },
    {
      name: "Hours of the day",
      sort: (row) => row.hours.length,
      cell: (row) => <HourStrip hours={row.hours} evening={[view.evening_from, view.evening_to]} />,
    },
  ];
  return (
    <Section
      title="What is measured, and what is missing"
      aside={<span className="text-sm text-muted">{counted(view.rows.length, "setup")}</span>}
    >
      <SortableTable
        label="What is measured of every setup"
        rows={view.rows}
        rowKey={(row) => row.setup_id}
        columns={columns}
      />
      <p className="mt-2 text-sm text-muted">
        Tests of one sitting count once. The line under the hours marks the evening, when networks are the
        busiest.
      </p>
    </Section>
  );
}
