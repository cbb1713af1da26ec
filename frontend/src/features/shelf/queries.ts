import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type ResinValues } from "../../api/client";

export const materialsQuery = () =>
  queryOptions({
    queryKey: ["materials"],
    queryFn: () => unwrap(client.GET("/api/v1/materials")),
    select: (answer) => answer.materials,
  });

export const materialQuery = (id: string) =>
  queryOptions({
    queryKey: ["materials", id],
    queryFn: () => unwrap(client.GET("/api/v1/materials/{id}", { params: { path: { id } } })),
  });

interface Filled {
  name: string;
  sheet: ResinValues;
}

export function useAddResin() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Filled) => unwrap(client.POST("/api/v1/materials", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["materials"] }),
  });
}

export function useEditResin(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Filled & { version: number }) =>
      unwrap(client.PUT("/api/v1/materials/{id}", { params: { path: { id } }, body })),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["materials"] }),
        queries.invalidateQueries({ queryKey: ["sheets"] }),
      ]),
  });
}

export function useDeleteResin(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/materials/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      queries.removeQueries({ queryKey: ["materials", id] });
      return queries.invalidateQueries({ queryKey: ["materials"], exact: true });
    },
  });
}
