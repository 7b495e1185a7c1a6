import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * What an act answered stands: a reading that was on its way before it is older, and dropped. At once, in one go: whoever looks next
 * finds what was done either as sent or as answered, and never between the two.
 */
export function keep<T>(queries: QueryClient, key: QueryKey, seen: T | ((was: T | undefined) => T | undefined)) {
  void queries.cancelQueries({ queryKey: key, exact: true });
  queries.setQueryData<T>(key, seen);
}
