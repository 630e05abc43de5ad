import "leaflet/dist/leaflet.css";
import L from "leaflet";
import { Fragment, useEffect, useMemo, useState } from "react";
import {
  CircleMarker,
  ImageOverlay,
  MapContainer,
  Marker,
  Pane,
  Polygon,
  Polyline,
  SVGOverlay,
  Tooltip,
  useMap,
  useMapEvents,
} from "react-leaflet";
import type { Choice, GeoPoint, GeoSpan, Obstacle, Position, SurveyView, Units } from "../../api/schema";
import { bearing } from "../../ui/format";
import { distance } from "./words";

/** What a press on the plan does. */
export type PlanMode = "look" | "outline" | "line" | "landmark" | "tie";

/** A finished map of predicted signal. */
export interface RasterShown {
  url: string;
  span: GeoSpan;
}

/** Outlines and lines grow by every press; of a landmark the last counts, of known points the last two. */
function drawnWith(mode: PlanMode, drawn: GeoPoint[], point: GeoPoint): GeoPoint[] {
  if (mode === "landmark") return [point];
  return mode === "tie" ? [...drawn.slice(-1), point] : [...drawn, point];
}

type LatLng = [number, number];
const at = (point: GeoPoint): LatLng => [point.latitude_deg, point.longitude_deg];

const icon = (html: string, size: number) =>
  L.divIcon({ html, className: "plan-mark", iconSize: [size, size], iconAnchor: [size / 2, size / 2] });
const MAST = (on: boolean) =>
  icon(
    `<svg viewBox="0 0 24 24" width="26" height="26" aria-hidden="true"><path d="M12 3 L18 22 H6 Z" fill="${on ? "var(--lamp)" : "var(--surface)"}" stroke="var(--ink)" stroke-width="1.8"/><path d="M6 5 Q12 -1 18 5" fill="none" stroke="var(--ink)" stroke-width="1.8"/></svg>`,
    26,
  );
const LANDMARK = icon(
  `<svg viewBox="0 0 16 16" width="15" height="15" aria-hidden="true"><path d="M8 1 L15 8 L8 15 L1 8 Z" fill="var(--surface)" stroke="var(--structure)" stroke-width="2"/></svg>`,
  15,
);

/** Hill shading and contours of what is in sight, made by the server for exactly this view. */
function Ground({ siteId, stamp }: { siteId: string; stamp: string }) {
  const map = useMap();
  const [shown, setShown] = useState<{ url: string; bounds: L.LatLngBounds }>();
  const draw = useMemo(
    () => () => {
      const bounds = map.getBounds().pad(0.15);
      const size = map.getSize();
      const scale = 1.3;
      const dark = document.documentElement.dataset.theme === "dark";
      const query = new URLSearchParams({
        south_deg: String(Math.max(-84, bounds.getSouth())),
        west_deg: String(bounds.getWest()),
        north_deg: String(Math.min(84, bounds.getNorth())),
        east_deg: String(bounds.getEast()),
        width: String(Math.min(1600, Math.max(16, Math.round(size.x * scale)))),
        height: String(Math.min(1600, Math.max(16, Math.round(size.y * scale)))),
        theme: dark ? "dark" : "light",
        stamp,
      });
      if (bounds.getEast() - bounds.getWest() < 19)
        setShown({ url: `/api/sites/${siteId}/plan.png?${query}`, bounds });
    },
    [map, siteId, stamp],
  );
  useMapEvents({ moveend: draw, resize: draw });
  useEffect(() => {
    draw();
    const watch = new MutationObserver(draw);
    watch.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => watch.disconnect();
  }, [draw]);
  return shown ? <ImageOverlay url={shown.url} bounds={shown.bounds} pane="tilePane" /> : null;
}

function Pressed({ mode, onPoint }: { mode: PlanMode; onPoint: (point: GeoPoint) => void }) {
  const map = useMapEvents({
    click: (event) => {
      if (mode === "look") return;
      const { lat, lng } = event.latlng;
      onPoint({ latitude_deg: lat, longitude_deg: lng });
    },
  });
  useEffect(() => {
    const box = map.getContainer();
    box.setAttribute("role", "region");
    box.setAttribute(
      "aria-label",
      "Plan of house and masts; arrow keys move it, plus and minus bring it nearer or farther",
    );
    box.style.cursor = mode === "look" ? "" : "crosshair";
  }, [map, mode]);
  return null;
}

/** Brings house and mast into view when another path is chosen, or the house alone while drawing. */
function Fit({ points }: { points: LatLng[] }) {
  const map = useMap();
  const key = JSON.stringify(points);
  useEffect(() => {
    const all = JSON.parse(key) as LatLng[];
    if (all.length > 1) map.fitBounds(L.latLngBounds(all).pad(0.15), { animate: false });
    else if (all[0]) map.setView(all[0], 17, { animate: false });
  }, [map, key]);
  return null;
}

function colours({ kind }: Obstacle) {
  const trees = kind.startsWith("trees");
  return {
    color: trees ? "var(--solid)" : "var(--ink)",
    fillColor: trees ? "var(--solid)" : "var(--muted)",
    fillOpacity: trees ? 0.35 : 0.55,
    weight: kind === "house" ? 3 : 1.5,
  };
}

