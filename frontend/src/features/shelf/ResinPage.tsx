import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, Radio, Select } from "antd";
import { useState, type ReactNode } from "react";
import { useNavigate, useParams } from "react-router";

import { ProblemError, type FormField, type Material, type ResinValues } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { QuantityField } from "../../shared/QuantityField";
import { Failed, Loading } from "../../shared/states";
import { workshopQuery } from "../../shared/standing";
import { KitsEditor } from "./KitsEditor";
import { TakeOffButton } from "./TakeOffButton";
import { formQuery, materialQuery, materialsQuery, useAddResin, useEditResin } from "./queries";
import { CLOCK, GROUPS, ORIGIN_WORDS } from "./words";

/** Where the field begins; the sheet's own figure is typed over it. */
const USUAL_RISE_K = 50;

/** A data sheet: read it, or make it your own. */
export function ResinPage() {
  const { id = "" } = useParams();
  return id === "new" ? <NewResin /> : <KnownResin key={id} id={id} />;
}

function KnownResin({ id }: { id: string }) {
  const material = useQuery(materialQuery(id));
  const edit = useEditResin(id);
  const say = useNotices((state) => state.say);
  if (material.isPending) return <Loading what="the data sheet" />;
  if (material.isError)
    return <Failed error={material.error} retry={() => void material.refetch()} />;
  const { version } = material.data;
  return (
    <>
      <ResinForm
        key={version}
        start={material.data}
        title={material.data.name}
        saving={edit.isPending}
        error={edit.error}
        onSave={(name, sheet) =>
          edit.mutate(
            { name, sheet, version },
            { onSuccess: () => say("Saved as your own sheet.") },
          )
        }
        extra={<TakeOffButton materialId={id} name={material.data.name} backTo="/shelf" />}
      />
      <section className="page">
        <KitsEditor materialId={id} />
      </section>
    </>
  );
}

function NewResin() {
  const materials = useQuery(materialsQuery());
  const [startId, setStartId] = useState<string | null>(null);
  const add = useAddResin();
  const navigate = useNavigate();
  if (materials.isPending) return <Loading what="the shelf" />;
  if (materials.isError) return <Failed error={materials.error} />;
  const start = materials.data.find((one) => one.id === startId) ?? materials.data[0];
  if (!start)
    return <Failed error={new Error("The shelf is empty: there is no class to start from.")} />;
  return (
    <ResinForm
      key={start.id}
      start={{ ...start, name: "" }}
      title="A resin of your own"
      saving={add.isPending}
      error={add.error}
      onSave={(name, sheet) =>
        add.mutate({ name, sheet }, { onSuccess: (made) => void navigate(`/shelf/${made.id}`) })
      }
      extra={
        <span className="inline">
          <label htmlFor="start-class">Start from</label>
          <Select
            id="start-class"
            className="wide"
            value={start.id}
            onChange={setStartId}
            options={materials.data.map((one) => ({ value: one.id, label: one.name }))}
          />
        </span>
      }
    />
  );
}

interface FormProperties {
  start: Material;
  title: string;
  saving: boolean;
  error: Error | null;
  onSave: (name: string, sheet: ResinValues) => void;
  extra: ReactNode;
}

