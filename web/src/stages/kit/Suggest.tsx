import { useState } from "react";
import { answered, api } from "../../api/client";
import type { KitBody, KitsView, SiteView, SuggestedKit, SuggestionView } from "../../api/schema";
import { saveSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { rough, signed, withUnit } from "../../ui/format";
import { readNumber } from "../../ui/number";
import { TableBox } from "../../ui/TableBox";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";
import { effortWords } from "./Cost";
import { emptySpec } from "./draft";
import { choicesOf, useCatalogue } from "./queries";
import { Schools } from "./Schools";

/** The cheapest kit that does, the best under a price, and why the others lost. */
export function Suggest({
  site,
  kits,
  onKeep,
}: {
  site: SiteView;
  kits: KitsView;
  onKeep: (name: string, body: KitBody) => void;
}) {
  const [price, setPrice] = useState("");
  const currency = kits.settings.currency ?? "EUR";
  const parts = useCatalogue().data;
  const ask = useAction(
    undefined,
    (): Promise<SuggestionView> =>
      answered(
        api.POST("/api/sites/{id}/kits/suggest", {
          params: { path: { id: site.site.id } },
          body: { price_limit: price.trim() === "" ? null : (readNumber(price) ?? 0) },
        }),
      ),
    { beside: true },
  );
  const { answer: found, problem } = ask;
  const keepOwn = useAction(site.site.id, (own: string) => {
    ask.reset();
    return saveSettings(site, { kit: { ...kits.settings, own_gateway: own || null } });
  });
  const gateways: [string, string][] = [
    ["", "None yet"],
    ...choicesOf(parts ?? [], ["gateway"], kits.settings.own_gateway).map(({ part }): [string, string] => [
      part.id,
      part.name,
    ]),
  ];
  const { need } = kits;
  return (
    <div id="suggest">
      <Section title="Let the catalogue suggest one">
        <p className="max-w-3xl">
          Every gateway with every antenna and cable, outdoor units with their feed, and gateways on their own
          antennas are weighed against what the household needs: {rough(need.down_mbps)} Mbit/s down and{" "}
          {rough(need.up_mbps)} up, with {signed(kits.settings.cable_m ?? 10, 0)} m of cable at{" "}
          {signed(kits.settings.height_m ?? 6, 0)} m height.
        </p>
        {kits.bands.length === 0 && (
          <p className="mt-2 max-w-3xl font-semibold">
            Nothing is known of the air here yet: read the gateway at the Baseline, or name the bands on offer
            below, with the mast's distance at the Settings.
          </p>
        )}
        {kits.today && <p className="mt-2 max-w-3xl font-semibold">{kits.today}</p>}
        <Schools />
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <div className="w-48">
            <TextField
              label={`Maximum price, ${currency}`}
              hint="Empty for no limit"
              inputMode="decimal"
              value={price}
              onChange={setPrice}
              error={ask.refused?.field("/price_limit")}
            />
          </div>
          <div className="w-64">
            <ChoiceField
              label="Gateway you own"
              hint="Kits are built round it"
              value={kits.settings.own_gateway ?? ""}
              choices={gateways}
              onChange={keepOwn.run}
            />
          </div>
          <Button
            look={found ? "outlined" : "filled"}
            className="mb-6"
            disabled={kits.bands.length === 0 || ask.busy}
            onClick={() => ask.run()}
          >
            Suggest
          </Button>
        </div>
        {problem && !ask.refused?.field("/price_limit") && (
          <p role="alert" className="font-semibold text-starved">
            {problem}
          </p>
        )}
        {found && (
          <div aria-live="polite">
            <div className="grid gap-x-8 gap-y-5 lg:grid-cols-2">
              <Winner
                title="The cheapest that meets the need"
                none="No kit of this catalogue meets the need here and offers more than you have today. Lower the need, raise the antenna, or look at the best."
                found={found.cheapest ?? undefined}
                currency={currency}
                onKeep={onKeep}
              />
              <Winner
                title={
                  readNumber(price) === null
                    ? "The best for your household"
                    : `The best under ${withUnit(price.trim(), currency)}`
                }
                none="No kit of this catalogue stays under that price and carries a band that is here."
                found={found.best ?? undefined}
                currency={currency}
                onKeep={onKeep}
              />
            </div>
            <Losers found={found} currency={currency} />
          </div>
        )}
      </Section>
    </div>
  );
}

function Winner({
  title,
  none,
  found,
  currency,
  onKeep,
}: {
  title: string;
  none: string;
  found: SuggestedKit | undefined;
  currency: string;
  onKeep: (name: string, body: KitBody) => void;
}) {
  if (!found) {
    return (
      <div>
        <h3 className="font-bold">{title}</h3>
        <p className="mt-1">{none}</p>
      </div>
    );
  }
  const name = found.antenna ?? found.gateway;
  return (
    <div>
      <h3 className="font-bold">{title}</h3>
      <p className="mt-1 text-lg leading-snug">
        {found.antenna ? `${found.antenna} with ${found.gateway}` : found.gateway}
      </p>
      <p className="mt-1">
        <span className="font-bold">{withUnit(signed(found.candidate.price, 0), currency)}</span>.{" "}
        {found.judged.title} {effortWords(found.judged)}
      </p>
      {found.chances && <p className="mt-1">{found.chances}</p>}
      <p className="mt-1 text-sm text-muted">
        {found.judged.assessment.parts.map((line) => `${line.pieces} × ${line.name}`).join("; ")}
      </p>
      <Button
        className="mt-2"
        onClick={() => onKeep(name, { name, spec: { ...emptySpec, ...found.candidate.kit }, notes: "" })}
      >
        Keep this as a kit
      </Button>
    </div>
  );
}

function Losers({ found, currency }: { found: SuggestionView; currency: string }) {
  const [all, setAll] = useState(false);
  const few = 8;
  const shown = all ? found.losers : found.losers.slice(0, few);
  return (
    <div className="mt-6">
      <h3 className="font-bold">Why not the others</h3>
      <p className="text-sm text-muted">{found.weighed} kits were weighed; here the nearest of each pair.</p>
      <TableBox label="Kits that were not suggested" className="mt-1">
        <table className="w-full leading-snug">
          <thead>
            <tr className="border-b border-rule text-left text-sm text-muted [&>th]:py-1 [&>th]:pr-3 [&>th]:font-semibold">
              <th>Gateway and antenna</th>
              <th className="text-right">{currency}</th>
              <th className="text-right">Down, Mbit/s</th>
              <th className="text-right">Up, Mbit/s</th>
              <th>Not the cheapest because</th>
              <th>Not the best because</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((loser) => (
              <tr
                key={`${loser.gateway}-${loser.antenna ?? ""}`}
                className="border-b border-rule align-top [&>td]:py-1.5 [&>td]:pr-3"
              >
                <td>
                  {loser.gateway}
                  {loser.antenna && <span className="block text-muted">{loser.antenna}</span>}
                </td>
                <td className="text-right">{loser.nearest ? signed(loser.nearest.price, 0) : "–"}</td>
                <td className="text-right">{loser.nearest ? rough(loser.nearest.down_mbps) : "–"}</td>
                <td className="text-right">{loser.nearest ? rough(loser.nearest.up_mbps) : "–"}</td>
                <td>{loser.why_not_cheapest}</td>
                <td>{loser.why_not_best}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </TableBox>
      {found.losers.length > few && (
        <Button look="plain" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${found.losers.length}`}
        </Button>
      )}
    </div>
  );
}
