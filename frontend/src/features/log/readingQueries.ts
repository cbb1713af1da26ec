import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, fileBody, unwrap, type NewReading, type Pour } from "../../api/client";

/** The readings of a cast, and what they are set beside. */
export const readingsQuery = (pour: string) =>
  queryOptions({
    queryKey: ["readings", pour],
    queryFn: () =>
      unwrap(client.GET("/api/v1/pours/{id}/readings", { params: { path: { id: pour } } })),
  });

/** The pictures of a pour, the oldest first: they come with its readings. */
export const picturesQuery = (pour: string) =>
  queryOptions({ ...readingsQuery(pour), select: (answer) => answer.pictures });

export function useAddReading(pour: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: NewReading) =>
      unwrap(client.POST("/api/v1/pours/{id}/readings", { params: { path: { id: pour } }, body })),
    onSuccess: (answer) => queries.setQueryData(["readings", pour], answer),
  });
}

export function useRemoveReading(pour: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(client.DELETE("/api/v1/readings/{id}", { params: { path: { id } } })),
    onSuccess: (answer) => queries.setQueryData(["readings", pour], answer),
  });
}

export function useImportReadings(pour: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (file: File) =>
      unwrap(
        client.POST("/api/v1/pours/{id}/readings.csv", {
          params: { path: { id: pour } },
          ...fileBody(file),
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["readings", pour] }),
  });
}

/** Asks a worker for the viscosity that fits the readings best. */
export function useFitViscosity(pour: string) {
  return useMutation({
    mutationFn: () =>
      unwrap(client.POST("/api/v1/pours/{id}/viscosity", { params: { path: { id: pour } } })),
  });
}

export function useWeighOffcuts(pour: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (offcuts_kg: number | null): Promise<Pour> =>
      unwrap(
        client.PUT("/api/v1/pours/{id}/offcuts", {
          params: { path: { id: pour } },
          body: { offcuts_kg },
        }),
      ),
    onSuccess: (changed) => queries.setQueryData(["pours", pour], changed),
  });
}

export function useAddPicture(pour: string, fault?: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ file, caption }: { file: File; caption: string }) =>
      unwrap(
        client.POST("/api/v1/pours/{id}/pictures", {
          params: { path: { id: pour } },
          ...fileBody(file, { caption, ...(fault && { fault_id: fault }) }),
        }),
      ),
    onSuccess: (answer) => queries.setQueryData(["readings", pour], answer),
  });
}

export function useRemovePicture(pour: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(client.DELETE("/api/v1/pictures/{id}", { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["readings", pour] }),
  });
}
