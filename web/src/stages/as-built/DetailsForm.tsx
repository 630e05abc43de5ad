import type { AsBuiltDetails } from "../../api/schema";
import { Button } from "../../ui/Button";
import { AreaInput, Form, TextInput, useDraftForm } from "../../ui/form";

type Written = Required<Omit<AsBuiltDetails, "built_on">> & { built_on: string };

const draftOf = (stored: AsBuiltDetails): Written => ({
  built_on: stored.built_on ?? "",
  built_by: stored.built_by ?? "",
  address: stored.address ?? "",
  account: stored.account ?? "",
  serials: stored.serials ?? "",
  cable_route: stored.cable_route ?? "",
  joints: stored.joints ?? "",
  grounding: stored.grounding ?? "",
  remarks: stored.remarks ?? "",
});

/** What only the person who built it knows. */
export function DetailsForm({
  draft,
  details,
  submit,
  save,
  onCancel,
}: {
  draft: string;
  details: AsBuiltDetails;
  /** What the button says. */
  submit: string;
  save: (details: AsBuiltDetails, seen: AsBuiltDetails | undefined) => Promise<unknown>;
  onCancel?: (() => void) | undefined;
}) {
  const form = useDraftForm<Written, AsBuiltDetails>({
    draft,
    initial: draftOf(details),
    stored: details,
    draftOf,
    save: async (written, seen) => {
      await save({ ...written, built_on: written.built_on === "" ? null : written.built_on }, seen);
      return undefined;
    },
  });
  return (
    <Form
      of={form}
      label="Details of the sheet"
      className="mt-4 grid gap-x-5 gap-y-4 sm:grid-cols-2"
      buttons={
        <p className="flex flex-wrap gap-3 sm:col-span-2">
          <Button type="submit" look="filled" disabled={form.busy}>
            {submit}
          </Button>
          {onCancel && (
            <Button
              onClick={() => {
                form.discard();
                onCancel();
              }}
            >
              Cancel
            </Button>
          )}
        </p>
      }
    >
      <AreaInput
        of={form}
        name="cable_route"
        at="/cable_route"
        label="Cable route"
        hint="For example: along the gable to the bathroom window, drip loop below it, behind the wardrobe to the gateway"
      />
      <AreaInput
        of={form}
        name="joints"
        at="/joints"
        label="Joints and weatherproofing"
        hint="For example: two N joints at the antenna, self-amalgamating tape with vinyl tape over it"
      />
      <AreaInput
        of={form}
        name="grounding"
        at="/grounding"
        label="Grounding and surge protection"
        hint="For example: mast bonded to the main earthing bar by an electrician, arrestor in each lead"
      />
      <AreaInput of={form} name="remarks" at="/remarks" label="Remarks" />
      <TextInput of={form} name="built_on" label="Built on" type="date" />
      <TextInput of={form} name="built_by" at="/built_by" label="Built by (private)" />
      <AreaInput of={form} name="address" at="/address" label="Address (private)" />
      <AreaInput
        of={form}
        name="serials"
        at="/serials"
        label="Serial numbers, one a line (private)"
        hint="For example: gateway 12345"
      />
      <AreaInput of={form} name="account" at="/account" label="Plan and account (private)" />
    </Form>
  );
}
