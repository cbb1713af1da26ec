import {
  keepPreviousData,
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useCallback } from "react";

import {
  client,
  fileBody,
  unwrap,
  type Head,
  type LengthUnit,
  type Piece,
  type SurveyRequest,
  type SurveyWish,
  type Taping,
} from "../../api/client";
import { refreshWithout } from "../../shared/deleted";
import { isOpen, jobQuery, useWhenDone } from "../jobs/queries";
import { TO_CHOOSE_FROM, untilDrawn, type ListPage } from "../../shared/paging";

/** A page of the pieces: a name and a few figures each. */
export const piecePageQuery = (page: ListPage) =>
  queryOptions({
    queryKey: ["pieces", "list", page],
    queryFn: () => unwrap(client.GET("/api/v1/pieces", { params: { query: page } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => untilDrawn(state.data),
  });

/** The newest pieces, to choose from. */
export const piecesQuery = () =>
  queryOptions({
    ...piecePageQuery(TO_CHOOSE_FROM),
    refetchInterval: false,
    select: (answer) => answer.pieces,
  });

export const pieceQuery = (id: string) =>
  queryOptions({
    queryKey: ["pieces", id],
    queryFn: () => unwrap(client.GET("/api/v1/pieces/{id}", { params: { path: { id } } })),
  });

export function useUpload() {
  return useMutation({
    mutationFn: (file: File) => unwrap(client.POST("/api/v1/mesh-files", fileBody(file))),
  });
}

/** What a worker read of an uploaded file. */
export const uploadedQuery = (sha256: string) =>
  queryOptions({
    queryKey: ["mesh-files", sha256],
    queryFn: () =>
      unwrap(client.GET("/api/v1/mesh-files/{sha256}", { params: { path: { sha256 } } })),
    enabled: sha256 !== "",
    staleTime: Infinity,
  });

export function useAddPiece() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; mesh_sha256: string; units: LengthUnit }) =>
      unwrap(client.POST("/api/v1/pieces", { body })),
    // Not waited for: how far it is shows at once.
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["jobs"] }),
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
    onSuccess: () => refreshWithout(queries, "pieces", id),
  });
}

/** What shows something of a piece, and is asked for again when it was surveyed. */
export const SURVEYED = ["pieces", "sheets", "plan"] as const;

export function useSurveyAgain(id: string) {
  return useMutation({
    mutationFn: (body: SurveyRequest) =>
      unwrap(client.PUT("/api/v1/pieces/{id}/survey", { params: { path: { id } }, body })),
  });
}

/** What a survey of the piece was asked, but for a change; the server tells all of it. */
export function wishWith(piece: Piece, changed: Partial<SurveyWish>): SurveyWish {
  return { ...(piece.wish as SurveyWish), ...changed };
}

/** One press that changes what is wanted of a survey, and the job that measures it again. */
export function useSurveyChange(piece: Piece) {
  const again = useSurveyAgain(piece.id);
  const asked = useQuery({ ...jobQuery(again.data?.id ?? ""), enabled: again.data !== undefined });
  const job = asked.data ?? again.data;
  useWhenDone(job, SURVEYED, () => undefined);
  const { mutate } = again;
  const change = useCallback(
    (changed: Partial<SurveyWish>) =>
      mutate({ version: piece.version, wish: wishWith(piece, changed) }),
    [mutate, piece],
  );
  return { change, job, error: again.error, isBusy: again.isPending || (job && isOpen(job)) };
}

// Asked of one version: a new survey asks anew by itself, and the old one is never asked again.
export const girthsQuery = (id: string, version: number, axis: Axis) =>
  queryOptions({
    queryKey: ["piece tests", id, "girths", version, axis],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/pieces/{id}/girths", { params: { path: { id }, query: AXES[axis] } }),
      ),
    select: (answer) => answer.girths,
    placeholderData: keepPreviousData,
  });

/** The ways along which a piece is taped. */
export const AXES = { out: {}, x: { x: 1 }, y: { y: 1 }, z: { z: 1 } } as const;
export type Axis = keyof typeof AXES;

interface RimRequest {
  volume_m3: number;
  tilt: number;
  heading: number;
  skirt_m: number;
}

export const rimQuery = (id: string, version: number, asked: RimRequest) =>
  queryOptions({
    queryKey: ["piece tests", id, "rim", version, asked],
    queryFn: ({ signal }) =>
      unwrap(
        client.POST("/api/v1/pieces/{id}/rim", { params: { path: { id } }, body: asked, signal }),
      ),
    placeholderData: keepPreviousData,
  });

export const fitQuery = (id: string, version: number, head: Head, wall_m: number) =>
  queryOptions({
    queryKey: ["piece tests", id, "fit", version, head, wall_m],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/pieces/{id}/fit", {
          params: { path: { id } },
          body: { head, wall_m },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export const betterQuery = (id: string, other: string) =>
  queryOptions({
    queryKey: ["pieces", id, "better", other],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/pieces/{id}/better", { params: { path: { id }, query: { other } } }),
      ),
    enabled: other !== "",
  });

/** How a taped piece looks; the last one stays until the new one is there. */
export const tapingQuery = (taping: Taping) =>
  queryOptions({
    queryKey: ["taping", taping],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/v1/taping/preview", { body: taping, signal })),
    placeholderData: keepPreviousData,
  });

export function useReadGirths() {
  return useMutation({
    mutationFn: (file: File) => unwrap(client.POST("/api/v1/taping/file", fileBody(file))),
  });
}

/** Keeps a piece measured by hand, whichever way. */
export function useAddByHand(send: () => Promise<Piece>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["pieces", "list"] }),
  });
}
