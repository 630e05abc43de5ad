import { useState } from "react";
import type { GatewayRecipe, PageRecording } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { TextField } from "../../../ui/Field";
import { BARE_RECIPE } from "./bare";
import type { WorkshopState } from "./useWorkshop";

const FORMAT = "open-beacon-gateway-recipe";

/** The answers with what the recipe makes of each: whoever takes the recipe can tell whether it still does. */
export function asTest({ recording, workshop }: Pick<WorkshopState, "recording" | "workshop">) {
  if (!recording || !workshop || recording.answers.length !== workshop.tried.length) return undefined;
  const answers = recording.answers.map((answer, at) => ({
    ...answer,
    expected: workshop.tried[at]?.read ?? null,
  }));
  return { answers };
}

/** The recipe as a file, to be shared with others who have the same kind of gateway. No secret is in it. */
export function RecipeFile({
  recipe,
  workshop,
  onRead,
}: {
  recipe: GatewayRecipe;
  workshop: WorkshopState;
  onRead: (recipe: GatewayRecipe) => void;
}) {
  const [problem, setProblem] = useState<string>();
  const recording = asTest(workshop);
  const write = () => {
    const text = JSON.stringify({ format: FORMAT, version: 1, recipe, recording }, null, 2);
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([text], { type: "application/json" }));
    link.download = "gateway-recipe.json";
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const read = async (file: File | undefined) => {
    if (!file) return;
    try {
      const content = JSON.parse(await file.text()) as {
        format?: string;
        version?: number;
        recipe?: Partial<GatewayRecipe>;
        recording?: PageRecording;
      };
      if (content.format !== FORMAT || content.version !== 1 || typeof content.recipe !== "object")
        throw new Error("this is no gateway recipe of version 1");
      setProblem(undefined);
      onRead({ ...BARE_RECIPE, ...content.recipe });
      workshop.bring(Array.isArray(content.recording?.answers) ? content.recording : undefined);
    } catch (error) {
      setProblem(
        `${file.name} cannot be read: ${error instanceof Error ? error.message : "it is not JSON"}. A file that “Save as a file” wrote would work.`,
      );
    }
  };
  return (
    <div className="flex flex-col gap-3">
      <TextField
        label="Name of the recipe"
        hint="The kind of gateway it is for. Name and password are not in the file."
        value={recipe.name}
        onChange={(name) => onRead({ ...recipe, name })}
      />
      <div className="flex flex-wrap items-center gap-3">
        <Button onClick={write}>Save as a file</Button>
        <label className="inline-flex min-h-11 cursor-pointer items-center rounded-xl border border-edge px-4 font-semibold focus-within:outline-2">
          Take one from a file
          <input
            type="file"
            accept="application/json,.json"
            className="sr-only"
            onChange={(event) => void read(event.target.files?.[0])}
          />
        </label>
      </div>
      {recording && (
        <p className="max-w-prose text-sm text-muted">
          The {recording.answers.length} recorded answers go into the file as the recipe's own test. They hold
          your cell identities: whoever has the file can tell roughly where you live.
        </p>
      )}
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
    </div>
  );
}
