import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { Choice, GeoPoint, SurveySettings, SurveyView } from "../../api/schema";
import { useSaveSettings, useSiteId } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { ChoiceField } from "../../ui/Field";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { useKits } from "../kit/queries";
import { Section, StageHeader } from "../StageHeader";
import { Backdrops } from "./Backdrops";
import { Masts } from "./Masts";
import { Matches } from "./Matches";
import { Obstacles } from "./Obstacles";
import { PathPanel } from "./PathPanel";
import { type PlanMode, PlanView, type RasterShown } from "./PlanView";
import { useSurvey } from "./queries";
import { Ranking } from "./Ranking";
import { RasterBar } from "./RasterBar";
import { Terrain } from "./Terrain";
import { CLUTTERS, MATERIALS, NEXT } from "./words";

/** The choice that the address names, else the best. */
function chosenOf(view: SurveyView, path: string | undefined): Choice | undefined {
  const [position, mast] = (path ?? "").split("~");
  const same = (one: Choice) => one.position_id === position && one.mast_id === mast;
  return view.ranking.choices.find(same) ?? view.ranking.choices[0];
}

/** Which masts, what is in the way, where the antenna should stand and point. */
export default function SurveyStage() {
  const siteId = useSiteId();
  const site = useSite(siteId).data;
  const survey = useSurvey(siteId);
  const { path, height } = useSearch({ from: "/sites/$siteId" });
  const navigate = useNavigate();
  const [mode, setMode] = useState<PlanMode>("look");
  const [drawn, setDrawn] = useState<GeoPoint[]>([]);
  const [raster, setRaster] = useState<RasterShown>();
  if (survey.isError && !survey.data)
    return (
      <p role="alert" className="font-semibold text-starved">
        {survey.error.message}
      </p>
    );
  if (!site || !survey.data) return null;
  const view = survey.data;
  const units = site.settings.units ?? "metric";
  const chosen = chosenOf(view, path);
  const choose = (one: Choice) =>
    void navigate({
      to: ".",
      search: (before) => ({
        ...before,
        path: `${one.position_id}~${one.mast_id}`,
        height: one.raised_m > 0 ? String(one.height_m) : undefined,
      }),
      resetScroll: false,
    });
  const tried = height !== undefined && Number(height) > 0 ? Number(height) : undefined;
  return (
    <>
      <StageHeader title={view.title} detail={view.reason ?? undefined} />
      {[...view.sensitivity, ...view.calibration].map((text) => (
        <p key={text} className="mt-1 max-w-3xl text-muted">
          {text}
        </p>
      ))}
      {chosen && <MountChoice siteId={siteId} choice={chosen} height={tried} />}
      {view.next.length > 0 && (
        <ul aria-label="What would make it surer" className="mt-4 flex flex-col gap-1">
          {view.next.map((step) => (
            <li key={step} className="border-l-4 border-lamp pl-3">
              <a href={NEXT[step].href} className="font-semibold text-action underline underline-offset-4">
                {NEXT[step].text}
              </a>
            </li>
          ))}
        </ul>
      )}
      <section aria-label="Plan" id="plan" className="mt-5">
        <PlanView
          siteId={siteId}
          view={view}
          positions={site.positions.filter((node) => !node.position.archived_at).map((node) => node.position)}
          chosen={chosen}
          mode={mode}
          drawn={drawn}
          onDraw={setDrawn}
          onChoose={(position, mast) => {
            const one = view.ranking.choices.find(
              (choice) => choice.position_id === position && choice.mast_id === mast,
            );
            if (one) choose(one);
          }}
          raster={raster}
          units={units}
        />
        <RasterBar siteId={siteId} view={view} chosen={chosen} onShown={setRaster} />
      </section>
      {chosen && (
        <PathPanel
          siteId={siteId}
          choice={chosen}
          height={tried}
          units={units}
          onHeight={(metres) =>
            void navigate({
              to: ".",
              search: (before) => ({ ...before, height: metres === undefined ? undefined : String(metres) }),
              replace: true,
              resetScroll: false,
            })
          }
        />
      )}
      {view.ranking.choices.length > 0 && (
        <Ranking view={view} chosen={chosen} onChoose={choose} units={units} />
      )}
      <Assumptions siteId={siteId} view={view} />
      <Masts siteId={siteId} view={view} units={units} network={site.settings.network ?? ""} />
      {view.matches.length > 0 && <Matches view={view} />}
      <Obstacles
        siteId={siteId}
        view={view}
        units={units}
        mode={mode}
        onMode={(next) => {
          setMode(next);
          setDrawn([]);
        }}
        drawn={drawn}
        onDrawn={setDrawn}
      />
      <Terrain siteId={siteId} view={view} units={units} />
      <Backdrops
        siteId={siteId}
        view={view}
        drawn={drawn}
        placing={mode === "tie"}
        onPlacing={(on) => {
          setMode(on ? "tie" : "look");
          setDrawn([]);
        }}
      />
    </>
  );
}

