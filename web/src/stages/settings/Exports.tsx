import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { buttonClass } from "../../ui/Button";
import { Section } from "../StageHeader";

/** The whole site as a file, and whether that file could be brought in again. */
export function Exports({ siteId }: { siteId: string }) {
  const exports = useQuery({
    queryKey: ["exports", siteId],
    queryFn: () => answered(api.GET("/api/sites/{id}/exports", { params: { path: { id: siteId } } })),
    // It rests on everything recorded: asked for again each time the page is opened.
    staleTime: 0,
  });
  const { zip_problem, json_problem } = exports.data ?? {};
  const problems = [zip_problem, json_problem].filter(Boolean);
  return (
    <Section title="Take it with you">
      <p>
        Everything recorded here, archived parts too: as a zip with one CSV table for each kind of thing and
        the pictures, or as one JSON file.
        {exports.data && problems.length === 0 && " Either can be imported again without loss."}
      </p>
      {problems.map((problem) => (
        <p key={problem} role="alert" className="mt-2 max-w-prose font-semibold text-starved">
          {problem}
        </p>
      ))}
      <div className="mt-3 flex flex-wrap gap-3">
        <a className={buttonClass("outlined")} href={`/api/sites/${siteId}/export.zip`} download>
          Export as zip (CSV)
        </a>
        {!json_problem && (
          <a className={buttonClass("outlined")} href={`/api/sites/${siteId}/export.json`} download>
            Export as JSON
          </a>
        )}
      </div>
      <p className="mt-4">
        To read or print: one page with the verdict, every setup, run and event, that opens anywhere without
        this program. It does not tell where the house stands.
      </p>
      <div className="mt-3 flex flex-wrap gap-3">
        <a className={buttonClass("outlined")} href={`/api/sites/${siteId}/report.html`} download>
          Report as HTML
        </a>
      </div>
      <p className="mt-4">
        For statistics: the same tables as Apache Parquet files, with numbers and times as such. They are not
        imported again.
      </p>
      <div className="mt-3 flex flex-wrap gap-3">
        <a className={buttonClass("outlined")} href={`/api/sites/${siteId}/parquet.zip`} download>
          Tables as Parquet
        </a>
      </div>
      <p className="mt-4">
        For other map programs: positions, setups with their figures and the way they point, masts, landmarks
        and what stands in the way. It tells where the house stands.
      </p>
      <div className="mt-3 flex flex-wrap gap-3">
        <a className={buttonClass("outlined")} href={`/api/sites/${siteId}/map.geojson`} download>
          Map as GeoJSON
        </a>
        <a className={buttonClass("outlined")} href={`/api/sites/${siteId}/map.kml`} download>
          Map as KML
        </a>
      </div>
    </Section>
  );
}
