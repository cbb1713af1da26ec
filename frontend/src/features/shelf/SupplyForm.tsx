import { Button, Checkbox, Input, Select } from "antd";
import { useState, type ReactNode } from "react";

import { ProblemError, type FormField, type SheetValues } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";
import { Failed } from "../../shared/states";
import type { QuantityKind } from "../../shared/format";

interface Properties {
  title: string;
  origin: string | null;
  fields: FormField[];
  name: string;
  start: SheetValues;
  saving: boolean;
  error: unknown;
  onSave: (name: string, sheet: SheetValues) => void;
  extra: ReactNode;
}

/** A data sheet of any kind: what is asked comes from the server with its labels and units. */
export function SupplyForm(properties: Properties) {
  const { title, origin, fields, start, saving, error, onSave, extra } = properties;
  const [name, setName] = useState(properties.name);
  const [sheet, setSheet] = useState(start);
  const [unreadable, setUnreadable] = useState<ReadonlySet<string>>(new Set());
  const problems = error instanceof ProblemError ? error.fields : {};

  function note(field: string, is: boolean) {
    const next = new Set(unreadable);
    if (is) next.add(field);
    else next.delete(field);
    setUnreadable(next);
  }

  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onSave(name, tidy(sheet));
      }}
    >
      <header>
        <h1>{title}</h1>
        <span className="actions">
          {extra}
          <Button type="primary" htmlType="submit" loading={saving} disabled={unreadable.size > 0}>
            Save as your own sheet
          </Button>
        </span>
      </header>
      {origin && (
        <p className="lead">
          Values: <b>{origin}</b>.
        </p>
      )}
      {error != null && <Failed error={error} />}
      <div className="supply-fields">
        <div className="field">
          <label htmlFor="supply-name">Name</label>
          <Input
            id="supply-name"
            value={name}
            maxLength={120}
            status={problems.name ? "error" : ""}
            onChange={(event) => setName(event.target.value)}
          />
          <div className="hint wrong">{problems.name}</div>
        </div>
        {fields.map((field) => (
          <Value
            key={field.name}
            field={field}
            value={sheet[field.name] ?? null}
            problem={problems[field.name] ?? problems[`sheet.${field.name}`]}
            onChange={(value) => setSheet({ ...sheet, [field.name]: value })}
            onUnreadable={(is) => note(field.name, is)}
          />
        ))}
      </div>
      <p className="faint">
        Read the maker’s safety data sheet, follow local codes, and ask a licensed practitioner
        where one is required.
      </p>
    </form>
  );
}

/** Empty lines between sentences are no sentences. */
function tidy(sheet: SheetValues): SheetValues {
  return Object.fromEntries(
    Object.entries(sheet).map(([name, value]) => [
      name,
      Array.isArray(value) ? value.filter((line) => line.trim()) : value,
    ]),
  );
}

interface ValueProperties {
  field: FormField;
  value: SheetValues[string];
  problem: string | undefined;
  onChange: (value: SheetValues[string]) => void;
  onUnreadable: (is: boolean) => void;
}

function Value({ field, value, problem, onChange, onUnreadable }: ValueProperties) {
  const id = `supply-${field.name}`;
  const label = field.label.charAt(0).toUpperCase() + field.label.slice(1);
  if (field.kind === "quantity" || field.kind === "whole") {
    if (value === null)
      return (
        <div className="field">
          <span>{label}</span>
          <Button onClick={() => onChange(0)}>never; give a value</Button>
        </div>
      );
    return (
      <QuantityField
        label={label}
        // A data sheet tells its times in minutes.
        kind={field.unit === "s" ? "min" : (field.unit as QuantityKind)}
        value={Number(value)}
        onChange={onChange}
        onUnreadable={onUnreadable}
        problem={problem}
      />
    );
  }
  if (field.kind === "yes-no")
    return (
      <div className="field yes-no">
        <Checkbox checked={value === true} onChange={(event) => onChange(event.target.checked)}>
          {label}
        </Checkbox>
      </div>
    );
  return (
    <div className="field">
      <label htmlFor={id}>
        {field.kind === "sentences" ? `${label}, a sentence a line` : label}
      </label>
      {field.kind === "one-of" && (
        <Select
          id={id}
          value={value as string}
          onChange={onChange}
          options={field.options.map((one) => ({ value: one, label: one.replaceAll("-", " ") }))}
        />
      )}
      {field.kind === "some-of" && (
        <Select
          id={id}
          mode="multiple"
          value={value as string[]}
          onChange={onChange}
          options={field.options.map((one) => ({ value: one, label: one.replaceAll("-", " ") }))}
        />
      )}
      {field.kind === "text" && (
        <Input id={id} value={value as string} onChange={(event) => onChange(event.target.value)} />
      )}
      {field.kind === "sentences" && (
        <Input.TextArea
          id={id}
          rows={3}
          value={(value as string[]).join("\n")}
          onChange={(event) => onChange(event.target.value.split("\n"))}
        />
      )}
      <div className="hint wrong">{problem}</div>
    </div>
  );
}
