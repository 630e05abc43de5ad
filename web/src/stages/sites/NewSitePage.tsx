import { Link, useNavigate } from "@tanstack/react-router";
import { answered, api, newId } from "../../api/client";
import { keys, queryClient, useSites } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Form, TextInput, useDraftForm } from "../../ui/form";
import { placeOf } from "./coordinates";
import { Page } from "./Page";
import { PlaceInputs } from "./PlaceInputs";
import { Rehearse } from "./Rehearse";

const EMPTY = { id: "", name: "", latitude: "", longitude: "" };

/** First run, and every further site: a name, and a place if known. */
export function NewSitePage() {
  const navigate = useNavigate();
  const first = useSites().data?.length === 0;
  const save = async (draft: typeof EMPTY) => {
    // The same identifier at each try: what was stored before the answer was lost is not stored twice.
    const id = draft.id || newId();
    form.set({ id });
    try {
      const time_zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
      const body = { id, name: draft.name, place: placeOf(draft), time_zone, notes: "" };
      await answered(api.POST("/api/sites", { body }));
    } catch (failed) {
      // Another body under the same identifier would be refused: a corrected form is a new thing.
      form.set({ id: "" });
      throw failed;
    }
    await queryClient.invalidateQueries({ queryKey: keys.sites });
    await navigate({ to: "/sites/$siteId/settings", params: { siteId: id } });
  };
  const form = useDraftForm({ draft: "new-site", initial: EMPTY, save });

  return (
    <Page
      title={first ? "Which house is this about?" : "A new site"}
      lead="A name is enough to begin. The place helps later with bearings and masts."
    >
      <Form
        of={form}
        className="mt-8 flex flex-col gap-5"
        buttons={
          <div className="flex flex-wrap items-center gap-4">
            <Button type="submit" look="filled">
              Begin
            </Button>
            <Link to="/import" className="font-semibold text-action underline">
              Import a site instead
            </Link>
          </div>
        }
      >
        <TextInput of={form} name="name" at="/name" label="Name of the site" autoFocus />
        <div className="grid gap-4 sm:grid-cols-2">
          <PlaceInputs of={form} optional hints />
        </div>
      </Form>
      <Rehearse />
    </Page>
  );
}
