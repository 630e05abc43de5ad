import { useId, useState } from "react";
import { type ApiError, answered, api, newId } from "../../../api/client";
import { refresh } from "../../../api/queries";
import type { Instrument, Pasted, RunView } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { EntryField } from "../../../ui/EntryField";
import { TextField } from "../../../ui/Field";
import { ChoiceInput, FormProblem, TextInput, useDraftForm } from "../../../ui/form";
import { useNotice } from "../../../ui/notices";
import { Sheet } from "../../../ui/Sheet";
import { FIGURES, INSTRUMENTS } from "../../../ui/words";
import { attachPicture } from "../attach";
import { CarrierFields } from "./CarrierFields";
import {
  asRun,
  type CarrierDraft,
  carrierDraft,
  correctedRun,
  type Draft,
  FIGURE_FIELDS,
  figureQuantity,
  fine,
  newCarrier,
  newDraft,
  newTest,
  readFields,
  runDraft,
  type TestDraft,
  uncounted,
  unreadable,
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
  correct,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  siteId: string;
  setupId: string;
  label: string;
  network?: string;
  /** The run that is corrected; without it a new one is made. */
  correct?: RunView;
}) {
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={correct ? label : `Type it in: ${label}`}
      description="Leave empty what you do not know. A missing minus, a decimal comma and pasted units are understood."
    >
      <TypeInForm
        key={`${setupId} ${network} ${correct?.run.id ?? ""}`}
        siteId={siteId}
        setupId={setupId}
        network={network}
        correct={correct}
        onDone={() => onOpenChange(false)}
      />
    </Sheet>
  );
}

function TypeInForm({
  siteId,
  setupId,
  network,
  correct,
  onDone,
}: {
  siteId: string;
  setupId: string;
  network: string;
  correct: RunView | undefined;
  onDone: () => void;
}) {
  const [initial] = useState(() => (correct ? runDraft(correct) : newDraft(network)));
  const [picture, setPicture] = useState<File>();
  const pictureId = useId();
  const notice = useNotice();

  const save = async (draft: Draft) => {
    const read = await readFields(draft);
    form.set(read);
    const all = [...read.carriers, ...read.tests].flatMap((part) => Object.values(part.values));
    if (![...all, ...read.carriers.map((carrier) => carrier.bandwidth)].every(fine))
      throw new Error("Some fields need a look; they are marked above.");
    const lost = unreadable(read.carriers);
    if (lost) throw new Error(`“${lost}” is no number of a band, channel or PCI; B3 or 1300 would do.`);
    const count = uncounted(read.tests);
    if (count) throw new Error(`“${count}” is no number of tests; 3 would do, or nothing for a single one.`);
    if (correct) return keepCorrection({ ...draft, ...read }, correct);
    const path = { params: { path: { id: setupId } } };
    const body = asRun({ ...draft, ...read });
    const run = await answered(api.POST("/api/setups/{id}/typed-runs", { ...path, body })).catch((failed) => {
      // A corrected entry is another one: the next try carries a new identifier.
      form.set({ runId: newId() });
      throw failed;
    });
    if (picture) {
      await attachPicture(run.id, picture).catch((failed: ApiError) =>
        notice(`The reading is kept, the picture is not: ${failed.message}`),
      );
    }
    refresh(siteId);
    notice("It is kept with this setup.");
    onDone();
  };
  const keepCorrection = async (draft: Draft, view: RunView) => {
    const body = {
      id: newId(),
      why: draft.why,
      by: draft.by,
      seen: view.amendments.length,
      run: correctedRun(draft, view),
    };
    await answered(api.PUT("/api/runs/{id}/typed", { params: { path: { id: view.run.id } }, body }));
    refresh(siteId);
    notice("The run is corrected. What stood there before is kept with it.");
    onDone();
  };
  const kept = correct
    ? `correct:${correct.run.id}:${correct.amendments.length}`
    : `type-in-2:${setupId}:${network}`;
  const form = useDraftForm<Draft>({ draft: kept, initial, save });
  const { values: draft } = form;
  const setCarrier = (id: string, part: (carrier: CarrierDraft) => CarrierDraft) =>
    form.set((now) => ({ carriers: now.carriers.map((one) => (one.id === id ? part(one) : one)) }));
  const setTest = (id: string, part: (test: TestDraft) => TestDraft) =>
    form.set((now) => ({ tests: now.tests.map((one) => (one.id === id ? part(one) : one)) }));
  const takePasted = async (pasted: Pasted) => {
    form.set({ mode: pasted.mode, carriers: pasted.carriers.map(carrierDraft) });
    // What lies outside the reporting range is shown at its field at once.
    form.set({ carriers: (await readFields(form.form.getValues())).carriers });
  };

  return (
    <form onSubmit={form.submit} className="flex flex-col gap-6" noValidate>
      {!correct && <PasteBox onRead={(pasted) => void takePasted(pasted)} />}
      <div className="grid gap-3 sm:grid-cols-3">
        <TextInput of={form} name="at" at="/taken_at" label="Measured at" type="datetime-local" />
        <ChoiceInput of={form} name="instrument" label="Read from" choices={instruments} />
        <TextInput
          of={form}
          name="network"
          at="/network"
          label="Operator"
          hint="Blank: the operator in use"
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
        onClick={() => form.set({ carriers: [...draft.carriers, newCarrier("nr")] })}
      >
        Add a carrier
      </Button>
      {draft.tests.map((test, index) => (
        <fieldset key={test.id} className="border-t border-rule pt-3">
          <legend className="pr-2 text-lg font-bold">Speed test {index + 1}</legend>
          <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
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
            <TextField
              label="Average of"
              hint="Tests; blank for a single one"
              value={test.averageOf ?? ""}
              onChange={(averageOf) => setTest(test.id, (before) => ({ ...before, averageOf }))}
            />
          </div>
        </fieldset>
      ))}
      <Button
        look="plain"
        className="self-start"
        onClick={() => form.set({ tests: [...draft.tests, newTest()] })}
      >
        Add a speed test
      </Button>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextInput
          of={form}
          name="server"
          at="/server"
          label="Tested with"
          hint="Which page, server or device"
        />
        <TextInput of={form} name="notes" at="/notes" label="Notes" />
      </div>
      {correct ? (
        <div className="grid gap-3 sm:grid-cols-2">
          <TextInput
            of={form}
            name="why"
            at="/why"
            label="Why it is corrected"
            hint="For instance: digits swapped"
          />
          <TextInput of={form} name="by" at="/by" label="Who corrects it" hint="May be left empty" />
        </div>
      ) : (
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
      )}
      <FormProblem of={form} />
      <Button type="submit" look="filled" className="self-start">
        {correct ? "Save correction" : "Save"}
      </Button>
    </form>
  );
}
