import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { FIELDS, outdoorFields, type PartField } from "../src/stages/kit/catalogue/fields";

/** What a form of the catalogue writes must be a field of the server's own document, of the type that the form gives it. */
interface Schema {
  $ref?: string;
  type?: string | string[];
  enum?: string[];
  properties?: Record<string, Schema>;
  oneOf?: Schema[];
  allOf?: Schema[];
}

const schemas: Record<string, Schema> = JSON.parse(readFileSync("src/api/openapi.json", "utf8")).components
  .schemas;

function whole(schema: Schema): Schema {
  const name = schema.$ref?.split("/").at(-1);
  return name === undefined ? schema : whole(schemas[name] ?? {});
}

/** Every schema that one may stand for: references, alternatives and parts followed. */
function meanings(schema: Schema): Schema[] {
  const one = whole(schema);
  return [one, ...[...(one.oneOf ?? []), ...(one.allOf ?? [])].flatMap(meanings)];
}

function at(schema: Schema, path: readonly string[]): Schema[] {
  const [step, ...rest] = path;
  if (step === undefined) return meanings(schema);
  return meanings(schema)
    .map((one) => one.properties?.[step])
    .filter((one) => one !== undefined)
    .flatMap((one) => at(one, rest));
}

function specOf(kind: string): Schema {
  const found = (schemas.PartSpec?.oneOf ?? []).find((one) =>
    at(one, ["kind"]).some((value) => value.enum?.includes(kind)),
  );
  if (!found) throw new Error(`the document has no part of kind ${kind}`);
  return found;
}

const types = (found: Schema[]) => found.flatMap((one) => one.type ?? []);

function agrees(field: PartField, found: Schema[]): void {
  const told = types(found);
  switch (field.type) {
    case "number":
      expect(told.some((type) => type === "number" || type === "integer")).toBe(true);
      if (field.optional) expect(told).toContain("null");
      break;
    case "yes":
      expect(told).toContain("boolean");
      break;
    case "choice": {
      const known = found.flatMap((one) => one.enum ?? []);
      const offered = field.choices.map(([value]) => value).filter((value) => value !== "");
      expect([...offered].sort()).toEqual([...new Set(known)].sort());
      break;
    }
    case "list":
      expect(told).toContain("array");
  }
}

describe("the catalogue's forms write what the server knows", () => {
  for (const [kind, fields] of Object.entries(FIELDS)) {
    test.each(fields.map((field) => [field.label, field] as const))(`${kind}: %s`, (_label, field) => {
      const found = at(specOf(kind), field.path);
      expect(found.length, `${field.path.join(".")} is no field of a ${kind}`).toBeGreaterThan(0);
      agrees(field, found);
    });
  }
  test.each(outdoorFields.map((field) => [field.label, field] as const))("outdoor unit: %s", (_l, field) => {
    const found = at(specOf("gateway"), field.path);
    expect(found.length, field.path.join(".")).toBeGreaterThan(0);
    agrees(field, found);
  });
  test("no kind of part is without a form", () => {
    const kinds = (schemas.PartSpec?.oneOf ?? []).flatMap((one) =>
      at(one, ["kind"]).flatMap((value) => value.enum ?? []),
    );
    expect(Object.keys(FIELDS).sort()).toEqual([...new Set(kinds)].sort());
  });
});
