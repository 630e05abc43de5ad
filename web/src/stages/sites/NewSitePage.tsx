import { Link, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { type ApiError, answered, api, newId } from "../../api/client";
import { keys, queryClient, useSites } from "../../api/queries";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useDraft } from "../../ui/useDraft";
import { readPlace } from "./coordinates";
import { Page } from "./Page";
import { Rehearse } from "./Rehearse";

const EMPTY = { id: "", name: "", latitude: "", longitude: "" };

/** First run, and every further site: a name, and a place if known. */
export function NewSitePage() {
  const navigate = useNavigate();
  const first = useSites().data?.length === 0;
  const [draft, change, clear] = useDraft("new-site", EMPTY);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const [placeError, setPlaceError] = useState<string>();

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const { place, error } = readPlace(draft);
    setPlaceError(error);
    if (error) return;
    const id = draft.id || newId();
    change({ ...draft, id });
    try {
      const time_zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
      await answered(api.POST("/api/sites", { body: { id, name: draft.name, place, time_zone, notes: "" } }));
      clear();
      await queryClient.invalidateQueries({ queryKey: keys.sites });
      await navigate({ to: "/sites/$siteId/settings", params: { siteId: id } });
    } catch (failed) {
      // Another body under the same identifier would be refused: a corrected form is a new thing.
      change({ ...draft, id: "" });
      setProblem(failed as ApiError);
    }
  };

  return (
    <Page
      title={first ? "Which house is this about?" : "A new site"}
      lead="A name is enough to begin. The place helps later with bearings and masts."
    >
      <form onSubmit={(event) => void save(event)} className="mt-8 flex flex-col gap-5" noValidate>
        <TextField
          label="Name of the site"
          value={draft.name}
          onChange={(name) => change({ ...draft, name })}
          error={problem?.field("/name")}
          autoFocus
        />
        <div className="grid gap-4 sm:grid-cols-2">
          <TextField
            label="Latitude (optional)"
            hint="Degrees, north positive"
            value={draft.latitude}
            onChange={(latitude) => change({ ...draft, latitude })}
            error={placeError ?? problem?.field("/place")}
          />
          <TextField
            label="Longitude (optional)"
            hint="Degrees, east positive"
            value={draft.longitude}
            onChange={(longitude) => change({ ...draft, longitude })}
          />
        </div>
        {problem && problem.problem.errors.length === 0 && (
          <p role="alert" className="font-semibold text-starved">
            {problem.message}
          </p>
        )}
        <div className="flex flex-wrap items-center gap-4">
          <Button type="submit" look="filled">
            Begin
          </Button>
          <Link to="/import" className="font-semibold text-action underline">
            Import a site instead
          </Link>
        </div>
      </form>
      <Rehearse />
    </Page>
  );
}
