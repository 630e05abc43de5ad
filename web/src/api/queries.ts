import { QueryClient, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { answered, api } from "./client";
import type { Changed, JobState, LinkView, paths, SiteView, Weighing } from "./schema";

export const queryClient = new QueryClient({
  defaultOptions: {
    // The server is on this computer or in this house: it is asked with no network beyond it, too.
    queries: { networkMode: "always", retry: 1, staleTime: 10_000, refetchOnWindowFocus: false },
    mutations: { networkMode: "always" },
  },
});

export const keys = {
  sites: ["sites"] as const,
  site: (id: string) => ["site", id] as const,
  link: (id: string) => ["link", id] as const,
  job: (id: string) => ["job", id] as const,
  measuring: (id: string) => ["measuring", id] as const,
  log: (setup: string) => ["log", setup] as const,
  run: (id: string) => ["run", id] as const,
  baseline: (id: string, network: string | undefined) => ["baseline", id, network ?? null] as const,
  compare: (id: string, choice: object) => ["compare", id, choice] as const,
  preflight: (setup: string) => ["preflight", setup] as const,
  worklist: (id: string) => ["worklist", id] as const,
  testPlan: (id: string) => ["testPlan", id] as const,
  timeline: (id: string, filter: object) => ["timeline", id, filter] as const,
  overTime: (id: string, asked: object) => ["overTime", id, asked] as const,
  setupOutlook: (id: string, setup: string) => ["setupOutlook", id, setup] as const,
  track: (id: string) => ["track", id] as const,
  tracks: ["tracks"] as const,
  standIn: (id: string) => ["standIn", id] as const,
  kits: (id: string) => ["kits", id] as const,
  catalogue: ["catalogue"] as const,
  tried: (id: string, spec: object) => ["tried", id, spec] as const,
  survey: (id: string) => ["survey", id] as const,
  path: (id: string, asked: object) => ["path", id, asked] as const,
  bands: (id: string) => ["bands", id] as const,
  sweeps: (id: string) => ["sweeps", id] as const,
  sweep: (id: string, sweep: string) => ["sweep", id, sweep] as const,
  jobCard: (id: string) => ["jobCard", id] as const,
  sheets: (id: string) => ["sheets", id] as const,
  diagnosis: (id: string, setup: string) => ["diagnosis", id, setup] as const,
  gatewayPlace: (id: string, setup: string) => ["gatewayPlace", id, setup] as const,
  nearBest: (id: string) => ["nearBest", id] as const,
  asBuilt: (id: string, asked: object) => ["asBuilt", id, asked] as const,
};

/** What a phone keeps of its last look, so that the screen is not empty while the server is out of reach. */
const KEPT = new Set(["site", "sweeps", "sweep"]);
const place = (key: readonly unknown[]) => `last:${key.join("/")}`;

queryClient.getQueryCache().subscribe(({ type, query }) => {
  if (type !== "updated" || !KEPT.has(String(query.queryKey[0])) || query.state.data === undefined) return;
  try {
    const { data, dataUpdatedAt } = query.state;
    localStorage.setItem(place(query.queryKey), JSON.stringify({ data, dataUpdatedAt }));
  } catch {
    // Without storage the last look lives as long as the page.
  }
});

/** The last look at something, with its age, for a query to begin with. */
export function lastLook<T>(key: readonly unknown[]): { initialData?: T; initialDataUpdatedAt?: number } {
  try {
    const text = localStorage.getItem(place(key));
    if (text === null) return {};
    const { data, dataUpdatedAt } = JSON.parse(text) as { data: T; dataUpdatedAt: number };
    return { initialData: data, initialDataUpdatedAt: dataUpdatedAt };
  } catch {
    return {};
  }
}

/** What was being asked for when a change was told: asked once more when the answer is here. */
const again = new Set<string>();
const PAUSE_MS = 250;

/**
 * Asks anew for what a change touches. An answer under way is waited for, not called off: where changes come faster
 * than answers, as during a round of tests, none would ever be shown.
 */
export function askAgain(queryKey: readonly unknown[]): void {
  const cache = queryClient.getQueryCache();
  for (const query of cache.findAll({ queryKey, fetchStatus: "fetching" })) again.add(query.queryHash);
  void queryClient.invalidateQueries({ queryKey }, { cancelRefetch: false });
}

queryClient.getQueryCache().subscribe((event) => {
  const ended =
    event.type === "updated" && (event.action.type === "success" || event.action.type === "error");
  if (!ended || !again.delete(event.query.queryHash)) return;
  setTimeout(() => askAgain(event.query.queryKey), PAUSE_MS);
});

/** What can change: what the event stream tells apart, and the catalogue, which is of no site. */
type Part = Changed["of"] | "catalogue";

/**
 * What each kind of answer rests on: it is asked for again when that changes, and when anything of the site may have.
 * Nothing: the event stream brings it, or it is asked again and again by itself.
 */
export const RESTS_ON: Record<keyof typeof keys, readonly Part[]> = {
  sites: ["everything"],
  site: ["everything", "setups", "record", "bands"],
  link: [],
  job: [],
  measuring: [],
  log: ["everything", "setups", "record", "bands"],
  run: ["everything", "record"],
  baseline: ["everything", "setups", "record"],
  compare: ["everything", "setups", "record", "bands", "timeline"],
  preflight: ["everything", "setups", "record", "bands", "timeline"],
  worklist: ["everything", "setups", "record", "bands"],
  testPlan: ["everything", "setups", "record", "bands"],
  timeline: ["everything", "setups", "record", "sweep", "bands", "timeline"],
  overTime: ["everything", "record", "bands", "timeline"],
  setupOutlook: ["everything", "setups", "record", "catalogue"],
  track: ["everything", "setups", "record", "catalogue"],
  tracks: ["everything", "setups", "record", "catalogue"],
  standIn: ["everything", "setups"],
  // The kit in use is the setup's, and the survey and its paths are worked out with it.
  kits: ["everything", "setups", "record", "catalogue"],
  catalogue: ["catalogue"],
  tried: ["everything", "catalogue"],
  survey: ["everything", "setups", "catalogue"],
  path: ["everything", "setups", "catalogue"],
  bands: ["everything", "setups", "record", "bands"],
  sweeps: ["everything", "setups", "sweep"],
  sweep: ["everything", "setups", "sweep"],
  jobCard: ["everything", "setups", "catalogue"],
  sheets: ["everything", "setups", "record"],
  diagnosis: ["everything", "setups", "record", "catalogue"],
  gatewayPlace: ["everything", "setups", "record", "catalogue"],
  nearBest: ["everything", "setups", "record", "catalogue"],
  asBuilt: ["everything", "setups", "record", "catalogue"],
};

/** Kinds of answer whose key does not begin with the site: all of them are asked for. */
const OF_NO_SITE = new Set<string>(["sites", "log", "run", "preflight", "catalogue", "jobCard", "tracks"]);

/** What a change touches: only that is asked for again. */
export function refreshPart(siteId: string, change: { of: Part }): void {
  for (const [kind, parts] of Object.entries(RESTS_ON))
    if (parts.includes(change.of)) askAgain(OF_NO_SITE.has(kind) ? [kind] : [kind, siteId]);
}

/** Everything that may look different after something stored has changed. */
export const refresh = (siteId: string): void => refreshPart(siteId, { of: "everything" });

/** After the catalogue has changed, kits of every site look different too. */
export function catalogueChanged(): void {
  for (const [kind, parts] of Object.entries(RESTS_ON)) if (parts.includes("catalogue")) askAgain([kind]);
}

export const useSites = () =>
  useQuery({ queryKey: keys.sites, queryFn: () => answered(api.GET("/api/sites")) });

export const useSite = (id: string) =>
  useQuery({
    queryKey: keys.site(id),
    ...lastLook<SiteView>(keys.site(id)),
    queryFn: () => answered(api.GET("/api/sites/{id}", { params: { path: { id } } })),
  });

/** What the gateway hears; filled by the event stream. */
export const useLink = (id: string) =>
  useQuery<LinkView | null>({
    queryKey: keys.link(id),
    queryFn: () => null,
    enabled: false,
    initialData: null,
  });

/** What is being measured at a site and how far it is; asked again and again, for the end is not told. */
export const useMeasuringNow = (id: string) =>
  useQuery({
    queryKey: keys.measuring(id),
    queryFn: () => answered(api.GET("/api/sites/{id}/measuring", { params: { path: { id } } })),
    refetchInterval: 3000,
  });

/** The site's running or last job; kept up to date by the event stream. */
export const useJob = (id: string) =>
  useQuery<JobState | null>({
    queryKey: keys.job(id),
    queryFn: async () =>
      (await answered(api.GET("/api/sites/{id}/job", { params: { path: { id } } }))) ?? null,
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useLog = (setup: string | undefined) =>
  useQuery({
    queryKey: keys.log(setup ?? ""),
    enabled: setup !== undefined,
    queryFn: () => answered(api.GET("/api/setups/{id}/log", { params: { path: { id: setup ?? "" } } })),
  });

/** What to know before a run on a setup. */
export const usePreflight = (setup: string | undefined) =>
  useQuery({
    queryKey: keys.preflight(setup ?? ""),
    enabled: setup !== undefined,
    queryFn: () => answered(api.GET("/api/setups/{id}/preflight", { params: { path: { id: setup ?? "" } } })),
  });

export const useWorklist = (id: string) =>
  useQuery({
    queryKey: keys.worklist(id),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/sites/{id}/worklist", { params: { path: { id } } })),
    // What comes next depends on the hour.
    refetchInterval: 300_000,
  });

/** Which setups to test, in which order, how often and when; and the sitting that is open. */
export const useTestPlan = (id: string) =>
  useQuery({
    queryKey: keys.testPlan(id),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/sites/{id}/test-plan", { params: { path: { id } } })),
    // Visits that were not made are due anew, and a sitting closes by itself.
    refetchInterval: 60_000,
  });

/** Which rows of the time line are shown. */
export type TimelineFilter = Omit<
  NonNullable<paths["/api/sites/{id}/timeline"]["get"]["parameters"]["query"]>,
  "before" | "limit"
>;

/** Rows of the time line that are shown at first, and more with each press. */
const TIMELINE_PAGE = 12;

export const useTimeline = (id: string, filter: TimelineFilter) =>
  useInfiniteQuery({
    queryKey: keys.timeline(id, filter),
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam: before }) =>
      answered(
        api.GET("/api/sites/{id}/timeline", {
          params: {
            path: { id },
            query: { ...filter, limit: TIMELINE_PAGE, ...(before === undefined ? {} : { before }) },
          },
        }),
      ),
    getNextPageParam: (page) => page.before ?? undefined,
  });

export const useOverTime = (
  id: string,
  query: NonNullable<paths["/api/sites/{id}/over-time"]["get"]["parameters"]["query"]>,
) =>
  useQuery({
    queryKey: keys.overTime(id, query),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/sites/{id}/over-time", { params: { path: { id }, query } })),
  });

export const useRun = (id: string, enabled: boolean) =>
  useQuery({
    queryKey: keys.run(id),
    enabled,
    queryFn: () => answered(api.GET("/api/runs/{id}", { params: { path: { id } } })),
  });

export const useComparison = (
  id: string,
  choice: { baseline?: string | undefined; setups?: string | undefined; weighing?: Weighing | undefined },
) =>
  useQuery({
    queryKey: keys.compare(id, choice),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/sites/{id}/compare", { params: { path: { id }, query: choice } })),
  });

export const useSetupOutlook = (id: string, setup: string) =>
  useQuery({
    queryKey: keys.setupOutlook(id, setup),
    queryFn: () => answered(api.GET("/api/setups/{id}/outlook", { params: { path: { id: setup } } })),
  });

export const useTrackRecord = (id: string) =>
  useQuery({
    queryKey: keys.track(id),
    queryFn: () => answered(api.GET("/api/sites/{id}/track-record", { params: { path: { id } } })),
  });

export const useTrackRecords = (enabled: boolean) =>
  useQuery({ queryKey: keys.tracks, enabled, queryFn: () => answered(api.GET("/api/track-record")) });

export const useBaseline = (id: string, network: string | undefined) =>
  useQuery({
    queryKey: keys.baseline(id, network),
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.GET("/api/sites/{id}/baseline", {
          params: { path: { id }, query: network === undefined ? {} : { network } },
        }),
      ),
  });

export const useStandIn = (id: string, enabled: boolean) =>
  useQuery({
    queryKey: keys.standIn(id),
    enabled,
    queryFn: () => answered(api.GET("/api/sites/{id}/stand-in", { params: { path: { id } } })),
  });
