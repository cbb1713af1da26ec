import { useQuery, useQueryClient } from "@tanstack/react-query";

import { useLive } from "../../shared/live";
import { todayQuery } from "./queries";

/** Today as it is, looked at again as soon as something at the bench changed it. */
export function useToday() {
  const queries = useQueryClient();
  useLive((told) => {
    if (told.topic === "days" || told.topic === "look-anew")
      void queries.invalidateQueries({ queryKey: ["days"] });
  });
  return useQuery(todayQuery());
}
