import { answered, api, FieldError } from "./client";
import type { ListKind } from "./schema";

/** Reads a list from its short spelling; what cannot be read is an error of the field named. */
export async function readList<T>(kind: ListKind, text: string, pointer = "/text"): Promise<T[]> {
  const { list } = await answered(api.POST("/api/calc/list", { body: { kind, text } })).catch((error) => {
    throw error.field?.("/text") ? new FieldError(pointer, error.field("/text")) : error;
  });
  return list as T[];
}

/** What is wrong with a list's spelling. */
export const listProblem = (kind: ListKind, text: string): Promise<string | undefined> =>
  readList(kind, text).then(
    () => undefined,
    (error: Error) => error.message,
  );
