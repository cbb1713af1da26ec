import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type NewMould } from "../../api/client";

export const mouldsQuery = () =>
  queryOptions({
    queryKey: ["moulds"],
    queryFn: () => unwrap(client.GET("/api/v1/moulds")),
    select: (answer) => answer.moulds,
  });

/** What a mould as it stands in the form would take. */
export const mouldPreviewQuery = (body: NewMould) =>
  queryOptions({
    queryKey: ["moulds", "preview", body],
    queryFn: ({ signal }) => unwrap(client.POST("/api/v1/moulds/preview", { body, signal })),
    enabled: Boolean(body.piece_id && body.rubber_id && body.shell_id),
    placeholderData: keepPreviousData,
  });

export function useAddMould() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: NewMould) => unwrap(client.POST("/api/v1/moulds", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["moulds"] }),
  });
}

export function useDeleteMould() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(client.DELETE("/api/v1/moulds/{id}", { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["moulds"] }),
  });
}
