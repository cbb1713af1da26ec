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

/** Where a pattern is downloaded. */
export function patternFile({ of, id }: Owner, ending: string, query: PatternQuery): string {
  const given = Object.entries(query).filter(([, value]) => value !== null);
  const words = given.map(([name, value]) => [name, String(value)]);
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
