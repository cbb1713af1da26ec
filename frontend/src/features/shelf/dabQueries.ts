import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, fileBody, unwrap, type Dab } from "../../api/client";

export const dabsQuery = () =>
  queryOptions({
    queryKey: ["dabs"],
    queryFn: () => unwrap(client.GET("/api/v1/dab-tests")),
    select: (answer) => answer.dabs,
  });

/** A changed dab changes what the chain says. */
function useDabChange<T, R>(change: (body: T) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["dabs"] }),
        queries.invalidateQueries({ queryKey: ["chain"] }),
      ]),
  });
}

export const useStartDab = () =>
  useDabChange((body: { first_id: string; second_id: string; note: string }) =>
    unwrap(client.POST("/api/v1/dab-tests", { body })),
  );

export const useJudgeDab = () =>
  useDabChange(
    ({ id, ...body }: { id: string; result: NonNullable<Dab["result"]>; note: string }) =>
      unwrap(client.POST("/api/v1/dab-tests/{id}/result", { params: { path: { id } }, body })),
  );

export const useDabPhoto = () =>
  useDabChange(({ id, file }: { id: string; file: File }) =>
    unwrap(
      client.POST("/api/v1/dab-tests/{id}/photo", {
        params: { path: { id } },
        ...fileBody(file),
      }),
    ),
  );

export const useDeleteDab = () =>
  useDabChange((id: string) =>
    unwrap(client.DELETE("/api/v1/dab-tests/{id}", { params: { path: { id } } })),
  );
