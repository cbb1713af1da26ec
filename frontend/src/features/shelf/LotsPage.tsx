import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";

import { client, fileBody, ProblemError, unwrap, type Lot } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { Dialog } from "../../shared/Dialog";
import { day, quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading, Nothing } from "../../shared/states";
import { ListTable } from "../../shared/ListTable";
import { useUndo } from "../../shared/useUndo";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../../shared/standing";
import { ExchangeBar } from "./ExchangeBar";
import { MaterialSelect } from "./MaterialSelect";
import { ShelfNav } from "./ShelfNav";
import { lotsQuery, useAddLot, useDeleteLot } from "./queries";

/** What is in the workshop, and until when; pours draw it down. */
export function LotsPage() {
  const lots = useQuery(lotsQuery());
  const [adding, setAdding] = useState(false);
  return (
    <section className="page">
      <header>
        <h1>Shelf</h1>
        <Button type="primary" onClick={() => setAdding(true)}>
          Add a lot
        </Button>
      </header>
      <ShelfNav />
      <div className="shelf-tools">
        <ExchangeBar
          what="lot"
          csv={{ href: "/api/v1/lots.csv", label: "Lots as CSV" }}
          json={{ href: "/api/v1/lots.json", label: "Lots as JSON" }}
          take={(file) => unwrap(client.POST("/api/v1/lots/file", fileBody(file)))}
        />
      </div>
      {lots.isError && <Failed error={lots.error} retry={() => void lots.refetch()} />}
      {lots.isPending && <Loading what="the lots" />}
      {lots.data?.length === 0 && (
        <Nothing>No lot yet. Put in what you have, and pours will draw it down.</Nothing>
      )}
      {lots.data && lots.data.length > 0 && <LotTable lots={lots.data} />}
      <Dialog side title="New lot" width={460} open={adding} onClose={() => setAdding(false)}>
        <NewLotForm onDone={() => setAdding(false)} />
      </Dialog>
    </section>
  );
}

function LotTable({ lots }: { lots: Lot[] }) {
  const system = useUnits((state) => state.system);
  const remove = useDeleteLot();
  const undo = useUndo();
  const refuse = useNotices((state) => state.refuse);
  return (
    <ListTable
      label="Lots"
      rows={lots}
      keyOf={(one) => one.id}
      columns={[
        { title: "Lot", render: (lot) => <b>{lot.label}</b> },
        { title: "Material", render: (lot) => lot.material_name },
        {
          title: "Left",
          align: "right",
          render: (lot) => <b>{quantity(lot.left_kg, "kg", system)}</b>,
        },
        {
          title: "Of",
          align: "right",
          render: (lot) => quantity(lot.bought_kg, "kg", system),
        },
        {
          title: "Cost",
          align: "right",
          render: (lot) => (lot.price === null ? "not said" : lot.price),
        },
        { title: "Opened", render: (lot) => (lot.opened_on ? day(lot.opened_on) : "not yet") },
        {
          title: "Good until",
          render: (lot) => (
            <span className={lot.past ? "wrong" : ""}>
              {day(lot.expires_on)}
              {lot.past && ", past"}
            </span>
          ),
        },
        {
          title: "Remove",
          render: (lot) => (
            <Button
              aria-label={`Remove ${lot.label}`}
              onClick={() =>
                remove.mutate(lot.id, {
                  onSuccess: (deleted) => undo(lot.label, deleted),
                  onError: refuse,
                })
              }
            >
              Remove
            </Button>
          ),
        },
      ]}
    />
  );
}

function NewLotForm({ onDone }: { onDone: () => void }) {
  const add = useAddLot();
  const [materialId, setMaterialId] = useState("");
  const [label, setLabel] = useState("");
  const [kilograms, setKilograms] = useState(1);
  const [unreadable, setUnreadable] = useState(false);
  const [opened, setOpened] = useState("");
  const [expires, setExpires] = useState("");
  const [price, setPrice] = useState("");
  const workshop = useQuery(workshopQuery());
  const problems = add.error instanceof ProblemError ? add.error.fields : {};

  return (
    <form
      className="stack"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(
          {
            material_id: materialId,
            label,
            bought_kg: kilograms,
            opened_on: opened || null,
            expires_on: expires,
            price: price.trim().replace(",", ".") || null,
          },
          { onSuccess: onDone },
        );
      }}
    >
      <div className="field">
        <label htmlFor="lot-material">Material</label>
        <MaterialSelect id="lot-material" kind="any" value={materialId} onChange={setMaterialId} />
        <div className="hint wrong">{problems.material_id}</div>
      </div>
      <div className="field">
        <label htmlFor="lot-label">Label</label>
        <Input
          id="lot-label"
          value={label}
          maxLength={120}
          status={problems.label ? "error" : ""}
          onChange={(event) => setLabel(event.target.value)}
        />
      </div>
      <QuantityField
        label="A and B together"
        kind="kg"
        value={kilograms}
        onChange={setKilograms}
        onUnreadable={setUnreadable}
        problem={problems.bought_kg}
      />
      <div className="field">
        <label htmlFor="lot-opened">Opened, if it is</label>
        <Input
          id="lot-opened"
          type="date"
          value={opened}
          onChange={(event) => setOpened(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="lot-expires">Good until</label>
        <Input
          id="lot-expires"
          type="date"
          value={expires}
          status={problems.expires_on ? "error" : ""}
          onChange={(event) => setExpires(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="lot-price">What it cost, {workshop.data?.currency}</label>
        <Input
          id="lot-price"
          value={price}
          inputMode="decimal"
          autoComplete="off"
          status={problems.price ? "error" : ""}
          onChange={(event) => setPrice(event.target.value)}
        />
        <div className="hint">Leave it empty if nobody remembers.</div>
      </div>
      <Button
        type="primary"
        htmlType="submit"
        loading={add.isPending}
        disabled={unreadable || !materialId}
      >
        Put it on the shelf
      </Button>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
