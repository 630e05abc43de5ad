import { readList } from "../../api/lists";
import type { BandName, SiteView } from "../../api/schema";
import { saveSettings } from "../../shell/useSiteContext";
import { FormProblem, TextInput, useDraftForm } from "../../ui/form";
import { trialSettings } from "./queries";

/** Which carriers the gateway can bundle, as its maker lists them; stored when the field is left. */
export function Combinations({ site, kept }: { site: SiteView; kept: string }) {
  const form = useDraftForm({
    draft: `combinations:${site.site.id}`,
    initial: { text: kept },
    save: async ({ text }) => {
      const combinations = await readList<BandName[]>("combinations", text);
      await saveSettings(site, { trials: { ...trialSettings(site), combinations } });
    },
  });
  return (
    <div className="mt-3 max-w-xl">
      <TextInput
        of={form}
        name="text"
        at="/text"
        label="Combinations the gateway aggregates (optional)"
        hint="As its maker lists them: B3+B20, B3+n78. Leave it empty to allow any."
        spellCheck={false}
        onBlur={() => form.dirty && form.submit()}
      />
      <FormProblem of={form} />
    </div>
  );
}
