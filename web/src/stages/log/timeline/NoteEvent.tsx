import { useState } from "react";
import { newId } from "../../../api/client";
import { deliver, useOutbox } from "../../../api/outbox";
import { refreshPart } from "../../../api/queries";
import type { EventKind } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextField } from "../../../ui/Field";
import { EVENT_KINDS } from "../../../ui/words";

const kinds = Object.entries(EVENT_KINDS) as [EventKind, string][];

/** Notes something that happened just now: kept on this device at once, and with the site as soon as the server answers. */
export function NoteEvent({ siteId }: { siteId: string }) {
  const [text, setText] = useState("");
  const [kind, setKind] = useState<EventKind>("weather");
  const [minutes, setMinutes] = useState("0");
  const path = `/api/sites/${siteId}/noted-events`;
  const waiting = useOutbox().filter((one) => one.path === path).length;
  const note = async () => {
    const said = text.trim();
    if (said === "") return;
    setText("");
    const happened = new Date(Date.now() - Number(minutes) * 60_000);
    await deliver({
      label: `Event: ${said.slice(0, 40)}`,
      method: "POST",
      path,
      type: "application/json",
      body: JSON.stringify({ id: newId(), happened_at: happened.toISOString(), kind, text: said }),
    });
    refreshPart(siteId, { of: "timeline" });
  };
  return (
    <form
      className="grid max-w-3xl items-end gap-3 sm:grid-cols-[minmax(0,1fr)_12rem_9rem_auto]"
      onSubmit={(event) => {
        event.preventDefault();
        void note();
      }}
    >
      <TextField
        label="What happened"
        placeholder="Rain began"
        value={text}
        onChange={setText}
        maxLength={4000}
      />
      <ChoiceField label="About" value={kind} choices={kinds} onChange={setKind} />
      <ChoiceField label="When" value={minutes} choices={AGO} onChange={setMinutes} />
      <Button type="submit" className="max-lg:min-h-14">
        Note it
      </Button>
      {waiting > 0 && <p className="text-muted sm:col-span-4">{waiting} more on this device.</p>}
    </form>
  );
}

const AGO: readonly (readonly [string, string])[] = [
  ["0", "Now"],
  ["15", "15 min ago"],
  ["60", "1 h ago"],
  ["180", "3 h ago"],
  ["720", "12 h ago"],
  ["1440", "Yesterday"],
  ["10080", "A week ago"],
];
