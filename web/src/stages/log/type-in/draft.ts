import { newId } from "../../../api/client";
import type {
  Carrier,
  CarrierRole,
  ConnectionMode,
  FieldFlag,
  Instrument,
  Metric,
  Quantity,
  RunView,
  SpeedFigure,
  Technology,
  TypedRun,
  TypedTest,
} from "../../../api/schema";
import { type EntryValue, entryOf, readEntry } from "../../../ui/EntryField";

export const METRIC_FIELDS = ["rsrp", "sinr", "rsrq", "rssi"] as const satisfies readonly Metric[];
export const FIGURE_FIELDS = ["download", "upload", "idle_latency"] as const satisfies readonly SpeedFigure[];

export interface CarrierDraft {
  id: string;
  technology: Technology;
  role: CarrierRole;
  band: string;
  channel: string;
  pci: string;
  bandwidth: EntryValue;
  values: Record<Metric, EntryValue>;
  /** Fields that a pasted page gave and this form does not show. */
  rest: Partial<Carrier>;
}

export interface TestDraft {
  id: string;
  values: Record<(typeof FIGURE_FIELDS)[number], EntryValue>;
  /** Tests that the figures are the average of; empty for a single one. */
  averageOf?: string;
  /** Figures that this form does not show. */
  rest?: Partial<TypedTest>;
}

export type Draft = {
  runId: string;
  at: string;
  /** What a pasted page said of the connection; else it follows from the carriers. */
  mode: ConnectionMode;
  carriers: CarrierDraft[];
  tests: TestDraft[];
  instrument: Instrument;
  network: string;
  server: string;
  notes: string;
  /** Why it is corrected, and who does it: only where it is a correction. */
  why: string;
  by: string;
};

const blank = (): EntryValue => ({ text: "", value: null });

export function newCarrier(technology: Technology): CarrierDraft {
  return {
    id: newId(),
    technology,
    role: "unknown",
    band: "",
    channel: "",
    pci: "",
    bandwidth: blank(),
    values: { rsrp: blank(), sinr: blank(), rsrq: blank(), rssi: blank() },
    rest: {},
  };
}

/** A carrier as a pasted page gave it, open to correction. */
export function carrierDraft(carrier: Carrier): CarrierDraft {
  const whole = (value: number | null | undefined) => (value == null ? "" : String(value));
  return {
    id: newId(),
    technology: carrier.technology,
    role: carrier.role,
    band: whole(carrier.band),
    channel: whole(carrier.channel),
    pci: whole(carrier.pci),
    bandwidth: entryOf(carrier.bandwidth_mhz),
    values: {
      rsrp: entryOf(carrier.rsrp_dbm),
      sinr: entryOf(carrier.sinr_db),
      rsrq: entryOf(carrier.rsrq_db),
      rssi: entryOf(carrier.rssi_dbm),
    },
    rest: {
      channel_kind: carrier.channel_kind ?? "unknown",
      cell_identity: carrier.cell_identity ?? null,
      rank: carrier.rank ?? null,
      cqi: carrier.cqi ?? null,
      mcs: carrier.mcs ?? null,
      timing_advance: carrier.timing_advance ?? null,
      transmit_power_dbm: carrier.transmit_power_dbm ?? null,
      branch_rsrp_dbm: carrier.branch_rsrp_dbm ?? [],
    },
  };
}

export const newTest = (): TestDraft => ({
  id: newId(),
  values: { download: blank(), upload: blank(), idle_latency: blank() },
});

/** Now, as a datetime-local field wants it, in this computer's zone. */
export const nowLocal = (): string => local(new Date());

export const newDraft = (network: string): Draft => ({
  runId: newId(),
  at: nowLocal(),
  mode: "unknown",
  carriers: [newCarrier("lte")],
  tests: [newTest()],
  instrument: "gateway",
  network,
  server: "",
  notes: "",
  why: "",
  by: "",
});

/** Local date and minute of a moment, as a datetime-local field wants it. */
const local = (at: Date) =>
  new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);

/** A run that was typed in, open to correction. */
export function runDraft(view: RunView): Draft {
  const reading = view.samples[0];
  const conditions = view.run.conditions ?? {};
  return {
    runId: view.run.id,
    at: local(new Date(view.run.started_at)),
    mode: reading?.mode ?? "unknown",
    carriers: reading?.carriers.map(carrierDraft) ?? [],
    tests: view.speed_tests.map((test) => ({
      id: test.id,
      values: {
        download: entryOf(test.download_mbps),
        upload: entryOf(test.upload_mbps),
        idle_latency: entryOf(test.idle_latency_ms),
      },
      averageOf: test.average_of == null ? "" : String(test.average_of),
      rest: {
        download_latency_ms: test.download_latency_ms ?? null,
        upload_latency_ms: test.upload_latency_ms ?? null,
        probe_loss: test.probe_loss ?? null,
        bytes_down: test.bytes_down ?? 0,
        bytes_up: test.bytes_up ?? 0,
        connections: test.connections ?? null,
      },
    })),
    instrument: conditions.instrument ?? "gateway",
    network: conditions.network ?? "",
    server: view.speed_tests[0]?.server ?? "",
    notes: conditions.notes ?? "",
    why: "",
    by: "",
  };
}

