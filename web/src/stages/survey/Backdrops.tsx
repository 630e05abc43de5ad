import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { Backdrop, BackdropBody, BackdropView, GeoPoint, SurveyView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { TextArea } from "../../ui/Field";
import { halves, megabytes, whole } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";
import { pointText, readPoints } from "./queries";

async function put(siteId: string, one: Backdrop, change: Partial<BackdropBody>): Promise<void> {
  const { id, opacity } = one;
  await answered(
    api.PUT("/api/sites/{id}/backdrops/{backdrop}", {
      params: { path: { id: siteId, backdrop: id } },
      body: { control_points: one.control_points ?? [], opacity, archived: false, ...change },
    }),
  );
  refresh(siteId);
}

/** The user's own aerial pictures behind the plan. */
export function Backdrops({
  siteId,
  view,
  drawn,
  placing,
  onPlacing,
}: {
  siteId: string;
  view: SurveyView;
  drawn: GeoPoint[];
  placing: boolean;
  onPlacing: (on: boolean) => void;
}) {
  const [placed, setPlaced] = useState<string>();
  const [problem, setProblem] = useState("");
  const notice = useNotice();
  const begin = (id: string) => {
    setPlaced(id);
    onPlacing(true);
  };
  const add = async (file: File) => {
    setProblem("");
    const id = newId();
    const query = new URLSearchParams({ id, file_name: file.name });
    try {
      const answer = await fetch(`/api/sites/${siteId}/backdrops?${query}`, {
        method: "POST",
        headers: { "content-type": "application/octet-stream" },
        body: file,
      });
      if (answer.ok) begin(id);
      else setProblem(((await answer.json()) as { detail: string }).detail);
    } catch {
      setProblem(`${file.name} did not get through. Try again.`);
    }
    refresh(siteId);
  };
  const change = useAction(siteId, (one: Backdrop, part: { opacity?: number }) => put(siteId, one, part), {
    queue: true,
  });
  const away = useAction(siteId, async (one: Backdrop) => {
    await put(siteId, one, { archived: true });
    notice(`${one.file_name} was archived.`, () => change.run(one, {}));
  });
  return (
    <Section title="Aerial picture">
      <div id="backdrop" className="max-w-3xl">
        <p>
          A picture of house and land from above, of your own, lies behind the plan once you show two points
          of it that you know: PNG, JPEG or WebP, taken straight down.
        </p>
        <label className="mt-2 flex flex-col gap-1 font-semibold">
          Add an aerial picture
          <input
            type="file"
            accept="image/png,image/jpeg,image/webp"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) void add(file);
              event.target.value = "";
            }}
            className="min-h-11 rounded-lg border border-edge bg-surface p-2 font-normal"
          />
        </label>
        {problem && (
          <p role="alert" className="mt-2 border-l-4 border-starved pl-3">
            {problem}
          </p>
        )}
      </div>
      <ul className="mt-3 flex flex-col gap-2">
        {view.backdrops.map((one) => (
          <li key={one.backdrop.id} className="border-t border-rule pt-2">
            <div className="flex flex-wrap items-center gap-x-4">
              <span className="font-semibold">{one.backdrop.file_name}</span>
              <span className="text-muted">{saidOf(one)}</span>
              {one.georeference && (
                <label className="flex min-h-11 items-center gap-2">
                  Seen
                  <input
                    type="range"
                    min={0.1}
                    max={1}
                    step={0.1}
                    defaultValue={one.backdrop.opacity}
                    onChange={(event) => change.run(one.backdrop, { opacity: Number(event.target.value) })}
                    className="w-28 accent-[var(--lamp)]"
                  />
                </label>
              )}
              <Button look="plain" onClick={() => begin(one.backdrop.id)}>
                {one.georeference ? "Place it anew" : "Place it"}
              </Button>
              <Button
                look="plain"
                aria-label={`Archive ${one.backdrop.file_name}`}
                onClick={() => away.run(one.backdrop)}
              >
                Archive
              </Button>
            </div>
            {placing && placed === one.backdrop.id && (
              <Placing
                siteId={siteId}
                backdrop={one.backdrop}
                drawn={drawn}
                onDone={() => onPlacing(false)}
              />
            )}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function saidOf({ backdrop, georeference }: BackdropView): string {
  const size = `${backdrop.width_px} × ${backdrop.height_px} pixels, ${megabytes(backdrop.bytes)}`;
  if (!georeference) return `${size}, not placed yet`;
  const turned = ((georeference.turned_deg + 180) % 360) - 180;
  const way =
    Math.abs(turned) < 0.5
      ? "north up"
      : `turned ${whole(Math.abs(turned))}° ${turned > 0 ? "right" : "left"}`;
  return `${size}, ${halves(georeference.metres_per_px)} m a pixel, ${way}`;
}

type Pixel = { x_px: number; y_px: number };

/** Two points pressed on the picture, and the same two on the plan or typed. */
function Placing({
  siteId,
  backdrop,
  drawn,
  onDone,
}: {
  siteId: string;
  backdrop: Backdrop;
  drawn: GeoPoint[];
  onDone: () => void;
}) {
  const [pixels, setPixels] = useState<Pixel[]>(
    (backdrop.control_points ?? []).map(({ x_px, y_px }) => ({ x_px, y_px })),
  );
  const [typed, setTyped] = useState<string>();
  const known = (backdrop.control_points ?? []).map((one) => pointText(one.place)).join("\n");
  const text = typed ?? (drawn.length > 0 ? drawn.map(pointText).join("\n") : known);
  const keep = useAction(
    siteId,
    async () => {
      const places = await readPoints(text);
      const ties = pixels.flatMap((pixel, at) => (places[at] ? [{ ...pixel, place: places[at] }] : []));
      if (pixels.length !== 2 || places.length !== 2)
        throw new Error("Two points on the picture and two places are needed, in the same order.");
      await put(siteId, backdrop, { control_points: ties });
      onDone();
    },
    { beside: true },
  );
  const { problem } = keep;
  const bend = Math.max(backdrop.width_px, backdrop.height_px) / 34;
  return (
    <div className="mt-2 grid max-w-4xl items-start gap-4 rounded-lg border border-rule bg-surface p-4 md:grid-cols-2">
      <div>
        <p className="font-semibold">
          {pixels.length === 0 && "1. Press a point you know on the picture: a corner of the house, say."}
          {pixels.length === 1 && "2. Press another, far from it."}
          {pixels.length === 2 && "3. Give the two places, in the same order."}
        </p>
        <svg
          viewBox={`0 0 ${backdrop.width_px} ${backdrop.height_px}`}
          className="mt-2 w-full cursor-crosshair border border-edge"
          role="img"
          aria-label={`${backdrop.file_name}: press the two points you know`}
          onPointerDown={(event) => {
            const box = event.currentTarget.getBoundingClientRect();
            const x_px = ((event.clientX - box.left) / box.width) * backdrop.width_px;
            const y_px = ((event.clientY - box.top) / box.height) * backdrop.height_px;
            setPixels([...(pixels.length === 2 ? [] : pixels), { x_px, y_px }]);
          }}
        >
          <image
            href={`/api/backdrops/${backdrop.id}`}
            width={backdrop.width_px}
            height={backdrop.height_px}
          />
          {pixels.map((one, at) => (
            <g key={`${one.x_px},${one.y_px}`}>
              <circle
                cx={one.x_px}
                cy={one.y_px}
                r={bend}
                fill="var(--lamp)"
                stroke="var(--ink)"
                strokeWidth={bend / 4}
              />
              <text
                x={one.x_px}
                y={one.y_px + bend * 0.5}
                fontSize={bend * 1.4}
                textAnchor="middle"
                fontWeight="700"
                fill="var(--ink)"
              >
                {at + 1}
              </text>
            </g>
          ))}
        </svg>
      </div>
      <div className="flex flex-col gap-3">
        <TextArea
          label="Their two places, one a line"
          hint="Press them on the plan above, in the same order, or type latitude, longitude."
          rows={2}
          value={text}
          onChange={setTyped}
        />
        {problem && (
          <p role="alert" className="font-semibold text-starved">
            {problem}
          </p>
        )}
        <div className="flex flex-wrap gap-3">
          <Button look="filled" onClick={() => keep.run()}>
            Lay it behind the plan
          </Button>
          <Button onClick={() => setPixels([])}>Press the points anew</Button>
          <Button onClick={onDone}>Cancel</Button>
        </div>
      </div>
    </div>
  );
}
