import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "react-router";

import type { FormField, SheetValues } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { Failed, Loading } from "../../shared/states";
import { KitsEditor } from "./KitsEditor";
import { TakeOffButton } from "./TakeOffButton";
import { SupplyForm } from "./SupplyForm";
import { formQuery, supplyQuery, useAddSupply, useEditSupply } from "./queries";
import { ORIGIN_WORDS } from "./words";

/** A data sheet of anything that is not cast: read it, or make it your own. */
export function SupplyPage() {
  const { id = "" } = useParams();
  return <KnownSupply key={id} id={id} />;
}

function KnownSupply({ id }: { id: string }) {
  const supply = useQuery(supplyQuery(id));
  const form = useQuery({ ...formQuery(supply.data?.kind ?? ""), enabled: supply.isSuccess });
  const edit = useEditSupply(id);
  const say = useNotices((state) => state.say);
  const failed = [supply, form].find((one) => one.isError);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  if (!supply.data || !form.data) return <Loading what="the data sheet" />;
  const { version, kind, origin } = supply.data;
  return (
    <section className="page">
      <SupplyForm
        key={version}
        title={supply.data.name}
        origin={ORIGIN_WORDS[origin as keyof typeof ORIGIN_WORDS]}
        fields={form.data}
        name={supply.data.name}
        start={supply.data.sheet}
        saving={edit.isPending}
        error={edit.error}
        onSave={(name, sheet) =>
          edit.mutate(
            { name, sheet, version },
            { onSuccess: () => say("Saved as your own sheet.") },
          )
        }
        extra={<TakeOffButton materialId={id} name={supply.data.name} backTo="/shelf/supplies" />}
      />
      {(kind === "rubber" || kind === "shell") && <KitsEditor materialId={id} />}
    </section>
  );
}

/** An own material of a kind, filled in from nothing. */
export function NewSupplyPage() {
  const { kind = "" } = useParams();
  const form = useQuery(formQuery(kind));
  const add = useAddSupply(kind);
  const navigate = useNavigate();
  if (form.isPending) return <Loading what="the form" />;
  if (form.isError) return <Failed error={form.error} />;
  return (
    <section className="page">
      <SupplyForm
        title={`A ${kind} of your own`}
        origin={null}
        fields={form.data}
        name=""
        start={emptySheet(form.data)}
        saving={add.isPending}
        error={add.error}
        onSave={(name, sheet) =>
          add.mutate(
            { name, sheet },
            { onSuccess: (made) => void navigate(`/shelf/supplies/${made.id}`) },
          )
        }
        extra={null}
      />
    </section>
  );
}

function emptySheet(fields: FormField[]): SheetValues {
  const blank = (field: FormField): SheetValues[string] => {
    if (field.may_be_empty) return null;
    switch (field.kind) {
      case "quantity":
      case "whole":
        return 0;
      case "yes-no":
        return false;
      case "one-of":
        return field.options[0] ?? "";
      case "some-of":
      case "sentences":
        return [];
      case "text":
        return "";
    }
  };
  return Object.fromEntries(fields.map((field) => [field.name, blank(field)]));
}