/** Whether this form shows all that a run holds: one reading at the most. */
export const canBeCorrected = (view: RunView): boolean =>
  view.run.source === "typed" && view.samples.length <= 1;

/** The corrected run: what the form does not show stays as it was. */
export function correctedRun(draft: Draft, view: RunView): TypedRun {
  const typed = asRun(draft);
  const before = runDraft(view);
  const sameTime = draft.at === before.at;
  return {
    ...typed,
    measured_at: sameTime ? view.run.started_at : typed.measured_at,
    conditions: { ...view.run.conditions, ...typed.conditions },
    readings: (typed.readings ?? []).map((reading) => ({
      ...reading,
      id: view.samples[0]?.id ?? reading.id,
      activity: view.samples[0]?.activity ?? reading.activity,
    })),
  };
}

export const filled = (values: Record<string, EntryValue>) =>
  Object.values(values).some((value) => value.text.trim() !== "");
export const fine = (value: EntryValue) =>
  value.error === undefined || (value.asReported === true && value.value !== null);
const digits = (text: string) => (/^\s*[Bn]?(\d+)\s*$/i.exec(text) ? Number(/\d+/.exec(text)?.[0]) : null);

/** Reads every field by the core's rules; fields that were never left included. */
export async function readAll<K extends string>(
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

export const figureQuantity = (key: string): Quantity => (key === "idle_latency" ? "latency" : "rate");

/** Every number read by the core's rules, fields that were never left included. */
export async function readFields(draft: Draft): Promise<Pick<Draft, "carriers" | "tests">> {
  const carriers = await Promise.all(
    draft.carriers.map(async (carrier) => ({
      ...carrier,
      bandwidth: await readEntry("bandwidth", carrier.technology, carrier.bandwidth),
      values: await readAll(carrier.values, (metric) => metric, carrier.technology),
    })),
  );
  const tests = await Promise.all(
    draft.tests.map(async (test) => ({ ...test, values: await readAll(test.values, figureQuantity, "lte") })),
  );
  return { carriers, tests };
}

/** What was typed as band, channel number or PCI and holds no number: it would be lost without a word. */
export function unreadable(carriers: CarrierDraft[]): string | undefined {
  return carriers
    .flatMap(({ band, channel, pci }) => [band, channel, pci])
    .find((text) => text.trim() !== "" && digits(text) === null);
}

/** What was typed as the number of tests of an average and holds no number. */
export function uncounted(tests: TestDraft[]): string | undefined {
  return tests
    .map((test) => test.averageOf ?? "")
    .find((text) => text.trim() !== "" && !/^\s*\d{1,4}\s*$/.test(text));
}

/** An average of one is a single test. */
function averageOf(test: TestDraft): number | null {
  const count = Number(test.averageOf?.trim() || "1");
  return count === 1 ? null : count;
}

function asCarrier(draft: CarrierDraft): Carrier {
  const flags: FieldFlag[] = METRIC_FIELDS.filter((metric) => draft.values[metric].asReported === true).map(
    (metric) => ({
      metric,
      kind: "as_reported",
    }),
  );
  return {
    ...draft.rest,
    technology: draft.technology,
    role: draft.role,
    band: digits(draft.band),
    channel: digits(draft.channel),
    pci: digits(draft.pci),
    bandwidth_mhz: draft.bandwidth.value,
    rsrp_dbm: draft.values.rsrp.value,
    sinr_db: draft.values.sinr.value,
    rsrq_db: draft.values.rsrq.value,
    rssi_dbm: draft.values.rssi.value,
    flags,
  };
}

const worthKeeping = (carrier: CarrierDraft) =>
  filled(carrier.values) || carrier.band.trim() !== "" || carrier.channel.trim() !== "";

export function asRun(draft: Draft): TypedRun {
  const carriers = draft.carriers.filter(worthKeeping).map(asCarrier);
  const nr = carriers.some((carrier) => carrier.technology === "nr");
  const lte = carriers.some((carrier) => carrier.technology === "lte");
  const implied = nr ? (lte ? ("nsa" as const) : ("unknown" as const)) : ("lte" as const);
  const mode = draft.mode === "unknown" ? implied : draft.mode;
  return {
    id: draft.runId,
    measured_at: new Date(draft.at).toISOString(),
    conditions: { notes: draft.notes, instrument: draft.instrument, network: draft.network.trim() },
    readings: carriers.length > 0 ? [{ id: newId(), mode, activity: "unknown", carriers }] : [],
    speed_tests: draft.tests
      .filter((test) => filled(test.values))
      .map((test) => ({
        ...test.rest,
        id: test.id,
        server: draft.server,
        download_mbps: test.values.download.value,
        upload_mbps: test.values.upload.value,
        idle_latency_ms: test.values.idle_latency.value,
        average_of: averageOf(test),
      })),
  };
}
