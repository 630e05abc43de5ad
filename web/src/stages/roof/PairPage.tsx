import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api } from "../../api/client";
import { queryClient } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Form, TextInput, useDraftForm } from "../../ui/form";
import { Page } from "../sites/Page";

/** What this browser gives, here and now. */
export function abilities(): [string, boolean][] {
  const secure = window.isSecureContext;
  return [
    ["The big number, sweeps and notes", true],
    ["What you press waits here while the network is gone, as long as this page is open", true],
    ["Put on the home screen; opens with no network at all", secure && "serviceWorker" in navigator],
    ["Screen kept awake on the roof", secure && "wakeLock" in navigator],
    ["The phone's own compass", secure && "DeviceOrientationEvent" in window],
  ];
}

/** A phone lets itself in by the code on the computer's screen. */
export default function PairPage() {
  const [done, setDone] = useState(false);
  const navigate = useNavigate();
  const [initial] = useState(() => ({
    code: decodeURIComponent(location.hash.slice(1)),
    name: "Phone on the roof",
  }));
  const save = async (draft: typeof initial) => {
    await answered(api.POST("/api/pair", { body: draft }));
    history.replaceState(null, "", "/pair");
    await queryClient.invalidateQueries();
    setDone(true);
    // Before it was let in, the phone could not fetch what it keeps for no network.
    if (import.meta.env.PROD && "serviceWorker" in navigator) void navigator.serviceWorker.register("/sw.js");
  };
  const form = useDraftForm({ initial, save });
  return (
    <Page title={done ? "This phone is let in." : "Let this phone in."}>
      {!done && (
        <Form
          of={form}
          label="Pair"
          className="mt-4 flex flex-col gap-4"
          buttons={
            <Button look="filled" className="min-h-14" type="submit">
              Let it in
            </Button>
          }
        >
          <TextInput
            of={form}
            name="code"
            at="/code"
            label="Code on the computer's screen"
            autoCapitalize="characters"
            autoComplete="one-time-code"
            spellCheck={false}
          />
          <TextInput of={form} name="name" at="/name" label="What shall this phone be called?" />
        </Form>
      )}
      {done && (
        <Button look="filled" className="mt-4 min-h-14 w-full" onClick={() => void navigate({ to: "/" })}>
          Go on
        </Button>
      )}
      <Abilities />
    </Page>
  );
}

function Abilities() {
  return (
    <section aria-label="What works on this phone" className="mt-6">
      <h2 className="text-lg font-bold">What works on this phone</h2>
      <ul className="mt-2 flex flex-col gap-1">
        {abilities().map(([what, works]) => (
          <li key={what}>
            <strong>{works ? "Yes" : "No"}:</strong> {what}
          </li>
        ))}
      </ul>
      {!window.isSecureContext && (
        <p className="mt-2 text-muted">
          What is missing needs HTTPS: start Open Beacon with <code>--lan</code> and let the phone trust the
          computer.
        </p>
      )}
    </section>
  );
}
