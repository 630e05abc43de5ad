import { QueryClientProvider } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ApiError, FieldError, silent } from "../src/api/client";
import { queryClient } from "../src/api/queries";
import { Form, TextInput, useDraftForm } from "../src/ui/form";

interface Values {
  name: string;
  height: string;
  cells: { band: string }[];
}
const STORED: Values = { name: "East gable", height: "6.4", cells: [{ band: "3" }] };

let root: Root;
let page: HTMLElement;

function Sheet({ stored, save }: { stored: Values; save: (values: Values) => Promise<unknown> }) {
  const form = useDraftForm<Values>({ draft: "sheet", initial: stored, save });
  const isNumber = (text: string) => (Number.isNaN(Number(text)) ? "A number of metres." : undefined);
  return (
    <Form
      of={form}
      buttons={
        <>
          <button type="submit">Save</button>
          <button type="button" onClick={form.discard}>
            Discard
          </button>
          <output>{form.dirty ? "changed" : "as stored"}</output>
        </>
      }
    >
      <TextInput of={form} name="name" at="/name" label="Name" />
      <TextInput of={form} name="height" at="/height_m" label="Height" check={isNumber} />
      <TextInput of={form} name="cells.0.band" at="/cells/0/band" label="Band" />
    </Form>
  );
}

const none = async () => {};
const show = (stored = STORED, save: (values: Values) => Promise<unknown> = none) =>
  act(async () =>
    root.render(
      <QueryClientProvider client={queryClient}>
        <Sheet stored={stored} save={save} />
      </QueryClientProvider>,
    ),
  );
const inputs = () => [...page.querySelectorAll("input")];
const values = () => inputs().map((input) => input.value);
const settle = () => act(async () => new Promise((done) => setTimeout(done, 20)));

async function type(at: number, text: string): Promise<void> {
  await act(async () => {
    const input = inputs()[at] as HTMLInputElement;
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set;
    set?.call(input, text);
    input.dispatchEvent(new Event("input", { bubbles: true }));
  });
}
async function press(name: string): Promise<void> {
  await act(async () =>
    [...page.querySelectorAll("button")].find((button) => button.textContent === name)?.click(),
  );
  await settle();
}
const alerts = () => [...page.querySelectorAll("[role=alert]")].map((one) => one.textContent);
const state = () => page.querySelector("output")?.textContent;

const open = () => {
  page = document.createElement("div");
  document.body.append(page);
  root = createRoot(page);
};
const close = () => act(async () => root.unmount());

beforeEach(() => {
  vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
  localStorage.clear();
  open();
});
afterEach(async () => {
  await close();
  page.remove();
  queryClient.clear();
});

test("what was typed outlives a reload, and goes when it is discarded", async () => {
  await show();
  await type(0, "West gable");
  expect(state()).toBe("changed");
  await close();
  open();
  await show();
  expect(values()).toEqual(["West gable", "6.4", "3"]);
  expect(state()).toBe("changed");
  await press("Discard");
  expect(values()).toEqual(["East gable", "6.4", "3"]);
  expect([state(), localStorage.length]).toEqual(["as stored", 0]);
});

test("what was stored elsewhere is taken over, but never over what was typed", async () => {
  await show();
  await show({ ...STORED, name: "Barn" });
  expect(values()[0]).toBe("Barn");
  await type(1, "7");
  await show({ ...STORED, name: "Shed" });
  expect(values()).toEqual(["Barn", "7", "3"]);
  await press("Discard");
  expect(values()).toEqual(["Shed", "6.4", "3"]);
});

test("typing back what is stored leaves no draft", async () => {
  await show();
  await type(0, "West");
  await type(0, "East gable");
  expect([state(), localStorage.length]).toEqual(["as stored", 0]);
});

test("what cannot be is told beside its field and not sent", async () => {
  const save = vi.fn(async (_: Values) => {});
  await show(STORED, save);
  await type(1, "high");
  await press("Save");
  expect(alerts()).toEqual(["A number of metres."]);
  expect(save).not.toHaveBeenCalled();
  await type(1, "7");
  expect(alerts()).toEqual([]);
  await press("Save");
  expect(save.mock.calls.map(([sent]) => sent)).toEqual([{ ...STORED, height: "7" }]);
  expect([state(), localStorage.length]).toEqual(["as stored", 0]);
});

test("what the server refuses stands beside its field, the rest below, and stays typed", async () => {
  const errors = [
    { pointer: "/cells/0/band", detail: "No such band." },
    { pointer: "/height_m/unit", detail: "Metres only." },
    { pointer: "/colour", detail: "Nobody asked for a colour." },
  ];
  const refuse = () => Promise.reject(new ApiError({ ...silent, status: 422, errors }));
  await show(STORED, refuse);
  await type(2, "99");
  await press("Save");
  expect(alerts()).toEqual(["Metres only.", "No such band.", "Nobody asked for a colour."]);
  expect(values()).toEqual(["East gable", "6.4", "99"]);
  // Its field's own word goes when something else is typed there.
  await type(2, "4");
  expect(alerts()).toEqual(["Metres only.", "Nobody asked for a colour."]);
});

