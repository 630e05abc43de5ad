import { type FormEvent, useState } from "react";
import { type ApiError, answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type {
  Carrier,
  CarrierRole,
  FieldFlag,
  Metric,
  Quantity,
  SpeedFigure,
  Technology,
  TypedRun,
} from "../../api/schema";
import { Button } from "../../kit/Button";
import { EntryField, type EntryValue, readEntry } from "../../kit/EntryField";
import { ChoiceField, TextField } from "../../kit/Field";
import { useNotice } from "../../kit/notices";
import { Sheet } from "../../kit/Sheet";
import { useDraft } from "../../kit/useDraft";
import { FIGURES } from "../../kit/words";

const METRIC_FIELDS = ["rsrp", "sinr", "rsrq", "rssi"] as const satisfies readonly Metric[];
const METRIC_LABELS: Record<Metric, string> = {
  rsrp: "Signal power (RSRP)",
  sinr: "Clean signal (SINR)",
  rsrq: "Signal quality (RSRQ)",
  rssi: "Total power (RSSI)",
};
const FIGURE_FIELDS = ["download", "upload", "idle_latency"] as const satisfies readonly SpeedFigure[];

interface CarrierDraft {
  id: string;
  technology: Technology;
  role: CarrierRole;
  band: string;
  pci: string;
  values: Record<Metric, EntryValue>;
}

interface TestDraft {
  id: string;
  values: Record<(typeof FIGURE_FIELDS)[number], EntryValue>;
}

interface Draft {
  runId: string;
  at: string;
  carriers: CarrierDraft[];
  tests: TestDraft[];
  server: string;
  notes: string;
}

const blank = (): EntryValue => ({ text: "", value: null });

function newCarrier(technology: Technology): CarrierDraft {
  return {
    id: newId(),
    technology,
    role: "unknown",
    band: "",
    pci: "",
    values: { rsrp: blank(), sinr: blank(), rsrq: blank(), rssi: blank() },
  };
}

const newTest = (): TestDraft => ({
  id: newId(),
  values: { download: blank(), upload: blank(), idle_latency: blank() },
});

/** Now, as a datetime-local field wants it, in this computer's zone. */
function nowLocal(): string {
  const now = new Date();
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

const newDraft = (): Draft => ({
  runId: newId(),
  at: nowLocal(),
  carriers: [newCarrier("lte")],
  tests: [newTest()],
  server: "",
  notes: "",
});

const TECHNOLOGIES = [
  ["lte", "LTE (4G)"],
  ["nr", "NR (5G)"],
] as const;

const filled = (values: Record<string, EntryValue>) =>
  Object.values(values).some((value) => value.text.trim() !== "");
const fine = (value: EntryValue) =>
  value.error === undefined || (value.asReported === true && value.value !== null);
const digits = (text: string) => (/^\s*[Bn]?(\d+)\s*$/i.exec(text) ? Number(/\d+/.exec(text)?.[0]) : null);

/** Reads every field by the core's rules; fields that were never left included. */
async function readAll<K extends string>(
  values: Record<K, EntryValue>,
  quantity: (key: K) => Quantity,
  technology: Technology,
): Promise<Record<K, EntryValue>> {
  const read = await Promise.all(
    (Object.keys(values) as K[]).map(
      async (key) => [key, await readEntry(quantity(key), technology, values[key])] as const,
    ),
  );
  return Object.fromEntries(read) as Record<K, EntryValue>;
}

const figureQuantity = (key: string): Quantity => (key === "idle_latency" ? "latency" : "rate");

function asCarrier(draft: CarrierDraft): Carrier {
  const flags: FieldFlag[] = METRIC_FIELDS.filter((metric) => draft.values[metric].asReported === true).map(
    (metric) => ({
      metric,
      kind: "as_reported",
    }),
  );
  return {
    technology: draft.technology,
    role: draft.role,
    band: digits(draft.band),
    pci: digits(draft.pci),
    rsrp_dbm: draft.values.rsrp.value,
    sinr_db: draft.values.sinr.value,
    rsrq_db: draft.values.rsrq.value,
    rssi_dbm: draft.values.rssi.value,
    flags,
  };
}

function asRun(draft: Draft): TypedRun {
  const carriers = draft.carriers.filter((carrier) => filled(carrier.values)).map(asCarrier);
  const nr = carriers.some((carrier) => carrier.technology === "nr");
  const lte = carriers.some((carrier) => carrier.technology === "lte");
  const mode = nr ? (lte ? ("nsa" as const) : ("unknown" as const)) : ("lte" as const);
  return {
    id: draft.runId,
    measured_at: new Date(draft.at).toISOString(),
    conditions: { notes: draft.notes },
    readings: carriers.length > 0 ? [{ id: newId(), mode, activity: "unknown", carriers }] : [],
    speed_tests: draft.tests
      .filter((test) => filled(test.values))
      .map((test) => ({
        id: test.id,
        server: draft.server,
        download_mbps: test.values.download.value,
        upload_mbps: test.values.upload.value,
        idle_latency_ms: test.values.idle_latency.value,
      })),
  };
}

/** Readings and speed tests made elsewhere, entered by hand and forgivingly. */
export function TypeIn({
  open,
  onOpenChange,
  siteId,
  setupId,
  label,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  siteId: string;
  setupId: string;
  label: string;
}) {
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={`Type it in: ${label}`}
      description="Leave empty what you do not know. A missing minus, a decimal comma and pasted units are understood."
    >
      <TypeInForm key={setupId} siteId={siteId} setupId={setupId} onDone={() => onOpenChange(false)} />
    </Sheet>
  );
}

function TypeInForm({ siteId, setupId, onDone }: { siteId: string; setupId: string; onDone: () => void }) {
  const [initial] = useState(newDraft);
  const [draft, change, clear] = useDraft(`type-in:${setupId}`, initial);
  const [problem, setProblem] = useState<string>();
  const notice = useNotice();

  const setCarrier = (id: string, part: (carrier: CarrierDraft) => CarrierDraft) =>
    change((before) => ({
      ...before,
      carriers: before.carriers.map((one) => (one.id === id ? part(one) : one)),
    }));
  const setTest = (id: string, part: (test: TestDraft) => TestDraft) =>
    change((before) => ({ ...before, tests: before.tests.map((one) => (one.id === id ? part(one) : one)) }));

  const save = async (event: FormEvent) => {
    event.preventDefault();
    setProblem(undefined);
    const carriers = await Promise.all(
      draft.carriers.map(async (carrier) => ({
        ...carrier,
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
    if ([...carriers, ...tests].some((part) => !Object.values(part.values).every(fine))) {
      setProblem("Some fields need a look; they are marked above.");
      return;
    }
    try {
      await answered(
        api.POST("/api/setups/{id}/typed-runs", { params: { path: { id: setupId } }, body: asRun(read) }),
      );
      clear();
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
      <TextField
        label="Measured at"
        type="datetime-local"
        value={draft.at}
        onChange={(at) => change({ ...draft, at })}
      />
      {draft.carriers.map((carrier, index) => (
        <fieldset key={carrier.id} className="flex flex-col gap-3 border-t border-rule pt-3">
          <legend className="pr-2 text-lg font-bold">Carrier {index + 1}</legend>
          <div className="grid grid-cols-3 gap-3">
            <ChoiceField
              label="Technology"
              value={carrier.technology}
              choices={TECHNOLOGIES}
              onChange={(technology) => setCarrier(carrier.id, (before) => ({ ...before, technology }))}
            />
            <TextField
              label="Band"
              hint={carrier.technology === "lte" ? "B3 or 3" : "n78 or 78"}
              value={carrier.band}
              onChange={(band) => setCarrier(carrier.id, (before) => ({ ...before, band }))}
            />
            <TextField
              label="PCI"
              value={carrier.pci}
              onChange={(pci) => setCarrier(carrier.id, (before) => ({ ...before, pci }))}
            />
          </div>
          <div className="grid grid-cols-2 gap-3">
            {METRIC_FIELDS.map((metric) => (
              <EntryField
                key={metric}
                label={METRIC_LABELS[metric]}
                quantity={metric}
                technology={carrier.technology}
                entry={carrier.values[metric]}
                onChange={(entry) =>
                  setCarrier(carrier.id, (before) => ({
                    ...before,
                    values: { ...before.values, [metric]: entry },
                  }))
                }
              />
            ))}
          </div>
        </fieldset>
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
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      <Button type="submit" look="filled" className="self-start">
        Keep it
      </Button>
    </form>
  );
}
