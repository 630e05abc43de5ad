import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { SurfaceKind, SurveyView, TerrainTile, TileAdded, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { counted, length, megabytes } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";

const SURFACES: readonly (readonly [SurfaceKind, string])[] = [
  ["ground", "Bare ground: drawn trees and buildings stand on it"],
  ["surface", "Tree tops and roofs (radar, first laser return): drawn trees are not counted again"],
];

async function setTile(siteId: string, tile: TerrainTile, surface: SurfaceKind, archived: boolean) {
  await answered(
    api.PUT("/api/sites/{id}/tiles/{tile}", {
      params: { path: { id: siteId, tile: tile.id } },
      body: { surface, archived },
    }),
  );
  refresh(siteId);
}

/** Files of terrain. */
export function Terrain({ siteId, view, units }: { siteId: string; view: SurveyView; units: Units }) {
  const [surface, setSurface] = useState<SurfaceKind>("ground");
  const [busy, setBusy] = useState<string>();
  const [problems, setProblems] = useState<string[]>([]);
  const notice = useNotice();
  const change = useAction(
    siteId,
    (tile: TerrainTile, surface: SurfaceKind) => setTile(siteId, tile, surface, false),
    { queue: true },
  );
  const add = async (files: File[]) => {
    setProblems([]);
    for (const file of files) {
      setBusy(file.name);
      const query = new URLSearchParams({ id: newId(), file_name: file.name, surface });
      try {
        const answer = await fetch(`/api/sites/${siteId}/tiles?${query}`, {
          method: "POST",
          headers: { "content-type": "application/octet-stream" },
          body: file,
        });
        const said: unknown = await answer.json();
        if (answer.ok) {
          const { notes } = said as TileAdded;
          setProblems((before) => [...before, ...notes.map((note) => `${file.name}: ${note}`)]);
        } else setProblems((before) => [...before, (said as { detail: string }).detail]);
      } catch {
        setProblems((before) => [...before, `${file.name} did not get through. Try again.`]);
      }
    }
    setBusy(undefined);
    refresh(siteId);
  };
  const away = useAction(siteId, async (tile: TerrainTile) => {
    await setTile(siteId, tile, tile.surface, true);
    notice(`${tile.file_name} was archived.`, () => change.run(tile, tile.surface));
  });
  return (
    <Section title="Terrain">
      <div id="terrain" className="max-w-3xl">
        <p>
          Heights of the ground as SRTM .hgt, ESRI ASCII grid or GeoTIFF, in degrees or UTM, from your
          country's mapping agency or a space agency. They should reach from the house to the masts.
        </p>
        <fieldset className="mt-3">
          <legend className="font-semibold">What are the heights of?</legend>
          {SURFACES.map(([kind, words]) => (
            <label key={kind} className="flex min-h-11 items-center gap-2">
              <input
                type="radio"
                name="surface"
                checked={surface === kind}
                onChange={() => setSurface(kind)}
                className="size-5 accent-[var(--action)]"
              />
              {words}
            </label>
          ))}
        </fieldset>
        <label className="mt-2 flex flex-col gap-1 font-semibold">
          Add terrain files
          <input
            type="file"
            multiple
            disabled={busy !== undefined}
            onChange={(event) => {
              // The list is the field's own and empties with it.
              void add([...(event.target.files ?? [])]);
              event.target.value = "";
            }}
            className="min-h-11 rounded-lg border border-edge bg-surface p-2 font-normal"
          />
        </label>
        {busy && <p role="status">Reading {busy}…</p>}
        {problems.map((text) => (
          <p key={text} role="alert" className="mt-2 border-l-4 border-starved pl-3">
            {text}
          </p>
        ))}
      </div>
      <ul className="mt-3 flex flex-col gap-2">
        {view.tiles.map((tile) => (
          <li key={tile.id} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule pt-2">
            <span className="font-semibold">{tile.file_name}</span>
            <span className="text-muted">
              {tile.format}, {tile.columns} × {tile.rows} heights every {length(tile.step_north_m, units)},{" "}
              {length(tile.lowest_m, units)} to {length(tile.highest_m, units)},{" "}
              {tile.voids === 0 ? "no voids" : counted(tile.voids, "void")}, {megabytes(tile.bytes)},{" "}
              {tile.surface === "ground" ? "bare ground" : "tree tops and roofs"}
            </span>
            <Button
              look="plain"
              onClick={() => change.run(tile, tile.surface === "ground" ? "surface" : "ground")}
            >
              {tile.surface === "ground" ? "It is of tree tops" : "It is of bare ground"}
            </Button>
            <Button look="plain" onClick={() => away.run(tile)} aria-label={`Archive ${tile.file_name}`}>
              Archive
            </Button>
          </li>
        ))}
      </ul>
    </Section>
  );
}
