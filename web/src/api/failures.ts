import { api } from "./client";

/** As much of a text as the server takes. */
const some = (text: string, most: number) => text.slice(0, most);

/** Tells the server's log that a screen could not be drawn. It is not tried again: the screen itself says that it failed. */
export function reportFailure(error: unknown, parts: string) {
  const { message, stack = "" } = error instanceof Error ? error : new Error(String(error));
  const body = {
    screen: some(window.location.pathname, 300),
    message: some(message, 1000),
    stack: some(stack, 8000),
    parts: some(parts, 8000),
  };
  api.POST("/api/v1/failures", { body }).catch(() => undefined);
}
