import { useInfiniteQuery } from "@tanstack/react-query";

type Paged = { following: string | null };

/** A long list in pages: the next one is asked for by the mark that the last one left. */
export function usePages<P extends Paged>(key: readonly string[], ask: (after: string) => Promise<P>) {
  const query = useInfiniteQuery({
    queryKey: key,
    queryFn: ({ pageParam }) => ask(pageParam),
    initialPageParam: "",
    getNextPageParam: (last: P) => last.following ?? undefined,
    placeholderData: (before) => before,
  });
  return { ...query, pages: query.data?.pages ?? [] };
}
