import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState } from "react";

import { materialListQuery, supplyListQuery, supplyQuery } from "./queries";

interface Properties {
  id: string;
  /** A kind of the shelf; casting resins when left out, "any" for the whole shelf. */
  kind?: string;
  value: string;
  onChange: (id: string) => void;
}

/** A material, looked for by name on the server; the chosen one is always among them. */
export function MaterialSelect({ id, kind = "casting-resin", value, onChange }: Properties) {
  const [search, setSearch] = useState("");
  const resins = useQuery({
    ...materialListQuery(search),
    enabled: kind === "casting-resin" || kind === "any",
  });
  const others = useQuery({
    ...supplyListQuery(kind === "any" ? null : kind, search),
    enabled: kind !== "casting-resin",
  });
  const chosen = useQuery({ ...supplyQuery(value), enabled: Boolean(value) });
  const listed = [...(resins.data?.materials ?? []), ...(others.data?.supplies ?? [])];
  const missing = chosen.data && !listed.some((one) => one.id === value) ? [chosen.data] : [];
  return (
    <Select
      id={id}
      value={value || null}
      placeholder="Choose"
      onChange={(chosenId: string | null) => onChange(chosenId ?? "")}
      showSearch
      // What the last answer holds and no longer fits is hidden at once, so that Enter cannot take it.
      optionFilterProp="label"
      onSearch={setSearch}
      options={[...missing, ...listed].map((one) => ({ value: one.id, label: one.name }))}
    />
  );
}
