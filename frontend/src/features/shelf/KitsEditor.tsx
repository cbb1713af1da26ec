import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";

import type { Kit } from "../../api/client";
import { readField } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { workshopQuery } from "../../shared/standing";
import { kitsQuery, useSetKits } from "./queries";

/** The kits a material can be bought in; the buy list chooses among them. */
export function KitsEditor({ materialId }: { materialId: string }) {
  const kits = useQuery(kitsQuery(materialId));
  if (kits.isPending) return <Loading what="the kits" />;
  if (kits.isError) return <Failed error={kits.error} retry={() => void kits.refetch()} />;
  return <KitRows key={JSON.stringify(kits.data)} materialId={materialId} kits={kits.data} />;
}

interface Row {
  name: string;
  kilograms: string;
  price: string;
  days: string;
}

const COLUMNS: Record<keyof Row, string> = {
  name: "Kit",
  kilograms: "A and B together, kg",
  price: "Price",
  days: "Keeps unopened, days",
};
const COLUMN_NAMES = ["name", "kilograms", "price", "days"] as const;

const toRow = (kit: Kit): Row => ({
  name: kit.name,
  kilograms: String(kit.mass_kg),
  price: String(kit.price),
  days: String(kit.shelf_life_days),
});

/** A row as the server takes it; null when a weight or days cannot be read. */
function toKit(row: Row): Kit | null {
  const mass_kg = readField(row.kilograms, "count", "metric");
  const days = readField(row.days, "count", "metric");
  if (mass_kg === null || days === null || !Number.isInteger(days)) return null;
  const price = row.price.trim().replace(",", ".");
  return { name: row.name, mass_kg, price, shelf_life_days: days };
}

function KitRows({ materialId, kits }: { materialId: string; kits: Kit[] }) {
  const [rows, setRows] = useState(kits.map(toRow));
  const set = useSetKits(materialId);
  const workshop = useQuery(workshopQuery());
  const read = rows.map(toKit);
  const unreadable = read.findIndex((kit) => kit === null);
  const change = (at: number, part: Partial<Row>) =>
    setRows(rows.map((row, index) => (index === at ? { ...row, ...part } : row)));
  return (
    <form
      className="kits"
      aria-label="Kits on offer"
      onSubmit={(event) => {
        event.preventDefault();
        if (unreadable < 0) set.mutate(read.filter((kit) => kit !== null));
      }}
    >
      <h2>Kits on offer</h2>
      <table className="stacks">
        <thead>
          <tr>
            {COLUMN_NAMES.map((column) => (
              <th key={column} scope="col">
                {COLUMNS[column]}
                {column === "price" && `, ${workshop.data?.currency ?? ""}`}
              </th>
            ))}
            <th scope="col">
              <span className="out-of-sight">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, at) => (
            <tr key={at}>
              {COLUMN_NAMES.map((column) => (
                <td key={column} data-label={COLUMNS[column]}>
                  <Input
                    aria-label={`${column} of kit ${at + 1}`}
                    value={row[column]}
                    maxLength={80}
                    status={unreadable === at && column !== "name" ? "error" : ""}
                    onChange={(event) => change(at, { [column]: event.target.value })}
                  />
                </td>
              ))}
              <td>
                <Button
                  size="small"
                  aria-label={`Remove kit ${at + 1}`}
                  onClick={() => setRows(rows.filter((_, index) => index !== at))}
                >
                  Remove
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {unreadable >= 0 && (
        <p className="wrong">Kit {unreadable + 1} has a weight or days that are no number.</p>
      )}
      <span className="actions">
        <Button
          onClick={() => setRows([...rows, { name: "", kilograms: "", price: "", days: "360" }])}
        >
          Add a kit
        </Button>
        <Button htmlType="submit" disabled={unreadable >= 0} loading={set.isPending}>
          Save these kits
        </Button>
      </span>
      {set.error && <Failed error={set.error} />}
    </form>
  );
}
