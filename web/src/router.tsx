import { createRootRoute, createRoute, createRouter, redirect } from "@tanstack/react-router";
import { lazy, Suspense } from "react";
import { Shell } from "./shell/Shell";
import { AsBuiltPage } from "./stages/as-built/AsBuiltPage";
import { UndoPage } from "./stages/bands/UndoPage";
import { BaselineStage } from "./stages/baseline/BaselineStage";
import { CataloguePage } from "./stages/kit/catalogue/CataloguePage";
import { JobCardPage } from "./stages/kit/JobCardPage";
import { KitStage } from "./stages/kit/KitStage";
import { LogStage } from "./stages/log/LogStage";
import { MountStage } from "./stages/mount/MountStage";
import { SettingsPage } from "./stages/settings/SettingsPage";
import { ImportPage } from "./stages/sites/ImportPage";
import { NewSitePage } from "./stages/sites/NewSitePage";
import { SitesPage } from "./stages/sites/SitesPage";
import { AimCardPage } from "./stages/survey/AimCardPage";
import { VerdictStage } from "./stages/verdict/VerdictStage";

/** What a stage shows stands in the address, so that it can be kept and sent. */
export interface StageSearch {
  setup?: string;
  baseline?: string;
  setups?: string;
  figure?: string;
  network?: string;
  carrier?: string;
  kit?: string;
  /** Position and mast of the path that is looked at, and the height tried. */
  path?: string;
  height?: string;
  /** The sweep that is looked at. */
  sweep?: string;
  /** The part of the day that trials are looked at in. */
  part?: string;
  /** What comes first in the verdict once the need is met. */
  weighing?: string;
}

const text = (value: unknown): string | undefined =>
  typeof value === "string" && value !== "" ? value : undefined;

const root = createRootRoute({ notFoundComponent: () => <SitesPage /> });
const sites = createRoute({ getParentRoute: () => root, path: "/", component: SitesPage });
const newSite = createRoute({ getParentRoute: () => root, path: "/new", component: NewSitePage });
const importSite = createRoute({ getParentRoute: () => root, path: "/import", component: ImportPage });
const site = createRoute({
  getParentRoute: () => root,
  path: "/sites/$siteId",
  component: Shell,
  validateSearch: (search: Record<string, unknown>): StageSearch => ({
    setup: text(search.setup),
    baseline: text(search.baseline),
    // An empty list is a choice too: the baseline alone.
    setups: typeof search.setups === "string" ? search.setups : undefined,
    figure: text(search.figure),
    network: typeof search.network === "string" ? search.network : undefined,
    carrier: text(search.carrier),
    kit: text(search.kit),
    path: text(search.path),
    height: text(search.height),
    sweep: text(search.sweep),
    part: text(search.part),
    weighing: text(search.weighing),
  }),
});
const start = createRoute({
  getParentRoute: () => site,
  path: "/",
  beforeLoad: ({ params }) => {
    throw redirect({ to: "/sites/$siteId/log", params });
  },
});
const baseline = createRoute({ getParentRoute: () => site, path: "/baseline", component: BaselineStage });
const kit = createRoute({ getParentRoute: () => site, path: "/kit", component: KitStage });
const catalogue = createRoute({ getParentRoute: () => site, path: "/catalogue", component: CataloguePage });
const jobCard = createRoute({
  getParentRoute: () => root,
  path: "/sites/$siteId/job-card/$kitId",
  component: JobCardPage,
});
const asBuilt = createRoute({
  getParentRoute: () => root,
  path: "/sites/$siteId/as-built",
  component: AsBuiltPage,
  validateSearch: (search: Record<string, unknown>): { sheet?: string; share?: string } => ({
    sheet: text(search.sheet),
    share: text(search.share),
  }),
});
// Its map library is fetched only where the plan is looked at.
const SurveyStage = lazy(() => import("./stages/survey/SurveyStage"));
const survey = createRoute({
  getParentRoute: () => site,
  path: "/survey",
  component: () => (
    <Suspense fallback={<p className="text-lg text-muted">The plan is being fetched…</p>}>
      <SurveyStage />
    </Suspense>
  ),
});
const aimCard = createRoute({
  getParentRoute: () => root,
  path: "/sites/$siteId/aim/$positionId/$mastId",
  component: AimCardPage,
  validateSearch: (search: Record<string, unknown>): { height?: string } => ({
    height: text(String(search.height ?? "")),
  }),
});
const mount = createRoute({ getParentRoute: () => site, path: "/mount", component: MountStage });
const AimStage = lazy(() => import("./stages/aim/AimStage"));
const aim = createRoute({
  getParentRoute: () => site,
  path: "/aim",
  component: () => (
    <Suspense fallback={<p className="text-lg text-muted">A moment…</p>}>
      <AimStage />
    </Suspense>
  ),
});
const BandsStage = lazy(() => import("./stages/bands/BandsStage"));
const bands = createRoute({
  getParentRoute: () => site,
  path: "/bands",
  component: () => (
    <Suspense fallback={<p className="text-lg text-muted">A moment…</p>}>
      <BandsStage />
    </Suspense>
  ),
});
const undo = createRoute({ getParentRoute: () => root, path: "/sites/$siteId/undo", component: UndoPage });
const roof = createRoute({ getParentRoute: () => site, path: "/roof", component: () => null });
const log = createRoute({ getParentRoute: () => site, path: "/log", component: LogStage });
const verdict = createRoute({ getParentRoute: () => site, path: "/verdict", component: VerdictStage });
const GatewayPage = lazy(() => import("./stages/settings/gateway/GatewayPage"));
const gateway = createRoute({
  getParentRoute: () => site,
  path: "/gateway",
  component: () => (
    <Suspense fallback={<p className="text-lg text-muted">A moment…</p>}>
      <GatewayPage />
    </Suspense>
  ),
});
const PairPage = lazy(() => import("./stages/roof/PairPage"));
const pair = createRoute({
  getParentRoute: () => root,
  path: "/pair",
  component: () => (
    <Suspense fallback={null}>
      <PairPage />
    </Suspense>
  ),
});
const settings = createRoute({ getParentRoute: () => site, path: "/settings", component: SettingsPage });

export const router = createRouter({
  routeTree: root.addChildren([
    sites,
    newSite,
    importSite,
    jobCard,
    asBuilt,
    aimCard,
    undo,
    pair,
    site.addChildren([
      start,
      baseline,
      kit,
      catalogue,
      survey,
      mount,
      aim,
      bands,
      log,
      verdict,
      settings,
      gateway,
      roof,
    ]),
  ]),
  defaultPreload: "intent",
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
