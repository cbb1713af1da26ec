import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Radio } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import { ProblemError, type Equipment, type Workshop } from "../../api/client";
import type { QuantityKind } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { useMay, workshopQuery } from "../../shared/standing";
import { AccessPanel } from "../access/AccessPanel";
import { ArchivePanel } from "./ArchivePanel";
import { DeletedPanel } from "./DeletedPanel";
import { DevicesPanel } from "./DevicesPanel";
import { PeoplePanel } from "./PeoplePanel";
import { useSetEquipment } from "./queries";

type NumberOf<T> = { [K in keyof T]: T[K] extends number ? K : never }[keyof T];
type Field<T> = { field: NumberOf<T>; label: string; kind: QuantityKind; hint?: string };

const HOURS: readonly Field<Equipment>[] = [
  { field: "opens_h", label: "Working hours from", kind: "hour" },
  {
    field: "closes_h",
    label: "Working hours until",
    kind: "hour",
    hint: "Builds are put between these hours.",
  },
];
const TOOLS: readonly Field<Equipment>[] = [
  { field: "scale_step_kg", label: "Last digit of the scale", kind: "kg" },
  {
    field: "machine_limit_kg",
    label: "The turning machine carries",
    kind: "load",
    hint: "Its plate says so.",
  },
  {
    field: "cover_m2_s",
    label: "One pair of hands covers",
    kind: "pace",
    hint: "Of the face of a mould, rolled or brushed; assumed until you time yourself.",
  },
];
const CUP: readonly Field<Equipment["cup"]>[] = [
  { field: "bottom_diameter_m", label: "Across at the bottom", kind: "m" },
  { field: "top_diameter_m", label: "Across at the brim", kind: "m" },
  { field: "height_m", label: "Height", kind: "m" },
];

/** What the workshop works with; every plan stands on it. */
export function WorkshopPage() {
  const workshop = useQuery(workshopQuery());
  if (workshop.isPending) return <Loading what="the workshop" />;
  if (workshop.isError)
    return <Failed error={workshop.error} retry={() => void workshop.refetch()} />;
  return <EquipmentForm workshop={workshop.data} />;
}

function EquipmentForm({ workshop }: { workshop: Workshop }) {
  const [equipment, setEquipment] = useState(workshop.equipment as Equipment);
  const [bad, setBad] = useState<ReadonlySet<string>>(new Set());
  const keep = useSetEquipment();
  const isOwner = useMay("own");
  const mayMake = useMay("make");
  const problems = keep.error instanceof ProblemError ? keep.error.fields : {};
  const changed = JSON.stringify(equipment) !== JSON.stringify(workshop.equipment);

  function note(field: string, unreadable: boolean) {
    const next = new Set(bad);
    if (unreadable) next.add(field);
    else next.delete(field);
    setBad(next);
  }

  function fields<T extends Equipment | Equipment["cup"]>(
    rows: readonly Field<T>[],
    values: T,
    change: (field: NumberOf<T>, value: number) => void,
  ) {
    return rows.map(({ field, label, kind, hint }) => (
      <QuantityField
        key={String(field)}
        label={label}
        kind={kind}
        value={values[field] as number}
        hint={hint}
        problem={problems[String(field)]}
        onChange={(value) => change(field, value)}
        onUnreadable={(is) => note(String(field), is)}
      />
    ));
  }

  const ofEquipment = (field: NumberOf<Equipment>, value: number) =>
    setEquipment({ ...equipment, [field]: value });
  return (
    <section className="page">
      <header>
        <h1>{workshop.name}</h1>
        {mayMake && <Link to="/workshop/trail">Who did what</Link>}
      </header>
      <form
        className="equipment-form"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(equipment);
        }}
      >
        <section className="card" aria-label="When">
          <h2>When</h2>
          {fields(HOURS, equipment, ofEquipment)}
        </section>
        <section className="card" aria-label="With what">
          <h2>With what</h2>
          <div className="field">
            <span id="hands">Pairs of hands at a pour</span>
            <Radio.Group
              aria-labelledby="hands"
              optionType="button"
              value={equipment.hands}
              onChange={(event) =>
                setEquipment({ ...equipment, hands: event.target.value as number })
              }
              options={[
                { value: 1, label: "one" },
                { value: 2, label: "two" },
              ]}
            />
            <div className="hint">The second weighs and stirs while the first rolls.</div>
          </div>
          <Checkbox
            checked={equipment.has_machine}
            onChange={(event) => setEquipment({ ...equipment, has_machine: event.target.checked })}
          >
            A machine turns moulds here
          </Checkbox>
          {fields(TOOLS, equipment, ofEquipment)}
        </section>
        <section className="card" aria-label="Largest mixing cup">
          <h2>Largest mixing cup</h2>
          <p className="faint">Inside measures; marks for A and B are worked out for it.</p>
          {fields(CUP, equipment.cup, (field, value) =>
            setEquipment({ ...equipment, cup: { ...equipment.cup, [field]: value } }),
          )}
          {problems.cup && <div className="hint wrong">{problems.cup}</div>}
        </section>
        <div>
          <Button
            type="primary"
            htmlType="submit"
            disabled={!changed || bad.size > 0}
            loading={keep.isPending}
          >
            {changed ? "Save" : "Saved"}
          </Button>
          {keep.error && <Failed error={keep.error} />}
        </div>
      </form>
      <PeoplePanel />
      <AccessPanel />
      <DeletedPanel />
      <DevicesPanel />
      {isOwner && <ArchivePanel />}
    </section>
  );
}
