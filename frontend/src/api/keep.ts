import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** What an act answered stands: a reading that was on its way before it is older, and dropped. */
export async function keep<T>(queries: QueryClient, key: QueryKey, seen: T | ((was: T | undefined) => T | undefined)) {
  await queries.cancelQueries({ queryKey: key, exact: true });
  queries.setQueryData<T>(key, seen);
}
