import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap } from "../../api/client";

/** What a run of a kept sheet costs; the last answer stays until the new one is there. */
export const costQuery = (sheetId: string, casts: number, mouldId: string | null) =>
  queryOptions({
    queryKey: ["sheets", sheetId, "cost", casts, mouldId],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/sheets/{id}/cost", {
          params: {
            path: { id: sheetId },
            query: mouldId === null ? { casts } : { casts, mould_id: mouldId },
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export function costFile(sheetId: string, casts: number, mouldId: string | null): string {
  const mould = mouldId === null ? "" : `&mould_id=${mouldId}`;
  return `/api/v1/sheets/${sheetId}/cost.csv?casts=${casts}${mould}`;
}

export function useSetHourRate() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (hour_rate: string) =>
      unwrap(client.PUT("/api/v1/workshop/hour-rate", { body: { hour_rate } })),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["workshop"] }),
        queries.invalidateQueries({ queryKey: ["sheets"] }),
      ]),
  });
}
