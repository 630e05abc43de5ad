import type { RepeatSettings, SiteView } from "../../../api/schema";
import { saveSettings } from "../../../shell/useSiteContext";
import { ChoiceField } from "../../../ui/Field";
import { StoredNumber } from "../../../ui/StoredNumber";
import { useAction } from "../../../ui/useAction";
import { protocolOf } from "./protocol";

/** Hours that are no part of a day wander through it: after a week every hour was tested. */
const EVERY: readonly (readonly [string, string])[] = [
  ["1", "hour"],
  ["3", "3 hours"],
  ["5", "5 hours"],
  ["11", "11 hours"],
  ["23", "23 hours"],
];
const TESTS: readonly (readonly [string, string])[] = [
  ["1", "1 test"],
  ["2", "2 tests"],
  ["3", "3 tests"],
];

/** The choices, and what is stored where it is none of them. */
const withOwn = (choices: typeof EVERY, own: string, words: string) =>
  choices.some(([value]) => value === own) ? choices : [...choices, [own, words] as const];

/** Tests that the program runs by itself, with the antenna as it stands. */
export function Repeats({ view }: { view: SiteView }) {
  const siteId = view.site.id;
  const protocol = protocolOf(view);
  const { repeats } = protocol;
  const store = (part: Partial<RepeatSettings>) =>
    saveSettings(view, { protocol: { ...protocol, repeats: { ...repeats, ...part } } });
  const change = useAction(siteId, store);
  return (
    <div className="mt-2 flex max-w-xl flex-col gap-3">
      <label className="flex min-h-11 items-center gap-3 font-semibold">
        <input
          type="checkbox"
          className="size-5 shrink-0 accent-(--action)"
          checked={repeats.on}
          disabled={change.busy}
          onChange={(event) => change.run({ on: event.target.checked })}
        />
        Run tests while the program runs
      </label>
      <p className="text-sm text-muted">
        With the antenna as it stands, for hours at which nobody is there. It waits while a sitting is open,
        while this computer uses the line, and when the month’s data is used up.
      </p>
      {repeats.on && (
        <>
          <ChoiceField
            label="Every"
            value={String(repeats.every_h)}
            choices={withOwn(EVERY, String(repeats.every_h), `${repeats.every_h} hours`)}
            onChange={(every) => change.run({ every_h: Number(every) })}
          />
          <ChoiceField
            label="Each time"
            value={String(repeats.tests)}
            choices={withOwn(TESTS, String(repeats.tests), `${repeats.tests} tests`)}
            onChange={(tests) => change.run({ tests: Number(tests) })}
          />
          <StoredNumber
            label="Data of all tests in a month, MB"
            hint="No test begins that may pass it"
            value={repeats.monthly_mb}
            low={50}
            onSave={(monthly) => store({ monthly_mb: monthly ?? repeats.monthly_mb })}
          />
        </>
      )}
    </div>
  );
}
