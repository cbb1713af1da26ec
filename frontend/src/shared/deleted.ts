import type { QueryClient } from "@tanstack/react-query";

/**
 * After something was deleted: all that shows its kind is asked for again, but what was of the
 * deleted one alone, which its page still shows until it is left and the server no longer knows.
 */
export const refreshWithout = (queries: QueryClient, kind: string, id: string) =>
  queries.invalidateQueries({
    queryKey: [kind],
    predicate: ({ queryKey }) => !queryKey.includes(id),
  });
