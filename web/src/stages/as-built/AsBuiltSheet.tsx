import type { AsBuiltView, SheetCarrier, SheetRow } from "../../api/schema";
import { moment } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { PRIVATE, type Private } from "./queries";

const HEADING = "border-b border-rule pb-1 text-lg font-bold";

/** The sheet itself, on the screen as on paper. */
export function AsBuiltSheet({
  view,
  zone,
  shared,
}: {
  view: AsBuiltView;
  zone: string;
  shared: readonly Private[];
}) {
  const { sheet } = view;
  const out = PRIVATE.filter(([name]) => !shared.includes(name)).map(([, label]) => label.split(":")[0]);
  return (
    <article aria-label="As-built sheet">
      <div className="mt-5 flex flex-wrap items-start justify-between gap-x-6 gap-y-3">
        <div className="min-w-0 flex-1 basis-80">
          <h1 className="text-2xl leading-tight font-bold">As built: {view.label}</h1>
          <p className="mt-1 text-lg">{view.site_name}</p>
          <p className="text-muted">Drawn up {moment(sheet.drawn_up_at, zone)}</p>
          {sheet.verdict.said && <p className="mt-3 max-w-prose">{sheet.verdict.said}</p>}
        </div>
        {view.code_drawing && (
          <figure className="w-40 shrink-0">
            <img
              src={`data:image/svg+xml;utf8,${encodeURIComponent(view.code_drawing)}`}
              alt={`QR code: ${view.code_text}`}
              className="w-40 rounded bg-white"
            />
            <figcaption className="mt-1 text-sm text-muted">
              The essentials, to read with any phone, offline.
            </figcaption>
          </figure>
        )}
      </div>
      <div className="mt-5 gap-x-8 sm:columns-2">
        {view.sections.map((section) => (
          <section key={section.title} aria-label={section.title} className="mb-4 break-inside-avoid">
            <h2 className={HEADING}>{section.title}</h2>
            <Rows rows={section.rows} />
          </section>
        ))}
        {sheet.undo.length > 0 && (
          <section aria-label="How to take the lock away" className="mb-4 break-inside-avoid">
            <h2 className={HEADING}>How to take the lock away</h2>
            <ol className="mt-2 list-decimal pl-6">
              {sheet.undo.map((step) => (
                <li key={step} className="wrap-anywhere">
                  {step}
                </li>
              ))}
            </ol>
          </section>
        )}
      </div>
      <section aria-label="What to find again" className="break-inside-avoid">
        <h2 className={HEADING}>What to find again</h2>
        <Carriers rows={view.carriers} />
        <Rows rows={view.speeds} />
        <p className="mt-2 text-sm text-muted">{view.rests_on}</p>
      </section>
      {view.gains.length > 0 && (
        <section aria-label="Before and after" className="mt-5 break-inside-avoid">
          <h2 className={HEADING}>Before ({sheet.verdict.before}) and after</h2>
          <Rows rows={view.gains} />
        </section>
      )}
      <section aria-label="Cautions" className="mt-5 break-inside-avoid">
        <h2 className={HEADING}>Before anyone goes up</h2>
        <ul className="mt-2 flex flex-col gap-1">
          {sheet.cautions.map((text) => (
            <li key={text} className="border-l-4 border-lamp pl-3">
              {text}
            </li>
          ))}
        </ul>
        <p className="mt-2 text-muted">Local codes and licensed practice go before this list.</p>
      </section>
      {view.photos.length > 0 && (
        <section aria-label="Photographs" className="mt-5">
          <h2 className={HEADING}>Photographs</h2>
          <div className="mt-2 grid gap-3 sm:grid-cols-2">
            {view.photos.map((photo) => (
              <figure key={photo.id} className="break-inside-avoid">
                <img
                  src={`/api/attachments/${photo.id}`}
                  alt={photo.file_name}
                  className="max-h-96 w-full rounded object-contain"
                />
                <figcaption className="text-sm text-muted">{photo.file_name}</figcaption>
              </figure>
            ))}
          </div>
        </section>
      )}
      {out.length > 0 && <p className="mt-4 text-sm text-muted">Left out here: {out.join("; ")}.</p>}
    </article>
  );
}

function Rows({ rows }: { rows: SheetRow[] }) {
  return (
    <dl className="mt-2 grid grid-cols-[minmax(7rem,2fr)_3fr] gap-x-4 gap-y-1">
      {rows.map(({ name, value }) => (
        <div key={name} className="col-span-2 grid grid-cols-subgrid">
          <dt className="text-muted">{name}</dt>
          <dd className="font-semibold wrap-anywhere">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function Carriers({ rows }: { rows: SheetCarrier[] }) {
  if (rows.length === 0) return null;
  return (
    <TableBox label="Carriers to find again">
      <table className="mt-2 w-full text-left tabular-nums">
        <thead>
          <tr className="text-muted">
            <th className="py-1 pr-4 font-normal">Carrier</th>
            <th className="py-1 pr-4 font-normal">RSRP, signal strength</th>
            <th className="py-1 pr-4 font-normal">SINR, signal-to-noise</th>
            <th className="py-1 pr-4 font-normal">RSRQ, quality</th>
            <th className="py-1 font-normal">Read with</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className="border-t border-rule align-top">
              <th className="py-1 pr-4 font-semibold">{row.name}</th>
              <td className="py-1 pr-4 sm:whitespace-nowrap">{row.rsrp || "–"}</td>
              <td className="py-1 pr-4 sm:whitespace-nowrap">{row.sinr || "–"}</td>
              <td className="py-1 pr-4 sm:whitespace-nowrap">{row.rsrq || "–"}</td>
              <td className="py-1 sm:whitespace-nowrap">{row.when}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </TableBox>
  );
}
