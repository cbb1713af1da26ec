import { useMutation, useQueryClient } from "@tanstack/react-query";

import { client, unwrap, type Equipment } from "../../api/client";

/** What the workshop works with stands behind every plan: all of them are asked for anew. */
export function useSetEquipment() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Equipment) => unwrap(client.PUT("/api/v1/workshop/equipment", { body })),
    onSuccess: (workshop) => {
      queries.setQueryData(["workshop"], workshop);
      return queries.invalidateQueries({ predicate: (one) => one.queryKey[0] !== "workshop" });
    },
  });
}
