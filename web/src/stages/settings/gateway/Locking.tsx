/* biome-ignore-all lint/suspicious/noTemplateCurlyInString: names that the server fills in, not the page */
import type { LockRecipe } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { TextArea, TextField } from "../../../ui/Field";
import { readNumber } from "../../../ui/number";

const BARE: LockRecipe = {
  request: null,
  commands: [],
  undo_commands: [],
  access_words: [],
  volatile: false,
  reattach_s: 60,
  by_hand: "",
};

const NAMES =
  "${access}, ${lte_bands}, ${nr_bands}, ${lte_mask_hex}, ${nr_mask_hex}; ${lte_mask_high_hex} from band 65 on";

/** How this gateway is told which bands to use, and how that is taken away: what its maker's guide says. */
export function Locking({
  lock,
  modem,
  onChange,
  problem,
}: {
  lock: LockRecipe | null | undefined;
  modem: boolean;
  onChange: (lock: LockRecipe | null) => void;
  problem: (pointer: string) => string | undefined;
}) {
  if (!lock)
    return (
      <>
        <p className="max-w-3xl">
          If the gateway can lock bands and you know the request or the command for it, write it here, with
          the one that takes the lock away. Without it, trials are cards for your hands.
        </p>
        <Button
          className="mt-3"
          onClick={() =>
            onChange(
              modem
                ? { ...BARE, commands: ["AT+NAME=${lte_mask_hex}"], undo_commands: ["AT+NAME=0"] }
                : {
                    ...BARE,
                    request: {
                      method: "post",
                      path: "/lock",
                      send: "json",
                      body: '{"lte": [${lte_bands}], "nr": [${nr_bands}]}',
                      undo_path: "",
                      undo_body: "{}",
                    },
                  },
            )
          }
        >
          Say how it is locked
        </Button>
      </>
    );
  const at = (name: string) => problem(`/gateway/recipe/lock/${name}`);
  const request = lock.request;
  const lines = (text: string) => text.split("\n").filter((line) => line.trim() !== "");
  return (
    <div className="flex max-w-3xl flex-col gap-4">
      {request && !modem ? (
        <>
          <TextField
            label="Path that sets a lock"
            value={request.path ?? ""}
            error={at("request/path")}
            spellCheck={false}
            onChange={(path) => onChange({ ...lock, request: { ...request, path } })}
          />
          <TextArea
            label="Sent along"
            hint={`What is filled in: ${NAMES}`}
            value={request.body ?? ""}
            error={at("request/body")}
            onChange={(body) => onChange({ ...lock, request: { ...request, body } })}
          />
          <TextField
            label="Path that takes it away (optional)"
            hint="The same where empty"
            value={request.undo_path ?? ""}
            error={at("request/undo_path")}
            spellCheck={false}
            onChange={(undo_path) => onChange({ ...lock, request: { ...request, undo_path } })}
          />
          <TextArea
            label="Sent along to take it away"
            value={request.undo_body ?? ""}
            error={at("request/undo_body")}
            onChange={(undo_body) => onChange({ ...lock, request: { ...request, undo_body } })}
          />
        </>
      ) : (
        <>
          <TextArea
            label="Commands that set a lock, one a line"
            hint={`What is filled in: ${NAMES}. Identity numbers are not written.`}
            value={(lock.commands ?? []).join("\n")}
            error={at("commands/0") ?? at("commands/1")}
            onChange={(text) => onChange({ ...lock, commands: lines(text) })}
          />
          <TextArea
            label="Commands that take it away, one a line"
            value={(lock.undo_commands ?? []).join("\n")}
            error={at("undo_commands") ?? at("undo_commands/0")}
            onChange={(text) => onChange({ ...lock, undo_commands: lines(text) })}
          />
        </>
      )}
      <TextField
        label="Words for LTE only, NSA, SA and free, if the device has its own (optional)"
        hint="lte=4G, nsa=ENDC, sa=5G, any=AUTO"
        value={(lock.access_words ?? []).map(({ name, value }) => `${name}=${value}`).join(", ")}
        spellCheck={false}
        onChange={(text) =>
          onChange({
            ...lock,
            access_words: text
              .split(",")
              .map((pair) => pair.split("="))
              .flatMap(([name = "", ...rest]) =>
                name.trim() === "" ? [] : [{ name: name.trim(), value: rest.join("=").trim() }],
              ),
          })
        }
      />
      <TextField
        label="Longest wait until it is attached again, s"
        value={String(lock.reattach_s ?? 60)}
        error={at("reattach_s")}
        inputMode="numeric"
        onChange={(text) => onChange({ ...lock, reattach_s: readNumber(text) ?? 0 })}
      />
      <label className="flex min-h-11 items-center gap-3">
        <input
          type="checkbox"
          className="size-5 accent-(--action)"
          checked={lock.volatile ?? false}
          onChange={() => onChange({ ...lock, volatile: !lock.volatile })}
        />
        It forgets the lock when it restarts: the better kind for trials
      </label>
      <TextField
        label="What to press on the device itself to get back (optional)"
        value={lock.by_hand ?? ""}
        onChange={(by_hand) => onChange({ ...lock, by_hand })}
      />
      <Button className="self-start" onClick={() => onChange(null)}>
        Remove how it is locked
      </Button>
    </div>
  );
}
