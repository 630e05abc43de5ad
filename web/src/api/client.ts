import createClient from "openapi-fetch";
import { v7 } from "uuid";
import type { Problem, paths } from "./schema";

export type { FieldProblem, Problem } from "./schema";

/** The one client of the server's interface; types come from its OpenAPI document. */
export const api = createClient<paths>({ baseUrl: "" });

/** Identifiers are made here, so that a request sent twice is harmless. */
export const newId = (): string => v7();

/** An error answer of the server, or none at all. */
export class ApiError extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }

  /** What is wrong with one field, by its JSON Pointer. */
  field(pointer: string): string | undefined {
    return this.problem.errors.find((error) => error.pointer === pointer)?.detail;
  }
}

/** Something that is wrong with a field, found before the server is asked. */
export class FieldError extends ApiError {
  constructor(pointer: string, detail: string) {
    super({
      type: "problems/invalid",
      title: "Not understood",
      status: 422,
      detail,
      errors: [{ pointer, detail }],
    });
  }
}

export const silent: Problem = {
  type: "problems/silent",
  title: "No answer",
  status: 0,
  detail: "Open Beacon does not answer. Is the program still running? What you entered is kept here.",
  errors: [],
};

/** The data of an answer; throws an ApiError otherwise. */
export async function answered<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await call;
  } catch {
    throw new ApiError(silent);
  }
  if (!answer.response.ok) {
    const problem = answer.error as Partial<Problem> | undefined;
    throw new ApiError(
      problem?.detail
        ? (problem as Problem)
        : { ...silent, status: answer.response.status, detail: "The server did not say what went wrong." },
    );
  }
  return answer.data as T;
}
