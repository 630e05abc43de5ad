import type { PageChecks, PageCondition, PageField } from "../../../api/schema";
import { TextArea, TextField } from "../../../ui/Field";
import { useTypedLines } from "./typed";

const REQUIRED: readonly (readonly [PageField, string])[] = [
  ["rsrp_dbm", "RSRP"],
  ["sinr_db", "SINR"],
  ["rsrq_db", "RSRQ"],
  ["band", "Band"],
  ["channel", "Channel"],
  ["pci", "PCI"],
];

/** "/status/code = 200"; without a place, the text may stand anywhere in the answer. */
const written = ({ at, is }: PageCondition): string => (at === "" ? is : `${at} = ${is}`);

export function readCondition(line: string): PageCondition {
  const found = /^(\/[^=]*?)\s*=\s*(.*)$/.exec(line.trim());
  return found ? { at: found[1] ?? "", is: found[2] ?? "" } : { at: "", is: line.trim() };
}

/** What has to hold of an answer before anything on it is a reading. */
export function Checks({
  checks,
  onChange,
  problem,
}: {
  checks: PageChecks;
  onChange: (checks: PageChecks) => void;
  problem: (pointer: string) => string | undefined;
}) {
  const set = (part: Partial<PageChecks>) => onChange({ ...checks, ...part });
  const { required } = checks;
  const mustHold = useTypedLines(checks.must_hold.map(written), (lines) =>
    set({ must_hold: lines.map(readCondition) }),
  );
  const noService = useTypedLines(checks.no_service.map(written), (lines) =>
    set({ no_service: lines.map(readCondition) }),
  );
  const signs = useTypedLines(checks.login_signs, (login_signs) => set({ login_signs }));
  const at = (list: string) => {
    const pointer = `/gateway/recipe/checks/${list}`;
    const lines = [0, 1, 2, 3, 4, 5].flatMap((line) => [`${pointer}/${line}/at`, `${pointer}/${line}/is`]);
    return [pointer, ...lines].map(problem).find((said) => said !== undefined);
  };
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      <TextArea
        label="Must be in the answer (one a line)"
        hint="A value at its place, /status/code = 200 for instance, or a text anywhere in the answer."
        error={at("must_hold") ?? problem("/gateway/recipe/checks")}
        {...mustHold}
      />
      <TextArea
        label="No service when it says (one a line)"
        hint="All of these. An answer without carriers alone is no evidence."
        error={at("no_service")}
        {...noService}
      />
      <TextField
        label="A whole answer ends with"
        hint="</html> for instance. Half a page is then never a reading."
        value={checks.end_mark}
        spellCheck={false}
        onChange={(end_mark) => set({ end_mark })}
      />
      <TextArea
        label="The sign-in page says (one a line)"
        hint="A page with a password field is one anyway."
        error={at("login_signs")}
        {...signs}
      />
      <fieldset className="sm:col-span-2">
        <legend className="font-semibold">Every carrier must show</legend>
        <div className="mt-1 flex flex-wrap gap-x-5">
          {REQUIRED.map(([field, name]) => (
            <label key={field} className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="size-5 accent-(--action)"
                checked={required.includes(field)}
                onChange={() =>
                  set({
                    required: required.includes(field)
                      ? required.filter((one) => one !== field)
                      : [...required, field],
                  })
                }
              />
              {name}
            </label>
          ))}
        </div>
      </fieldset>
    </div>
  );
}
