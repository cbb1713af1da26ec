import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { client, fileBody, unwrap, type LengthUnit } from "../../api/client";

export const piecesQuery = () =>
  queryOptions({
    queryKey: ["pieces"],
    queryFn: () => unwrap(client.GET("/api/v1/pieces")),
    select: (answer) => answer.pieces,
  });

export const pieceQuery = (id: string) =>
  queryOptions({
    queryKey: ["pieces", id],
    queryFn: () => unwrap(client.GET("/api/v1/pieces/{id}", { params: { path: { id } } })),
  });

export const workshopQuery = () =>
  queryOptions({
    queryKey: ["workshop"],
    queryFn: () => unwrap(client.GET("/api/v1/workshop")),
    staleTime: Infinity,
  });

export function useUpload() {
  return useMutation({
    mutationFn: (file: File) => unwrap(client.POST("/api/v1/mesh-files", fileBody(file))),
  });
}

export function useAddPiece() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; mesh_sha256: string; units: LengthUnit }) =>
      unwrap(client.POST("/api/v1/pieces", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["pieces"] }),
  });
}

export function useRenamePiece(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; version: number }) =>
      unwrap(client.PATCH("/api/v1/pieces/{id}", { params: { path: { id } }, body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["pieces"] }),
  });
}

export function useDeletePiece(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/pieces/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      queries.removeQueries({ queryKey: ["pieces", id] });
      return queries.invalidateQueries({ queryKey: ["pieces"], exact: true });
    },
  });
}
