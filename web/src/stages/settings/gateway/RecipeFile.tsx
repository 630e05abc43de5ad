import { useState } from "react";
import type { GatewayRecipe } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { TextField } from "../../../ui/Field";
import { BARE_RECIPE } from "./bare";

const FORMAT = "open-beacon-gateway-recipe";

/** The recipe as a file, to be shared with others who have the same kind of gateway. No secret is in it. */
export function RecipeFile({
  recipe,
  onRead,
}: {
  recipe: GatewayRecipe;
  onRead: (recipe: GatewayRecipe) => void;
}) {
  const [problem, setProblem] = useState<string>();
  const write = () => {
    const text = JSON.stringify({ format: FORMAT, version: 1, recipe }, null, 2);
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
      };
      if (content.format !== FORMAT || content.version !== 1 || typeof content.recipe !== "object")
        throw new Error("this is no gateway recipe of version 1");
      setProblem(undefined);
      onRead({ ...BARE_RECIPE, ...content.recipe });
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
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
    </div>
  );
}
