import type { FieldPath, FieldValues } from "react-hook-form";
import { type DraftForm, TextInput } from "../../ui/form";
import { type PlaceText, readPlace } from "./coordinates";

/** Latitude and longitude: both or none, told beside the first. */
export function PlaceInputs<D extends FieldValues & PlaceText>({
  of,
  optional = false,
  hints = false,
}: {
  of: DraftForm<D>;
  optional?: boolean;
  /** Says which way is positive. */
  hints?: boolean;
}) {
  const label = (name: string) => (optional ? `${name} (optional)` : name);
  return (
    <>
      <TextInput
        of={of}
        name={"latitude" as FieldPath<D>}
        at="/place"
        label={label("Latitude")}
        hint={hints ? "Degrees, north positive" : undefined}
        check={() => readPlace(of.form.getValues()).error}
      />
      <TextInput
        of={of}
        name={"longitude" as FieldPath<D>}
        label={label("Longitude")}
        hint={hints ? "Degrees, east positive" : undefined}
      />
    </>
  );
}