/** One press carries the choice on: it becomes the setup to mount, with its bearing, tilt, height and kit. */
function MountChoice({
  siteId,
  choice,
  height,
}: {
  siteId: string;
  choice: Choice;
  height: number | undefined;
}) {
  const navigate = useNavigate();
  const notice = useNotice();
  const ranked = height === undefined || Math.abs(height - choice.height_m) < 0.05;
  const mount = useAction(siteId, async () => {
    const body = {
      id: newId(),
      position_id: choice.position_id,
      mast_id: choice.mast_id,
      height_m: choice.height_m,
    };
    const made = await answered(
      api.POST("/api/sites/{id}/survey/mount", { params: { path: { id: siteId } }, body }),
    );
    refresh(siteId);
    notice(`${made.label} is the setup to mount.`);
    await navigate({ to: "/sites/$siteId/mount", params: { siteId }, search: { setup: made.setup.id } });
  });
  return (
    <p className="mt-4 flex flex-wrap items-center gap-3">
      <Button look="filled" disabled={mount.busy} onClick={() => mount.run()}>
        Mount {choice.position} towards {choice.mast}
      </Button>
      {!ranked && (
        <span className="text-sm text-muted">
          At its ranked height; change the height of the setup afterwards if you want another.
        </span>
      )}
    </p>
  );
}

/** The antenna that predictions are made with. */
function Assumptions({ siteId, view }: { siteId: string; view: SurveyView }) {
  const kits = useKits(siteId).data;
  const site = useSite(siteId).data;
  const store = useSaveSettings(site);
  const save = (part: Partial<SurveySettings>) => store({ survey: { ...view.settings, ...part } });
  if (!kits || !site) return null;
  const choices: [string, string][] = [
    ["", "Outdoor panel of the assumptions"],
    ...kits.kits
      .filter((one) => !one.kit.archived_at)
      .map((one): [string, string] => [one.kit.id, one.kit.name]),
  ];
  return (
    <Section title="What this assumes">
      <div className="grid max-w-3xl gap-4 sm:grid-cols-2">
        <ChoiceField
          label="Antenna and gateway"
          hint="Its gain, pattern and bands go into every figure above."
          value={view.settings.kit_id ?? ""}
          choices={choices}
          onChange={(kit) => save({ kit_id: kit === "" ? null : kit })}
        />
        <ChoiceField
          label="What stands round the house and is not drawn"
          hint="Left out where trees or buildings are drawn near."
          value={view.settings.clutter ?? ""}
          choices={CLUTTERS}
          onChange={(clutter) => save({ clutter: clutter === "" ? null : clutter })}
        />
        <ChoiceField
          label="Roof over the attic"
          value={view.settings.roof ?? ""}
          choices={MATERIALS}
          onChange={(roof) => save({ roof: roof === "" ? null : roof })}
        />
        <ChoiceField
          label="Walls of the house"
          hint="For positions inside, and for the house as a screen."
          value={view.settings.wall ?? ""}
          choices={MATERIALS}
          onChange={(wall) => save({ wall: wall === "" ? null : wall })}
        />
      </div>
    </Section>
  );
}
