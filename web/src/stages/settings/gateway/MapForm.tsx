import { useState } from "react";
import type { CarrierGroup, FieldAt, FieldMap, FieldUnit, PageField } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextField } from "../../../ui/Field";
import { readNumber } from "../../../ui/number";
import { FIELDS, type Target } from "./pointing";

const UNITS: readonly (readonly [FieldUnit, string])[] = [
  ["own", "as named"],
  ["khz", "kHz"],
  ["hz", "Hz"],
  ["code", "code of the standard"],
  ["hex", "hexadecimal"],
];
const KINDS = ["carriers", "neighbours"] as const;
const TECHNOLOGIES: readonly (readonly [string, string])[] = [
  ["", "the page tells"],
  ["lte", "always LTE"],
  ["nr", "always NR"],
];

/** Where on the page each thing stands; every place can be typed or pointed at in the live answer. */
export function MapForm({
  map,
  onChange,
  target,
  onTarget,
  problem,
}: {
  map: FieldMap;
  onChange: (map: FieldMap) => void;
  target: Target | undefined;
  onTarget: (target: Target | undefined) => void;
  problem: (pointer: string) => string | undefined;
}) {
  const put = (kind: (typeof KINDS)[number], index: number, group: CarrierGroup | undefined) => {
    const groups = [...(map[kind] ?? [])];
    if (group) groups[index] = group;
    else groups.splice(index, 1);
    onChange({ ...map, [kind]: groups });
  };
  return (
    <div className="flex flex-col gap-6">
      {KINDS.flatMap((kind) =>
        (map[kind] ?? []).map((group, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: groups have no other name, and are not reordered
          <fieldset key={`${kind}-${index}`} className="rounded-lg border border-rule p-3">
            <legend className="px-1 font-semibold">
              {kind === "carriers" ? "Carriers" : "Neighbours"}
              {index > 0 ? `, ${index + 1}` : ""}
            </legend>
            <Place
              label="Stand at"
              value={group.at}
              onChange={(at) => put(kind, index, { ...group, at })}
              error={problem(`/gateway/recipe/map/${kind}/${index}/at`)}
              pointing={target?.kind === kind && target.group === index && !target.field}
              onPoint={() => onTarget({ kind, group: index })}
            />
            <ul className="mt-3 flex flex-col gap-2">
              {group.fields.map((field, at) => (
                <FieldRow
                  key={field.field}
                  field={field}
                  pointing={target?.kind === kind && target.group === index && target.field === field.field}
                  onPoint={() => onTarget({ kind, group: index, field: field.field })}
                  onChange={(changed) => {
                    const fields = [...group.fields];
                    if (changed) fields[at] = changed;
                    else fields.splice(at, 1);
                    put(kind, index, { ...group, fields });
                  }}
                  error={problem(`/gateway/recipe/map/${kind}/${index}/fields/${at}/at`)}
                />
              ))}
            </ul>
            {problem(`/gateway/recipe/map/${kind}/${index}`) && (
              <p role="alert" className="mt-2 font-semibold text-starved">
                {problem(`/gateway/recipe/map/${kind}/${index}`)}
              </p>
            )}
            <div className="mt-3 flex flex-wrap items-end gap-3">
              <AddField
                group={group}
                onAdd={(field) => {
                  put(kind, index, { ...group, fields: [...group.fields, { field, at: "" }] });
                  onTarget({ kind, group: index, field });
                }}
              />
              <Button look="plain" onClick={() => put(kind, index, undefined)}>
                Remove this part
              </Button>
            </div>
          </fieldset>
        )),
      )}
      <div className="flex flex-wrap gap-3">
        {KINDS.map((kind) => (
          <Button
            key={kind}
            onClick={() => {
              const groups = [...(map[kind] ?? []), { at: "", fields: [] }];
              onChange({ ...map, [kind]: groups });
              onTarget({ kind, group: groups.length - 1 });
            }}
          >
            Add a part with {kind}
          </Button>
        ))}
      </div>
    </div>
  );
}

function Place({
  label,
  value,
  onChange,
  error,
  pointing,
  onPoint,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  error: string | undefined;
  pointing: boolean;
  onPoint: () => void;
}) {
  return (
    <div className="flex basis-full items-end gap-2">
      <div className="min-w-0 flex-1">
        <TextField label={label} value={value} onChange={onChange} error={error} spellCheck={false} />
      </div>
      <Button aria-pressed={pointing} aria-label={`Point at ${label}`} onClick={onPoint}>
        {pointing ? "Press it in the answer" : "Point"}
      </Button>
    </div>
  );
}

function FieldRow({
  field,
  pointing,
  onPoint,
  onChange,
  error,
}: {
  field: FieldAt;
  pointing: boolean;
  onPoint: () => void;
  onChange: (field: FieldAt | undefined) => void;
  error: string | undefined;
}) {
  const name = FIELDS.find(([key]) => key === field.field)?.[1] ?? field.field;
  return (
    <li className="flex flex-wrap items-end gap-2 border-t border-rule pt-2">
      {field.fixed ? (
        <p className="basis-full text-sm font-semibold">{name}</p>
      ) : (
        <Place
          label={name}
          value={field.at ?? ""}
          onChange={(at) => onChange({ ...field, at })}
          error={error}
          pointing={pointing}
          onPoint={onPoint}
        />
      )}
      {field.field === "technology" ? (
        <ChoiceField
          label="Which"
          value={field.fixed ?? ""}
          choices={TECHNOLOGIES}
          onChange={(fixed) => onChange({ ...field, fixed })}
        />
      ) : (
        <div className="w-36">
          <ChoiceField
            label="Written as"
            value={field.unit ?? "own"}
            choices={UNITS}
            onChange={(unit) => onChange({ ...field, unit })}
          />
        </div>
      )}
      {field.field !== "technology" && (
        <Scale value={field.scale ?? 1} onChange={(scale) => onChange({ ...field, scale })} />
      )}
      <Button look="plain" aria-label={`Remove ${name}`} onClick={() => onChange(undefined)}>
        Remove
      </Button>
    </li>
  );
}

/** The text is kept as typed, so that a number half typed stands. */
function Scale({ value, onChange }: { value: number; onChange: (scale: number) => void }) {
  const [typed, setTyped] = useState(String(value));
  const read = readNumber(typed);
  return (
    <div className="w-20">
      <TextField
        label="Times"
        inputMode="decimal"
        value={typed}
        error={read !== null && read !== 0 ? undefined : "0.1, say"}
        onChange={(text) => {
          setTyped(text);
          const scale = readNumber(text);
          if (scale !== null && scale !== 0) onChange(scale);
        }}
      />
    </div>
  );
}

function AddField({ group, onAdd }: { group: CarrierGroup; onAdd: (field: PageField) => void }) {
  const missing = FIELDS.filter(([key]) => group.fields.every((one) => one.field !== key));
  if (missing.length === 0) return null;
  const choices: [PageField | "", string][] = [
    ["", "Choose a field"],
    ...missing.map(([key, name]): [PageField, string] => [key, name]),
  ];
  return (
    <ChoiceField
      label="Add a field"
      value=""
      choices={choices}
      onChange={(field) => field !== "" && onAdd(field)}
    />
  );
}
