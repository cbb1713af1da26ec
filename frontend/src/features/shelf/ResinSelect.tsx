import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState } from "react";

import { materialListQuery, materialQuery } from "./queries";

interface Properties {
  id: string;
  value: string;
  onChange: (id: string) => void;
}

/** A casting resin, looked for by name on the server; the chosen one is always among them. */
export function ResinSelect({ id, value, onChange }: Properties) {
  const [search, setSearch] = useState("");
  const found = useQuery(materialListQuery(search));
  const chosen = useQuery({ ...materialQuery(value), enabled: Boolean(value) });
  const listed = found.data?.materials ?? [];
  const missing = chosen.data && !listed.some((one) => one.id === value) ? [chosen.data] : [];
  return (
    <Select
      id={id}
      value={value}
      onChange={onChange}
      showSearch
      filterOption={false}
      onSearch={setSearch}
      options={[...missing, ...listed].map((one) => ({ value: one.id, label: one.name }))}
    />
  );
}