function ResinForm({ start, title, saving, error, onSave, extra }: FormProperties) {
  const { origin, ...startValues } = start.sheet;
  const [name, setName] = useState(start.name);
  const [values, setValues] = useState<ResinValues>(startValues);
  const [unreadable, setUnreadable] = useState<ReadonlySet<string>>(new Set());
  const workshop = useQuery(workshopQuery());
  const form = useQuery(formQuery("casting-resin"));
  const problems = error instanceof ProblemError ? error.fields : {};
  const problemOf = (field: string) => problems[field] ?? problems[`sheet.${field}`];
  const set = (change: Partial<ResinValues>) => setValues({ ...values, ...change });

  function note(field: string, is: boolean) {
    const next = new Set(unreadable);
    if (is) next.add(field);
    else next.delete(field);
    setUnreadable(next);
  }

  return (
    <section className="page">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onSave(name, { ...values, hazards: values.hazards.filter((line) => line.trim()) });
        }}
      >
        <header>
          <h1>{title}</h1>
          <span className="actions">
            {extra}
            <Button
              type="primary"
              htmlType="submit"
              loading={saving}
              disabled={unreadable.size > 0}
            >
              Save as your own sheet
            </Button>
          </span>
        </header>
        <p className="lead">
          Values: <b>{ORIGIN_WORDS[origin]}</b>
          {origin === "typical" &&
            " for the class, from memory; no maker’s sheet stands behind them"}
          .
        </p>
        {error && <Failed error={error} />}
        <div className="sheet-groups">
          <fieldset>
            <legend>What it is</legend>
            <TextField label="Name" value={name} onChange={setName} problem={problems.name} />
            <TextField
              label="Class"
              value={values.material_class}
              onChange={(material_class) => set({ material_class })}
              problem={problemOf("material_class")}
            />
            <TextField
              label="Hardness, with its scale"
              value={values.hardness}
              onChange={(hardness) => set({ hardness })}
              problem={problemOf("hardness")}
            />
            <div className="field">
              <span id="basis">A and B are measured by</span>
              <Radio.Group
                aria-labelledby="basis"
                value={values.ratio_basis}
                onChange={(event) =>
                  set({ ratio_basis: event.target.value as ResinValues["ratio_basis"] })
                }
              >
                <Radio value="weight">weight</Radio>
                <Radio value="volume">volume</Radio>
              </Radio.Group>
            </div>
          </fieldset>
          {GROUPS.map((group) => (
            <fieldset key={group.title}>
              <legend>{group.title}</legend>
              {group.fields.map(({ field, label, kind }) => (
                <QuantityField
                  key={field}
                  label={label}
                  kind={kind}
                  value={values[field]}
                  onChange={(value) => set({ [field]: value })}
                  onUnreadable={(is) => note(field, is)}
                  problem={problemOf(field)}
                />
              ))}
              {group.title === CLOCK && (
                <PeakField
                  value={values.peak_exotherm_k ?? null}
                  start={values.standard_temperature_k + USUAL_RISE_K}
                  problem={problemOf("peak_exotherm_k")}
                  onChange={(peak_exotherm_k) => set({ peak_exotherm_k })}
                  onUnreadable={(is) => note("peak_exotherm_k", is)}
                />
              )}
              {group.title === "Kit" && (
                <TextField
                  label={`Price in ${workshop.data?.currency ?? ""}`}
                  value={String(values.kit_price)}
                  onChange={(kit_price) => set({ kit_price })}
                  problem={problemOf("kit_price")}
                />
              )}
            </fieldset>
          ))}
          <fieldset>
            <legend>What it is like</legend>
            <div className="field">
              <label htmlFor="resin-traits">Rules and the chain go by these</label>
              <Select
                id="resin-traits"
                mode="multiple"
                value={values.traits}
                onChange={(traits) => set({ traits })}
                options={traitOptions(form.data)}
              />
            </div>
          </fieldset>
          <fieldset>
            <legend>Hazards, a sentence a line</legend>
            <Input.TextArea
              aria-label="Hazards, a sentence a line"
              rows={5}
              value={values.hazards.join("\n")}
              onChange={(event) => set({ hazards: event.target.value.split("\n") })}
            />
            <p className="faint">
              They stand on the sheet, at the bench and on the card. Read the maker’s safety data
              sheet, follow local codes, and ask a licensed practitioner where one is required.
            </p>
          </fieldset>
        </div>
      </form>
    </section>
  );
}

interface PeakProperties {
  value: number | null;
  start: number;
  problem: string | undefined;
  onChange: (kelvin: number | null) => void;
  onUnreadable: (is: boolean) => void;
}

/** Not every sheet gives a peak; where one does, the heat of the cure is fitted to it. */
function PeakField({ value, start, problem, onChange, onUnreadable }: PeakProperties) {
  return (
    <>
      <Checkbox
        checked={value !== null}
        onChange={(event) => {
          onUnreadable(false);
          onChange(event.target.checked ? start : null);
        }}
      >
        The sheet gives a peak exotherm
      </Checkbox>
      {value !== null && (
        <QuantityField
          label="Peak exotherm, of the same mass in its cup"
          kind="K"
          value={value}
          onChange={onChange}
          onUnreadable={onUnreadable}
          problem={problem}
        />
      )}
    </>
  );
}

function traitOptions(fields: FormField[] | undefined) {
  const names = fields?.find((field) => field.name === "traits")?.options ?? [];
  return names.map((name) => ({
    value: name as ResinValues["traits"][number],
    label: name.replaceAll("-", " "),
  }));
}

interface TextProperties {
  label: string;
  value: string;
  onChange: (value: string) => void;
  problem: string | undefined;
}

function TextField({ label, value, onChange, problem }: TextProperties) {
  const id = `text-${label.replace(/\W+/g, "-")}`;
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <Input
        id={id}
        value={value}
        maxLength={120}
        status={problem ? "error" : ""}
        aria-invalid={Boolean(problem)}
        onChange={(event) => onChange(event.target.value)}
      />
      <div className="hint wrong">{problem}</div>
    </div>
  );
}
