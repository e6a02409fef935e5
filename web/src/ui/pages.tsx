import { keepPreviousData, type QueryKey, useInfiniteQuery } from "@tanstack/react-query";
import { Button } from "./form";

/** How many rows come at once. */
export const PAGE = 100;

/** A list that the server filters and sorts, and that comes in pages: the first page, which
 * says how many there are, and the rows of all that have come. */
export function usePages<P, R>(
  queryKey: QueryKey,
  page: (offset: number) => Promise<P>,
  rows: (page: P) => readonly R[],
  found: (page: P) => number,
  /** Whether the server is still at work on it: then it is asked again every other second. */
  unfinished: (page: P) => boolean = () => false,
) {
  const query = useInfiniteQuery({
    queryKey,
    initialPageParam: 0,
    queryFn: ({ pageParam }) => page(pageParam),
    getNextPageParam: (last, all) => {
      const here = all.reduce((n, p) => n + rows(p).length, 0);
      return here < found(last) && rows(last).length > 0 ? here : undefined;
    },
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => {
      const first = state.data?.pages[0];
      return first !== undefined && unfinished(first) ? 2000 : false;
    },
  });
  const pages = query.data?.pages ?? [];
  return { query, first: pages[0], rows: pages.flatMap((p) => rows(p)) };
}

export type Paged = {
  hasNextPage: boolean;
  isFetching: boolean;
  isFetchingNextPage: boolean;
  fetchNextPage: () => unknown;
};

/** Says how many of how many are shown, and asks for more. */
export function More({ query, shown, found, what }: { query: Paged; shown: number; found: number; what: string }) {
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = query;
  if (!hasNextPage) return null;
  return (
    <p className="no-print mt-3 flex flex-wrap items-center gap-4">
      <Button disabled={isFetchingNextPage} onClick={() => fetchNextPage()}>
        {isFetchingNextPage ? "Reading …" : `More ${what}`}
      </Button>
      <span className="text-dim">
        {shown} of {found} are shown.
      </span>
    </p>
  );
}
