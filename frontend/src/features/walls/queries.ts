import { queryOptions } from "@tanstack/react-query";

import { client, unwrap, type WallQuestion } from "../../api/client";

export const motionsQuery = () =>
  queryOptions({
    queryKey: ["motions"],
    queryFn: () => unwrap(client.GET("/api/v1/motions")),
    select: (answer) => answer.motions,
    staleTime: Infinity,
  });

/** The wall of a sheet's cast, else the job that computes it: asking again while it waits is free. */
export const wallQuery = (sheetId: string, version: number, asked: WallQuestion) =>
  queryOptions({
    queryKey: ["walls", sheetId, version, asked],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/sheets/{id}/wall", { params: { path: { id: sheetId } }, body: asked }),
      ),
    // A refused job is not asked for again by itself.
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: false,
  });
