import { useState } from "react";
import { newId } from "../../api/client";
import { deliver, useOutbox } from "../../api/outbox";
import { refresh } from "../../api/queries";
import type { SweepView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { moment } from "../../ui/format";

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
  const picture = async (input: HTMLInputElement) => {
    const file = input.files?.[0];
    if (!file) return;
    const asked = new URLSearchParams({
      id: newId(),
      file_name: file.name,
      taken_at: new Date().toISOString(),
    });
    // The bytes, not the file: a phone may have cleared its own copy when the connection is back.
    const body = new Blob([await file.arrayBuffer()], { type: "application/octet-stream" });
    await deliver({
      label: `Photograph ${file.name}`,
      method: "POST",
      path: `/api/sites/${siteId}/sweeps/${view.sweep.id}/photos?${asked}`,
      type: "application/octet-stream",
      body,
    });
    input.value = "";
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
          Save
        </Button>
      </form>
      <ul className="mt-2 flex flex-col gap-1">
        {(view.sweep.notes ?? []).map((note) => (
          <li key={note.id}>
            <span className="text-muted">{moment(note.at, zone)}</span> {note.text}
          </li>
        ))}
      </ul>
      <label className="mt-3 inline-flex min-h-14 cursor-pointer items-center rounded-xl border border-edge px-4 font-semibold focus-within:outline-2">
        Keep a photograph
        <input
          type="file"
          accept="image/jpeg,image/png,image/webp"
          capture="environment"
          className="sr-only"
          onChange={(event) => void picture(event.target)}
        />
      </label>
      <ul className="mt-2 flex flex-wrap gap-2">
        {view.photos.map((photo) => (
          <li key={photo.id}>
            <a href={`/api/sweep-photos/${photo.id}`} target="_blank" rel="noreferrer">
              <img
                src={`/api/sweep-photos/${photo.id}`}
                alt={`${photo.file_name}, ${moment(photo.taken_at, zone)}`}
                className="size-24 rounded-lg border border-rule object-cover"
              />
            </a>
          </li>
        ))}
      </ul>
      {waiting > 0 && <p className="text-muted">{waiting} more on this device.</p>}
    </section>
  );
}
