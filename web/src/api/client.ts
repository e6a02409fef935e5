import createClient from "openapi-fetch";
import { send } from "./keyed";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

/** A fault as the API states it (RFC 9457): what is wrong and what would be right. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly current?: unknown,
    /** It is a question: the same is taken when it is sent as sure. */
    readonly ask = false,
    /** What was typed that has several meanings, and each of them. */
    readonly written = "",
    readonly meanings: readonly string[] = [],
    /** Where in what was sent it was typed, as JSON pointers. */
    readonly fields: readonly string[] = [],
  ) {
    super(message);
  }
}

export const api = createClient<paths>({ baseUrl: "/", fetch: send });

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The answer's data, or an ApiError with a sentence for the user. */
export async function unwrap<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError(
      "No answer from the server. What you typed is still here: check the connection, then try again.",
      0,
    );
  }
  if (answer.response.ok) return answer.data as T;
  const problem = answer.error as
    | { detail?: string; current?: unknown; ask?: boolean; written?: string; meanings?: string[]; fields?: string[] }
    | undefined;
  throw new ApiError(
    problem?.detail ?? `The server answered ${answer.response.status}; try again.`,
    answer.response.status,
    problem?.current,
    problem?.ask,
    problem?.written,
    problem?.meanings,
    problem?.fields,
  );
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
