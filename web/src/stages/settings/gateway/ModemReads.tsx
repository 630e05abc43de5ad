import type { ModemRead, Technology } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextField } from "../../../ui/Field";

const TECHNOLOGIES: readonly (readonly [Technology, string])[] = [
  ["lte", "the LTE carrier"],
  ["nr", "the NR carrier"],
];

/** Questions that a modem's maker added, each with how one line of its answer is written. */
export function ModemReads({
  reads,
  onChange,
  problem,
}: {
  reads: ModemRead[];
  onChange: (reads: ModemRead[]) => void;
  problem: (pointer: string) => string | undefined;
}) {
  const put = (index: number, read: ModemRead | undefined) => {
    const next = [...reads];
    if (read) next[index] = read;
    else next.splice(index, 1);
    onChange(next);
  };
  return (
    <div className="flex flex-col gap-4">
      <p>
        The standard's own questions tell signal and cell, but no SINR of LTE and no band. If your modem's
        guide has a question that does, write it here. Only questions are sent: nothing in the modem is
        changed.
      </p>
      {reads.map((read, index) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: reads have no other name, and are not reordered
          key={index}
          className="grid items-start gap-3 sm:grid-cols-[10rem_1fr_10rem_auto]"
        >
          <TextField
            label="Question"
            value={read.command}
            onChange={(command) => put(index, { ...read, command })}
            error={problem(`/gateway/recipe/modem_reads/${index}/command`)}
            spellCheck={false}
          />
          <TextField
            label="Answer"
            hint="Fields in braces, * for what is passed over"
            value={read.answer}
            onChange={(answer) => put(index, { ...read, answer })}
            error={problem(`/gateway/recipe/modem_reads/${index}/answer`)}
            spellCheck={false}
          />
          <ChoiceField
            label="Speaks of"
            value={read.technology}
            choices={TECHNOLOGIES}
            onChange={(technology) => put(index, { ...read, technology })}
          />
          <Button look="plain" className="mt-6" onClick={() => put(index, undefined)}>
            Remove
          </Button>
        </div>
      ))}
      <Button
        className="self-start"
        onClick={() =>
          onChange([
            ...reads,
            { command: "AT+NAME?", answer: "+NAME: {rsrp_dbm},{sinr_db},*", technology: "lte" },
          ])
        }
      >
        Add a question
      </Button>
    </div>
  );
}