/** The house from above with all that the survey knows: own drawing on the imported terrain, nothing from outside. */
export function PlanView({
  siteId,
  view,
  positions,
  chosen,
  mode,
  drawn,
  onDraw,
  onChoose,
  raster,
  units,
}: {
  siteId: string;
  view: SurveyView;
  positions: Position[];
  chosen: Choice | undefined;
  mode: PlanMode;
  drawn: GeoPoint[];
  onDraw: (points: GeoPoint[]) => void;
  onChoose: (position: string, mast: string) => void;
  raster: RasterShown | undefined;
  units: Units;
}) {
  const house = view.house ?? positions.find((one) => one.place)?.place ?? view.masts[0]?.mast.place;
  const [wide, setWide] = useState(true);
  if (!house)
    return (
      <p className="rounded-lg border border-rule bg-surface p-4">
        The plan needs a place to begin with: give the site its coordinates in the settings, or enter a mast.
      </p>
    );
  const from = positions.find((one) => one.id === chosen?.position_id)?.place ?? house;
  const mast = view.masts.find((one) => one.mast.id === chosen?.mast_id)?.mast;
  const close = mode !== "look" || !wide;
  const fit = close || !mast ? [at(house)] : [at(from), at(mast.place)];
  const stamp = view.tiles.map((tile) => tile.id).join(",");
  return (
    <div className="relative">
      <MapContainer
        center={at(house)}
        zoom={13}
        minZoom={8}
        maxZoom={20}
        zoomSnap={0.5}
        attributionControl={false}
        className="plan h-[24rem] rounded-lg border border-rule"
      >
        <Ground siteId={siteId} stamp={stamp} />
        <Pane name="backdrop" style={{ zIndex: 300 }}>
          {view.backdrops.map(({ backdrop, georeference }) =>
            georeference ? (
              <SVGOverlay
                key={`${backdrop.id}${georeference.turned_deg}${georeference.metres_per_px}${backdrop.opacity}`}
                bounds={[
                  [georeference.span.south_deg, georeference.span.west_deg],
                  [georeference.span.north_deg, georeference.span.east_deg],
                ]}
                attributes={{ viewBox: "0 0 1 1", preserveAspectRatio: "none" }}
              >
                <image
                  href={`/api/backdrops/${backdrop.id}`}
                  width={backdrop.width_px}
                  height={backdrop.height_px}
                  opacity={backdrop.opacity}
                  preserveAspectRatio="none"
                  transform={`matrix(${georeference.a} ${georeference.b} ${georeference.c} ${georeference.d} ${georeference.e} ${georeference.f})`}
                />
              </SVGOverlay>
            ) : null,
          )}
        </Pane>
        {raster && (
          <ImageOverlay
            url={raster.url}
            bounds={[
              [raster.span.south_deg, raster.span.west_deg],
              [raster.span.north_deg, raster.span.east_deg],
            ]}
          />
        )}
        <Fit points={fit} />
        <Pressed mode={mode} onPoint={(point) => onDraw(drawnWith(mode, drawn, point))} />
        {view.obstacles.map((one) => {
          const points = one.outline.map(at);
          const tip = `${one.name}, ${Math.round(one.height_m)} m`;
          return one.width_m == null ? (
            <Polygon key={one.id} positions={points} pathOptions={colours(one)}>
              <Tooltip>{tip}</Tooltip>
            </Polygon>
          ) : (
            <Polyline
              key={one.id}
              positions={points}
              pathOptions={{ ...colours(one), weight: 7, opacity: 0.6 }}
            >
              <Tooltip>{tip}</Tooltip>
            </Polyline>
          );
        })}
        {view.masts.map(({ mast: one, distance_m, bearing_deg }) => {
          const on = one.id === chosen?.mast_id;
          const away =
            distance_m != null && bearing_deg != null
              ? `, ${distance(distance_m, units)}, ${bearing(bearing_deg)}`
              : "";
          return (
            <Fragment key={one.id}>
              <Polyline
                positions={[at(from), at(one.place)]}
                pathOptions={{
                  color: on ? "var(--lamp)" : "var(--ink)",
                  weight: on ? 3 : 1,
                  opacity: on ? 1 : 0.55,
                  dashArray: on ? "" : "4 6",
                }}
              />
              <Marker
                position={at(one.place)}
                icon={MAST(on)}
                title={`${one.name}${away}`}
                eventHandlers={{ click: () => chosen && onChoose(chosen.position_id, one.id) }}
              >
                <Tooltip permanent direction="top" offset={[0, -12]} className="plan-label">
                  {one.name}
                </Tooltip>
              </Marker>
            </Fragment>
          );
        })}
        {view.landmarks.map((one) => (
          <Marker key={one.id} position={at(one.place)} icon={LANDMARK} title={`Landmark: ${one.name}`}>
            <Tooltip>{one.name}</Tooltip>
          </Marker>
        ))}
        {positions.map((one) =>
          one.place ? (
            <CircleMarker
              key={one.id}
              center={at(one.place)}
              radius={one.id === chosen?.position_id ? 7 : 5}
              pathOptions={{
                color: "var(--ink)",
                fillColor: one.id === chosen?.position_id ? "var(--lamp)" : "var(--surface)",
                fillOpacity: 1,
                weight: 2,
              }}
              eventHandlers={{ click: () => chosen && onChoose(one.id, chosen.mast_id) }}
            >
              <Tooltip>{one.name}</Tooltip>
            </CircleMarker>
          ) : null,
        )}
        {drawn.length > 0 && mode !== "tie" && (
          <Polyline positions={drawn.map(at)} pathOptions={{ color: "var(--lamp)", weight: 4 }} />
        )}
        {drawn.map((point) => (
          <CircleMarker
            key={`${point.latitude_deg},${point.longitude_deg}`}
            center={at(point)}
            radius={5}
            pathOptions={{ color: "var(--lamp)", fillOpacity: 1 }}
          />
        ))}
      </MapContainer>
      {mode === "look" && mast && (
        <button
          type="button"
          className="absolute right-3 bottom-3 z-[500] min-h-11 rounded-lg border border-edge bg-surface px-4 font-semibold"
          onClick={() => setWide(!wide)}
        >
          {wide ? "Show the house" : "Show the whole path"}
        </button>
      )}
    </div>
  );
}
