import { useState } from "react";
import type { SiteView } from "../../api/schema";
import { saveSettings } from "../../shell/useSiteContext";
import { TextField } from "../../ui/Field";
import { combinationsText, readCombinations } from "../kit/bands";
import { trialSettings } from "./queries";

/** Which carriers the gateway can bundle, as its maker lists them. */
export function Combinations({ site }: { site: SiteView }) {
  const kept = trialSettings(site).combinations;
  const [typed, setTyped] = useState<string>();
  const [error, setError] = useState<string>();
  const save = () => {
    if (typed === undefined) return;
    const combinations = readCombinations(typed);
    if (typeof combinations === "string") {
      setError(combinations);
      return;
    }
    saveSettings(site, { trials: { ...trialSettings(site), combinations } }).then(
      () => {
        setTyped(undefined);
        setError(undefined);
      },
      (failed: Error) => setError(failed.message),
    );
  };
  return (
    <div className="mt-3 max-w-xl">
      <TextField
        label="Combinations the gateway aggregates (optional)"
        hint="As its maker lists them: B3+B20, B3+n78. Leave it empty to allow any."
        value={typed ?? combinationsText(kept)}
        error={error}
        spellCheck={false}
        onChange={setTyped}
        onBlur={save}
      />
    </div>
  );
}
