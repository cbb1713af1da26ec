import { keepPreviousData, queryOptions } from "@tanstack/react-query";

import { client, unwrap, type PatternKind } from "../../api/client";
import type { paths } from "../../api/schema";

export type PatternQuery = paths["/api/v1/moulds/{id}/pattern"]["get"]["parameters"]["query"];

/** What a pattern is of. */
export interface Owner {
  of: "pieces" | "moulds";
  id: string;
}

/** A pattern on its sheets; while another is drawn the last one of its kind stays. */
export const patternQuery = ({ of, id }: Owner, query: PatternQuery) =>
  queryOptions({
    queryKey: ["pattern", of, id, query],
    queryFn: ({ signal }) => {
      const params = { path: { id }, query };
      return unwrap(
        of === "moulds"
          ? client.GET("/api/v1/moulds/{id}/pattern", { params, signal })
          : client.GET("/api/v1/pieces/{id}/pattern", { params, signal }),
      );
    },
    placeholderData: keepPreviousData,
  });

/** What is kept of the patterns of a piece or a mould. */
export const keptQuery = ({ of, id }: Owner) =>
  queryOptions({
    queryKey: ["kept-patterns", of, id],
    queryFn: ({ signal }) => {
      const params = { path: { id } };
      return unwrap(
        of === "moulds"
          ? client.GET("/api/v1/moulds/{id}/patterns", { params, signal })
          : client.GET("/api/v1/pieces/{id}/patterns", { params, signal }),
      );
    },
  });

/** Keep what is wanted of a pattern with its piece or mould. */
export function keepPattern({ of, id }: Owner, body: PatternQuery) {
  const params = { path: { id } };
  return unwrap(
    of === "moulds"
      ? client.PUT("/api/v1/moulds/{id}/patterns", { params, body })
      : client.PUT("/api/v1/pieces/{id}/patterns", { params, body }),
  );
}

/** What of a query says something: the rest is as usual. */
export const given = (query: Partial<PatternQuery>): PatternQuery =>
  Object.fromEntries(
    Object.entries(query).filter(([, value]) => value !== null && value !== undefined),
  ) as PatternQuery;

/** Whether two ask for the same. */
export function isSame(one: Partial<PatternQuery>, other: Partial<PatternQuery>): boolean {
  const [a, b] = [new Map(Object.entries(given(one))), new Map(Object.entries(given(other)))];
  return a.size === b.size && [...a].every(([name, value]) => b.get(name) === value);
}

/** Where a pattern is downloaded. */
export function patternFile({ of, id }: Owner, ending: string, query: PatternQuery): string {
  const words = Object.entries(given(query)).map(([name, value]) => [name, String(value)]);
  return `/api/v1/${of}/${id}/pattern/${ending}?${new URLSearchParams(words).toString()}`;
}

export const KINDS: readonly { value: PatternKind; label: string; needsMould: boolean }[] = [
  { value: "part-line", label: "Part-line wall", needsMould: true },
  { value: "strips", label: "Strips", needsMould: true },
  { value: "skirt", label: "Skirt", needsMould: false },
  { value: "box", label: "Box", needsMould: false },
  { value: "visor", label: "Visor", needsMould: false },
  { value: "trim", label: "Trimming", needsMould: false },
];
