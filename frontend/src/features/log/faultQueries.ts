import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type PourFault } from "../../api/client";

/** The faults of a pour, each with its causes, the likeliest first. */
export const faultsQuery = (id: string) =>
  queryOptions({
    queryKey: ["faults", id],
    queryFn: () => unwrap(client.GET("/api/v1/pours/{id}/faults", { params: { path: { id } } })),
    select: (answer) => answer.faults,
  });

export function useAddFault(pour: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { kind: string; place: string }) =>
      unwrap(client.POST("/api/v1/pours/{id}/faults", { params: { path: { id: pour } }, body })),
    onSuccess: (answer) => queries.setQueryData(["faults", pour], answer),
  });
}

/** Says more of a fault: what the maker knows of it, or what caused it. */
export function useChangeFault(pour: string, fault: PourFault) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (change: Partial<Pick<PourFault, "told" | "verdict">>) =>
      unwrap(
        client.PUT("/api/v1/faults/{id}", {
          params: { path: { id: fault.id } },
          body: { place: fault.place, told: fault.told, verdict: fault.verdict, ...change },
        }),
      ),
    onSuccess: (answer) => queries.setQueryData(["faults", pour], answer),
  });
}

export function useRemoveFault(pour: string, fault: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () =>
      unwrap(client.DELETE("/api/v1/faults/{id}", { params: { path: { id: fault } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["faults", pour] }),
  });
}

/** Changes the sheet of the pour as a cause asks for it. */
export function useMendSheet(pour: string, fault: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (cause: string) =>
      unwrap(
        client.POST("/api/v1/faults/{id}/mend", {
          params: { path: { id: fault } },
          body: { cause },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["sheets"] });
      void queries.invalidateQueries({ queryKey: ["faults", pour] });
    },
  });
}
