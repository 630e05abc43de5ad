import { useState } from "react";
import { ApiError, answered, api, FieldError, newId } from "../../api/client";
import { deliver } from "../../api/outbox";
import { refresh } from "../../api/queries";
import type { SweepAxis, SweepView, Technology } from "../../api/schema";
import { Button } from "../../ui/Button";
import { forgetDraft } from "../../ui/draft";
import { type EntryValue, entryOf } from "../../ui/EntryField";
import { ChoiceInput, EntryInput, Form, TextInput, useDraftForm } from "../../ui/form";
import { readNumber } from "../../ui/number";
import { angle } from "./angle";

const TECHNOLOGIES: [Technology, string][] = [
  ["lte", "LTE"],
  ["nr", "5G NR"],
];

interface Named {
  technology: Technology;
  band: string;
}

/** A point read off the gateway's own page: for gateways that this program cannot read. */
export function TypedPoint({
  siteId,
  view,
  to,
  only,
}: {
  siteId: string;
  view: SweepView;
  /** Where the antenna points. */
  to: number;
  /** There is no other way: no gateway address is set. */
  only: boolean;
}) {
  // The carrier stays, its figures are new at each bearing.
  const [last, setLast] = useState<Named & { points: number }>({ technology: "lte", band: "", points: 0 });
  return (
    <details open={only} className="mt-3">
      <summary className="cursor-pointer py-2 font-semibold">Type what the gateway's page shows</summary>
      <TypedForm
        key={last.points}
        siteId={siteId}
        view={view}
        to={to}
        last={last}
        onKept={(named) => setLast({ ...named, points: last.points + 1 })}
      />
    </details>
  );
}

function TypedForm({
  siteId,
  view,
  to,
  last,
  onKept,
}: {
  siteId: string;
  view: SweepView;
  to: number;
  last: Named;
  onKept: (named: Named) => void;
}) {
  const draft = `typed:${view.sweep.id}`;
  const axis: SweepAxis = view.sweep.axis ?? "azimuth";
  const nothing: EntryValue = entryOf(null);
  const initial = { technology: last.technology, band: last.band, rsrp: nothing, sinr: nothing };
  const save = async ({ technology, band, rsrp, sinr }: typeof initial) => {
    const number = readNumber(band.replace(/^[bn]/i, ""));
    if (number === null) throw new FieldError("/band", "The band's number is needed, for instance 3 or 78.");
    if (rsrp.value == null) throw new FieldError("/rsrp_dbm", "A value in dBm is needed, for instance −97.");
    const body = {
      id: newId(),
      angle_deg: to,
      technology,
      band: number,
      rsrp_dbm: [rsrp.value],
      sinr_db: sinr.value == null ? [] : [sinr.value],
      read_at: new Date().toISOString(),
    };
    const path = { id: siteId, sweep: view.sweep.id };
    try {
      await answered(
        api.POST("/api/sites/{id}/sweeps/{sweep}/typed-stops", {
          params: { path },
          body,
          signal: AbortSignal.timeout(6000),
        }),
      );
    } catch (error) {
      if (!(error instanceof ApiError) || error.problem.status !== 0) throw error;
      await deliver({
        label: `Point at ${angle(to, axis)}`,
        method: "POST",
        // NextStep counts what waits by this path.
        path: `/api/sites/${siteId}/sweeps/${view.sweep.id}/typed-stops`,
        type: "application/json",
        body: JSON.stringify(body),
      });
    }
    refresh(siteId);
    // The next point's form takes this one's place: it must not find this one's figures.
    forgetDraft(draft);
    onKept({ technology, band });
  };
  const form = useDraftForm({ draft, initial, save });
  const { technology } = form.values;
  const buttons = (
    <Button look="filled" type="submit" className="min-h-14 w-full">
      Save this point at {angle(to, axis)}
    </Button>
  );
  return (
    <Form of={form} label="Typed point" buttons={buttons} className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <ChoiceInput of={form} name="technology" label="Technology" choices={TECHNOLOGIES} />
        <TextInput
          of={form}
          name="band"
          at="/band"
          label="Band"
          placeholder={technology === "nr" ? "78" : "3"}
        />
        <EntryInput
          of={form}
          name="rsrp"
          at="/rsrp_dbm"
          label="RSRP"
          quantity="rsrp"
          technology={technology}
        />
        <EntryInput
          of={form}
          name="sinr"
          at="/sinr_db"
          label="SINR"
          quantity="sinr"
          technology={technology}
        />
      </div>
    </Form>
  );
}
