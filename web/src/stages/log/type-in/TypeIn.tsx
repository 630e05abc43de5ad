import { type FormEvent, useId, useState } from "react";
import { type ApiError, answered, api, newId } from "../../../api/client";
import { refresh } from "../../../api/queries";
import type { Instrument, Pasted } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { EntryField, readEntry } from "../../../ui/EntryField";
import { ChoiceField, TextField } from "../../../ui/Field";
import { useNotice } from "../../../ui/notices";
import { Sheet } from "../../../ui/Sheet";
import { useDraft } from "../../../ui/useDraft";
import { FIGURES, INSTRUMENTS } from "../../../ui/words";
import { attachPicture } from "../attach";
import { CarrierFields } from "./CarrierFields";
import {
  asRun,
  type CarrierDraft,
  carrierDraft,
  FIGURE_FIELDS,
  figureQuantity,
  fine,
  newCarrier,
  newDraft,
  newTest,
  readAll,
  type TestDraft,
} from "./draft";
import { PasteBox } from "./PasteBox";

const instruments = Object.entries(INSTRUMENTS) as [Instrument, string][];

/** Readings and speed tests made elsewhere: pasted whole or entered by hand, forgivingly. */
export function TypeIn({
  open,
  onOpenChange,
  siteId,
  setupId,
  label,
  network = "",
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  siteId: string;
  setupId: string;
  label: string;
  network?: string;
}) {
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={`Type it in: ${label}`}
      description="Leave empty what you do not know. A missing minus, a decimal comma and pasted units are understood."
    >
      <TypeInForm
        key={`${setupId} ${network}`}
        siteId={siteId}
        setupId={setupId}
        network={network}
        onDone={() => onOpenChange(false)}
      />
    </Sheet>
  );
}

function TypeInForm({
  siteId,
  setupId,
  network,
  onDone,
}: {
  siteId: string;
  setupId: string;
  network: string;
  onDone: () => void;
}) {
  const [initial] = useState(() => newDraft(network));
  const [draft, change, clear] = useDraft(`type-in-2:${setupId}:${network}`, initial);
  const [problem, setProblem] = useState<string>();
  const [picture, setPicture] = useState<File>();
  const pictureId = useId();
  const notice = useNotice();

  const setCarrier = (id: string, part: (carrier: CarrierDraft) => CarrierDraft) =>
    change((before) => ({
      ...before,
      carriers: before.carriers.map((one) => (one.id === id ? part(one) : one)),
    }));
  const setTest = (id: string, part: (test: TestDraft) => TestDraft) =>
    change((before) => ({ ...before, tests: before.tests.map((one) => (one.id === id ? part(one) : one)) }));
  const takePasted = async (pasted: Pasted) => {
    const carriers = pasted.carriers.map(carrierDraft);
    change((before) => ({ ...before, mode: pasted.mode, carriers }));
    // What lies outside the reporting range is shown at its field at once.
    const read = await Promise.all(
      carriers.map(async (one) => ({
        ...one,
        values: await readAll(one.values, (metric) => metric, one.technology),
      })),
    );
    change((before) => ({ ...before, carriers: read }));
  };

  const save = async (event: FormEvent) => {
    event.preventDefault();
    setProblem(undefined);
    const carriers = await Promise.all(
      draft.carriers.map(async (carrier) => ({
        ...carrier,
        bandwidth: await readEntry("bandwidth", carrier.technology, carrier.bandwidth),
        values: await readAll(carrier.values, (metric) => metric, carrier.technology),
      })),
    );
    const tests = await Promise.all(
      draft.tests.map(async (test) => ({
        ...test,
        values: await readAll(test.values, figureQuantity, "lte"),
      })),
    );
    const read = { ...draft, carriers, tests };
    change(read);
    const all = [...carriers, ...tests].flatMap((part) => Object.values(part.values));
    if (![...all, ...carriers.map((carrier) => carrier.bandwidth)].every(fine)) {
      setProblem("Some fields need a look; they are marked above.");
      return;
    }
    try {
      const run = await answered(
        api.POST("/api/setups/{id}/typed-runs", { params: { path: { id: setupId } }, body: asRun(read) }),
      );
      clear();
      if (picture) {
        await attachPicture(run.id, picture).catch((failed: ApiError) =>
          notice(`The reading is kept, the picture is not: ${failed.message}`),
        );
      }
      refresh(siteId);
      notice("It is kept with this setup.");
      onDone();
    } catch (failed) {
      // A corrected entry is another one: the next try carries a new identifier.
      change({ ...read, runId: newId() });
      const error = failed as ApiError;
      setProblem(error.problem.errors[0]?.detail ?? error.message);
    }
  };

  return (
    <form onSubmit={(event) => void save(event)} className="flex flex-col gap-6" noValidate>
      <PasteBox onRead={(pasted) => void takePasted(pasted)} />
      <div className="grid gap-3 sm:grid-cols-3">
        <TextField
          label="Measured at"
          type="datetime-local"
          value={draft.at}
          onChange={(at) => change({ ...draft, at })}
        />
        <ChoiceField
          label="Read from"
          value={draft.instrument}
          choices={instruments}
          onChange={(instrument) => change({ ...draft, instrument })}
        />
        <TextField
          label="Operator"
          hint="Blank: the operator in use"
          value={draft.network}
          onChange={(operator) => change({ ...draft, network: operator })}
        />
      </div>
      {draft.carriers.map((carrier, index) => (
        <CarrierFields
          key={carrier.id}
          carrier={carrier}
          number={index + 1}
          onChange={(part) => setCarrier(carrier.id, part)}
        />
      ))}
      <Button
        look="plain"
        className="self-start"
        onClick={() => change({ ...draft, carriers: [...draft.carriers, newCarrier("nr")] })}
      >
        Add a carrier
      </Button>
      {draft.tests.map((test, index) => (
        <fieldset key={test.id} className="border-t border-rule pt-3">
          <legend className="pr-2 text-lg font-bold">Speed test {index + 1}</legend>
          <div className="grid grid-cols-3 gap-3">
            {FIGURE_FIELDS.map((figure) => (
              <EntryField
                key={figure}
                label={FIGURES[figure].name}
                quantity={figureQuantity(figure)}
                entry={test.values[figure]}
                onChange={(entry) =>
                  setTest(test.id, (before) => ({ ...before, values: { ...before.values, [figure]: entry } }))
                }
              />
            ))}
          </div>
        </fieldset>
      ))}
      <Button
        look="plain"
        className="self-start"
        onClick={() => change({ ...draft, tests: [...draft.tests, newTest()] })}
      >
        Add a speed test
      </Button>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField
          label="Tested with"
          hint="Which page, server or device"
          value={draft.server}
          onChange={(server) => change({ ...draft, server })}
        />
        <TextField label="Notes" value={draft.notes} onChange={(notes) => change({ ...draft, notes })} />
      </div>
      <div>
        <label htmlFor={pictureId} className="text-sm font-semibold">
          Photo or screenshot (PNG, JPEG or WebP, at most 12{"\u202f"}MiB)
        </label>
        <input
          id={pictureId}
          type="file"
          accept="image/png,image/jpeg,image/webp"
          className="block text-sm file:mr-3 file:rounded-lg file:border file:border-edge file:bg-surface file:px-3 file:py-2"
          onChange={(event) => setPicture(event.target.files?.[0])}
        />
      </div>
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      <Button type="submit" look="filled" className="self-start">
        Save
      </Button>
    </form>
  );
}
