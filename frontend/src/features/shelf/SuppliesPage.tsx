import { useQuery } from "@tanstack/react-query";
import { Radio } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { Supply } from "../../api/client";
import { quantity, type QuantityKind } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { MaterialsExchange } from "./MaterialsExchange";
import { ShelfNav } from "./ShelfNav";
import { supplyListQuery } from "./queries";
import { SearchField } from "../../shared/SearchField";

const KINDS: Record<string, string> = {
  rubber: "Rubbers",
  shell: "Shells",
  release: "Releases",
  sealer: "Sealers",
  clay: "Clays",
  additive: "Additives",
  consumable: "Consumables",
};

/** Everything on the shelf that is not cast: read by kind. */
export function SuppliesPage() {
  const [kind, setKind] = useState("rubber");
  const [search, setSearch] = useState("");
  const supplies = useQuery(supplyListQuery(kind, search));
  const shown = supplies.data?.supplies ?? [];
  return (
    <section className="page">
      <header>
        <h1>Shelf</h1>
      </header>
      <ShelfNav />
      <Radio.Group
        aria-label="Kind"
        optionType="button"
        value={kind}
        onChange={(event) => setKind(event.target.value as string)}
        options={Object.entries(KINDS).map(([value, label]) => ({ value, label }))}
      />
      <div className="shelf-tools">
        <SearchField
          value={search}
          onChange={setSearch}
          shown={shown.length}
          total={supplies.data?.total ?? 0}
        />
        <span className="actions">
          <MaterialsExchange kind={kind} />
          <Link className="ant-btn big-link" to={`/shelf/supplies/new/${kind}`}>
            One of your own
          </Link>
        </span>
      </div>
      {supplies.isPending && <Loading what="the shelf" />}
      {supplies.isError && <Failed error={supplies.error} retry={() => void supplies.refetch()} />}
      {supplies.data && shown.length === 0 && <Nothing>None of this kind.</Nothing>}
      <div className="cards">
        {shown.map((one) => (
          <SupplyCard key={one.id} supply={one} />
        ))}
      </div>
    </section>
  );
}

function SupplyCard({ supply }: { supply: Supply }) {
  const system = useUnits((state) => state.system);
  return (
    <article className="card">
      <h2>
        <Link className="row-name" to={`/shelf/supplies/${supply.id}`}>
          {supply.name}
        </Link>
      </h2>
      <p className="faint">{supply.origin === "typical" ? "typical values" : "your sheet"}</p>
      <dl>
        {supply.facts.map((fact) => (
          <div key={fact.label}>
            <dt>{fact.label}</dt>
            <dd>
              {fact.quantity
                ? quantity(fact.quantity.value, fact.quantity.unit as QuantityKind, system)
                : fact.words}
            </dd>
          </div>
        ))}
      </dl>
      {supply.hazards.map((hazard) => (
        <p key={hazard} className="hazard">
          {hazard}
        </p>
      ))}
    </article>
  );
}
