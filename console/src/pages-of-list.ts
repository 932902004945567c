import { useInfiniteQuery } from "@tanstack/react-query";

/** The service gives long lists in pages: `next` is what asks for the page after, and null on the last one. */
export type Page = { next: string | null };

/**
 * A long list, as far as it has been asked for, read again every so many milliseconds.
 *
 * @param fetch reads the page after what the one before gave as its `next`
 */
export function usePages<P extends Page>(
  key: unknown[],
  fetch: (after: string | undefined) => Promise<P>,
  every: number,
) {
  return useInfiniteQuery({
    queryKey: key,
    queryFn: ({ pageParam }) => fetch(pageParam),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (last: P) => last.next ?? undefined,
    refetchInterval: every,
  });
}
