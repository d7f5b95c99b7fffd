import type { QueryClient } from "@tanstack/react-query";

/**
 * Ask again for what was changed on the server. What is under way may have been answered before the change: it is dropped,
 * where the library would go on waiting for a first answer and take it for the newest.
 */
export async function askAnew(queries: QueryClient, name: string): Promise<void> {
  await queries.cancelQueries({ queryKey: [name] });
  await queries.invalidateQueries({ queryKey: [name] });
}
