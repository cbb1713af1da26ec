import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import type { Material } from "../../api/client";
import { duration, money, quantity } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { ListTable } from "../../shared/ListTable";
import { useUnits } from "../../shared/units";
import { MaterialsExchange } from "./MaterialsExchange";
import { ShelfNav } from "./ShelfNav";
import { ORIGIN_WORDS, ratioOf } from "./words";
import { materialListQuery } from "./queries";
import { SearchField } from "../../shared/SearchField";
import { workshopQuery } from "../../shared/standing";

export function ShelfPage() {
  const [search, setSearch] = useState("");
  const materials = useQuery(materialListQuery(search));
  const found = materials.data?.materials ?? [];
  const navigate = useNavigate();
  return (
    <section className="page">
      <header>
        <h1>Shelf</h1>
        <Button type="primary" onClick={() => void navigate("/shelf/new")}>
          Add a resin of your own
        </Button>
      </header>
      <ShelfNav />
      <p className="lead">
        Casting resins by class. “Typical” values are from memory and no maker’s: put in your own
        data sheet before you trust a sheet made with them.
      </p>
      <div className="shelf-tools">
        <SearchField
          value={search}
          onChange={setSearch}
          shown={found.length}
          total={materials.data?.total ?? 0}
        />
        <MaterialsExchange kind="casting-resin" />
      </div>
      {materials.isPending && <Loading what="the shelf" />}
      {materials.isError && (
        <Failed error={materials.error} retry={() => void materials.refetch()} />
      )}
      {materials.data && found.length === 0 && <Nothing>No resin of that name.</Nothing>}
      {found.length > 0 && <ShelfTable materials={found} />}
    </section>
  );
}

function ShelfTable({ materials }: { materials: Material[] }) {
  const system = useUnits((state) => state.system);
  const workshop = useQuery(workshopQuery());
  return (
    <ListTable
      label="Resins"
      rows={materials}
      keyOf={(one) => one.id}
      columns={[
        {
          title: "Resin",
          render: (one) => (
            <Link className="row-name" to={`/shelf/${one.id}`}>
              {one.name}
            </Link>
          ),
        },
        { title: "A : B", render: (one) => ratioOf(one.sheet) },
        {
          title: "Working time",
          align: "right",
          render: (one) => duration(one.sheet.working_time_s),
        },
        { title: "Gel", align: "right", render: (one) => duration(one.sheet.gel_s) },
        { title: "Demould", align: "right", render: (one) => duration(one.sheet.demould_s) },
        {
          title: "One coat",
          align: "right",
          render: (one) => quantity(one.sheet.coat_wall_m, "m", system),
        },
        { title: "Hardness", render: (one) => one.sheet.hardness },
        {
          title: "Kit",
          align: "right",
          render: (one) => money(one.sheet.kit_price, workshop.data?.currency ?? ""),
        },
        { title: "Values", render: (one) => ORIGIN_WORDS[one.sheet.origin] },
      ]}
    />
  );
}
