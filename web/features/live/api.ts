/** Calls to the server's routes; what fails becomes an Error with the server's sentence. */
export class ApiError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly status: number,
    /** What the server says beside the sentence. */
    readonly details: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

export async function api<T>(
  path: string,
  options: { method?: "GET" | "POST" | "PUT" | "PATCH" | "DELETE"; body?: unknown; signal?: AbortSignal } = {},
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method: options.method ?? "GET",
      ...(options.body !== undefined
        ? { body: JSON.stringify(options.body), headers: { "content-type": "application/json" } }
        : {}),
      ...(options.signal ? { signal: options.signal } : {}),
    });
  } catch (error) {
    if (options.signal?.aborted) throw error;
    throw new ApiError("offline", "Larder does not answer. Check that it runs, then try again.", 0);
  }
  const text = await response.text();
  const value = text === "" ? null : (JSON.parse(text) as unknown);
  if (response.ok) return value as T;
  const { code, message, ...details } = (value ?? {}) as { code?: string; message?: string };
  throw new ApiError(
    code ?? "unexpected",
    message ?? `The server answered ${response.status}.`,
    response.status,
    details,
  );
}