test("back at what is stored, nothing is wrong any more", async () => {
  const errors = [{ pointer: "/name", detail: "Taken." }];
  await show(STORED, () => Promise.reject(new ApiError({ ...silent, status: 422, errors })));
  await type(0, "Barn");
  await press("Save");
  expect(alerts()).toEqual(["Taken."]);
  await type(0, "East gable");
  expect([alerts(), state()]).toEqual([[], "as stored"]);
});

test("without a server's word on fields, its message is shown", async () => {
  await show(STORED, () => Promise.reject(new ApiError(silent)));
  await type(0, "Barn");
  await press("Save");
  expect(alerts()).toEqual([silent.detail]);
  await show(STORED, () => Promise.reject(new FieldError("/name", "Taken.")));
  await press("Save");
  expect(alerts()).toEqual(["Taken."]);
});

test("what is typed while it is being saved stays, and is not stored yet", async () => {
  let end = () => {};
  const save = vi.fn((_: Values) => new Promise<void>((done) => (end = done)));
  await show(STORED, save);
  await type(0, "Barn");
  await press("Save");
  await type(1, "9");
  await act(async () => end());
  await settle();
  expect(values()).toEqual(["Barn", "9", "3"]);
  expect(state()).toBe("changed");
  await press("Save");
  await act(async () => end());
  expect(save.mock.calls.map(([sent]) => sent.height)).toEqual(["6.4", "9"]);
});

test("until what was saved comes back the form shows what was saved", async () => {
  await show();
  await type(0, "Barn");
  await press("Save");
  expect([values()[0], state()]).toEqual(["Barn", "as stored"]);
  // The old answer once more, then the new one, put right by the server.
  await show({ ...STORED });
  expect(values()[0]).toBe("Barn");
  await show({ ...STORED, name: "Barn " });
  expect(values()[0]).toBe("Barn ");
});

test("two presses save once", async () => {
  let end = () => {};
  const save = vi.fn(() => new Promise<void>((done) => (end = done)));
  await show(STORED, save);
  await type(0, "Barn");
  await press("Save");
  await press("Save");
  await act(async () => end());
  expect(save).toHaveBeenCalledTimes(1);
});

function Shared({ save }: { save: (values: Values, seen: Values | undefined) => Promise<unknown> }) {
  const asIs = (stored: Values) => stored;
  const form = useDraftForm<Values, Values>({
    draft: "shared",
    initial: STORED,
    stored: STORED,
    draftOf: asIs,
    save,
  });
  return (
    <Form of={form} buttons={<button type="submit">Save</button>}>
      <TextInput of={form} name="name" at="/name" label="Name" />
      <TextInput of={form} name="height" at="/height_m" label="Height" />
    </Form>
  );
}

test("what was stored meanwhile stands beside what was typed, and either is kept", async () => {
  const sent: { values: Values; seen: Values | undefined }[] = [];
  const elsewhere: Values = { ...STORED, name: "West gable" };
  const stale = new ApiError({ ...silent, status: 409, detail: "Changed meanwhile", newer: elsewhere });
  const save = async (values: Values, seen: Values | undefined) => {
    sent.push({ values, seen });
    if (seen?.name !== elsewhere.name) throw stale;
    return values;
  };
  const shared = () =>
    act(async () =>
      root.render(
        <QueryClientProvider client={queryClient}>
          <Shared save={save} />
        </QueryClientProvider>,
      ),
    );
  await shared();
  await type(0, "Gable by the barn");
  await press("Save");
  const rows = () => [...page.querySelectorAll("tbody tr")].map((row) => row.textContent);
  expect(rows()).toEqual(["NameWest gableGable by the barn"]);
  expect(sent).toHaveLength(1);

  // After a reload it is still made on what was seen then.
  await close();
  open();
  await shared();
  await press("Save");
  expect(sent[1]?.seen).toEqual(STORED);

  await press("Save mine");
  expect(sent[2]).toEqual({ values: { ...STORED, name: "Gable by the barn" }, seen: elsewhere });
  expect(rows()).toEqual([]);

  await type(0, "Third name");
  await press("Save");
  // It is made on what the last save answered, not on what was seen before.
  expect(sent[3]?.seen?.name).toBe("Gable by the barn");
  await press("Take what is stored");
  expect(values()).toEqual(["West gable", "6.4"]);
});
