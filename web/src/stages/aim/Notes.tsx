import { useState } from "react";
import { newId } from "../../api/client";
import { deliver, useOutbox } from "../../api/outbox";
import { refresh } from "../../api/queries";
import type { SweepView } from "../../api/schema";
import { Button } from "../../kit/Button";
import { TextField } from "../../kit/Field";
import { moment } from "../../kit/format";

/** Notes from the roof: kept on the phone at once, and with the sweep as soon as the computer answers. */
export function Notes({ siteId, view, zone }: { siteId: string; view: SweepView; zone: string }) {
  const [text, setText] = useState("");
  const path = `/api/sites/${siteId}/sweeps/${view.sweep.id}/notes`;
  const waiting = useOutbox().filter((one) => one.path === path).length;
  const keep = async () => {
    if (text.trim() === "") return;
    const note = { id: newId(), text: text.trim(), at: new Date().toISOString() };
    await deliver({
      label: `Note: ${note.text.slice(0, 40)}`,
      method: "POST",
      path,
      type: "application/json",
      body: JSON.stringify(note),
    });
    setText("");
    refresh(siteId);
  };
  return (
    <section aria-label="Notes" className="mt-5">
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <div className="min-w-0 flex-1">
          <TextField label="Note from the roof" value={text} onChange={setText} />
        </div>
        <Button type="submit" className="min-h-14">
          Keep it
        </Button>
      </form>
      <ul className="mt-2 flex flex-col gap-1">
        {(view.sweep.notes ?? []).map((note) => (
          <li key={note.id}>
            <span className="text-muted">{moment(note.at, zone)}</span> {note.text}
          </li>
        ))}
      </ul>
      {waiting > 0 && <p className="text-muted">{waiting} more on this device.</p>}
    </section>
  );
}
