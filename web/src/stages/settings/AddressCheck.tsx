import { answered, api } from "../../api/client";
import type { AddressView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useAction } from "../../ui/useAction";

/** Looks at a speed-test address before it is relied on; a second one unmasks a slow first one. */
export function AddressCheck({
  siteId,
  download,
  upload,
  second,
  onSecond,
}: {
  siteId: string;
  download: string;
  upload: string;
  second: string;
  onSecond: (address: string) => void;
}) {
  const check = useAction(
    undefined,
    (): Promise<AddressView> => {
      const body = {
        download_url: download.trim(),
        upload_url: upload.trim() || null,
        second_url: second.trim() || null,
      };
      const path = { params: { path: { id: siteId } } };
      return answered(api.POST("/api/sites/{id}/address-check", { ...path, body }));
    },
    { beside: true },
  );
  const { answer, busy, problem } = check;
  return (
    <div className="flex flex-col gap-3">
      <TextField
        label="A second download address, to check against (optional)"
        hint="On another server. If it is much faster, the first one is what holds your tests back."
        inputMode="url"
        value={second}
        onChange={onSecond}
      />
      <Button className="self-start" disabled={busy || download.trim() === ""} onClick={() => check.run()}>
        {busy ? "Checking for some seconds…" : "Check these addresses"}
      </Button>
      {answer && (
        <ul role="status" className="flex flex-col gap-1 border-l-4 border-structure pl-3">
          {answer.said.map((said) => (
            <li key={said.text}>{said.text}</li>
          ))}
        </ul>
      )}
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
    </div>
  );
}
