import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Radio, Select } from "antd";
import { useState } from "react";

import type { Castable, SheetPiece, Plan, SheetQuestion, Wish } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";
import { quantity, type QuantityKind } from "../../shared/format";
import { workshopQuery } from "../../shared/standing";
import { HowTurned } from "./HowTurned";
import { PastePlaces } from "./PastePlaces";

interface Properties {
  draft: Omit<SheetQuestion, "wish"> & { wish: Wish };
  pieces: SheetPiece[];
  onChoose: () => void;
  castables: Castable[];
  plan: Plan | null;
  problems: Readonly<Record<string, string>>;
  onPiece: (id: string) => void;
  onMaterial: (material: Castable) => void;
  onWish: (part: Partial<Wish>) => void;
  onUnreadable: (is: boolean) => void;
}

type NumericWish = { [K in keyof Wish]: Wish[K] extends number ? K : never }[keyof Wish];
type OwnTemperature = "mould_temperature_k" | "parts_temperature_k";

const FIELDS: readonly {
  field: NumericWish;
  label: string;
  kind: QuantityKind;
  hint?: string;
}[] = [
  { field: "wall_m", label: "Least wall", kind: "m" },
  { field: "loss", label: "Loss in cup and on stick", kind: "share" },
];

/** What a plan took of what pours taught, and what it goes back to. */
const LEARNED = [
  { field: "time_factor", words: "Times", back: "the data sheet’s" },
  { field: "viscosity_factor", words: "Viscosity", back: "the data sheet’s" },
  { field: "area_factor", words: "Area", back: "the measured one" },
  { field: "evenness", words: "Unevenness", back: "the simulated one" },
] as const;

/** The left column: what is wanted. */
export function Wanted(properties: Properties) {
  const {
    draft,
    pieces,
    onChoose,
    castables,
    plan,
    problems,
    onPiece,
    onMaterial,
    onWish,
    onUnreadable,
  } = properties;
  const { wish } = draft;
  const [mixing, setMixing] = useState(() =>
    [wish.tint, wish.filler, wish.thickener, wish.thinner].some((one) => one > 0),
  );
  const [bad, setBad] = useState<ReadonlySet<string>>(new Set());
  const workshop = useQuery(workshopQuery());
  const material = castables.find((one) => one.id === draft.material_id);
  const byVolume = plan?.ratio_basis === "volume";
  const onePart = plan?.measured_parts.length === 1;

  function note(field: string, is: boolean) {
    const next = new Set(bad);
    if (is) next.add(field);
    else next.delete(field);
    setBad(next);
    onUnreadable(next.size > 0);
  }

  const number = (field: NumericWish, label: string, kind: QuantityKind, hint?: string) => (
    <QuantityField
      key={field}
      label={label}
      kind={kind}
      value={wish[field]}
      problem={problems[field] ?? problems[`wish.${field}`]}
      hint={hint}
      onUnreadable={(is) => note(field, is)}
      onChange={(value) => onWish({ [field]: value })}
    />
  );

  /** A temperature that follows the room until it is said. */
  const own = (field: OwnTemperature, label: string) => {
    const value = wish[field];
    return (
      <>
        <Checkbox
          checked={value !== null}
          onChange={(event) =>
            onWish({ [field]: event.target.checked ? wish.room_temperature_k : null })
          }
        >
          {label} not as warm as the room
        </Checkbox>
        {value !== null && (
          <QuantityField
            label={`${label} ${field === "mould_temperature_k" ? "is" : "are"} at`}
            kind="K"
            value={value}
            problem={problems[field] ?? problems[`wish.${field}`]}
            onUnreadable={(is) => note(field, is)}
            onChange={(kelvin) => onWish({ [field]: kelvin })}
          />
        )}
      </>
    );
  };
  const doses = plan?.catalyst;

  return (
    <aside className="wanted" aria-label="Wanted">
      <h2>Wanted</h2>
      <div className="field">
        <label htmlFor="piece">Piece</label>
        <Select
          id="piece"
          value={draft.piece_id}
          onChange={onPiece}
          onOpenChange={onChoose}
          options={pieces.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      <div className="field">
        <label htmlFor="resin">{onePart ? "Clay" : "Resin"}</label>
        <Select
          id="resin"
          showSearch
          optionFilterProp="label"
          value={draft.material_id}
          onChange={(id) => {
            const other = castables.find((one) => one.id === id);
            if (other) onMaterial(other);
          }}
          options={castables.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      {FIELDS.map((one) => number(one.field, one.label, one.kind, one.hint))}
      {!onePart && (
        <HowTurned
          wish={wish}
          plan={plan}
          problem={problems.lid ?? problems["wish.lid"] ?? problems.motion}
          onWish={onWish}
        />
      )}
      {!onePart &&
        wish.motion === null &&
        number(
          "allowance",
          "Extra, for unevenness",
          "share",
          "rolled walls vary by 15\u00a0% and more",
        )}
      <div className="field">
        <label htmlFor="school">Divided into coats</label>
        <Select
          id="school"
          value={wish.school}
          popupMatchSelectWidth={false}
          onChange={(school) => onWish({ school })}
          options={(workshop.data?.coat_schools ?? [])
            .filter((one) => material?.schools.includes(one.key) ?? true)
            .map((one) => ({ value: one.key, label: one.name }))}
        />
        <div className="hint">{plan?.school.key === wish.school && plan.school.when}</div>
      </div>
      {wish.coats !== null && (
        <p className="hint">
          {wish.coats} equal coats, as you chose.{" "}
          <Button size="small" onClick={() => onWish({ coats: null })}>
            As the limits have it
          </Button>
        </p>
      )}
      {wish.school === "fixed" && number("fixed_m3", "Every coat", "m3")}
      {wish.school === "paste" && (
        <PastePlaces
          places={wish.paste_places}
          problem={problems.paste_places ?? problems["wish.paste_places"]}
          onUnreadable={(at, is) => note(`paste-${at}`, is)}
          onChange={(paste_places) => onWish({ paste_places })}
        />
      )}
      <div className="field">
        <span id="pour-hands">Pairs of hands</span>
        <Radio.Group
          aria-labelledby="pour-hands"
          optionType="button"
          size="small"
          value={wish.hands}
          onChange={(event) => onWish({ hands: event.target.value as number })}
          options={[
            { value: 1, label: "one" },
            { value: 2, label: "two" },
          ]}
        />
      </div>
      {number("room_temperature_k", "Room", "K")}
      {own("mould_temperature_k", "Mould")}
      {!onePart && own("parts_temperature_k", "A and B")}
      {byVolume
        ? number("volume_step_m3", "Finest mark of the cup", "m3")
        : number("scale_step_kg", "Last digit of the scale", "kg")}
      {!onePart && (
        <details open={mixing} onToggle={(event) => setMixing(event.currentTarget.open)}>
          <summary>Mixed in</summary>
          {/* Folded up it is not drawn: every keystroke draws this column anew. */}
          {mixing && (
            <>
              {number("tint", "Tint, of A and B", "share", "stirred into all of B beforehand")}
              {number("filler", "Filler, of A and B", "share", "likewise")}
              {wish.filler > 0 && number("filler_density_kg_m3", "Density of the filler", "kg/m3")}
              {number("thickener", "Thickener, of A and B", "share")}
              {number("thinner", "Thinner, of A and B", "share")}
              {doses && (
                <>
                  <Checkbox
                    checked={wish.catalyst !== null}
                    onChange={(event) =>
                      onWish({ catalyst: event.target.checked ? doses.usual : null })
                    }
                  >
                    Another dose of catalyst
                  </Checkbox>
                  {wish.catalyst !== null && (
                    <QuantityField
                      label="Catalyst, of part A"
                      kind="share"
                      value={wish.catalyst}
                      problem={problems.catalyst ?? problems["wish.catalyst"]}
                      onUnreadable={(is) => note("catalyst", is)}
                      onChange={(catalyst) => onWish({ catalyst })}
                    />
                  )}
                </>
              )}
              <div className="field">
                <label htmlFor="measure">A and B are</label>
                <Select
                  id="measure"
                  value={wish.measure ?? "sheet"}
                  onChange={(value) =>
                    onWish({ measure: value === "sheet" ? null : (value as Wish["measure"]) })
                  }
                  options={[
                    { value: "sheet", label: "as the data sheet says" },
                    { value: "weight", label: "weighed" },
                    { value: "volume", label: "measured by volume" },
                  ]}
                />
              </div>
            </>
          )}
        </details>
      )}
      {LEARNED.filter(({ field }) => wish[field] !== 1).map(({ field, words, back }) => (
        <p key={field} className="learned">
          {words} as your pours taught: {quantity(wish[field], "share", "metric")} of {back}.{" "}
          <Button size="small" onClick={() => onWish({ [field]: 1 })}>
            Back to {back}
          </Button>
        </p>
      ))}
      <Checkbox checked={wish.worn} onChange={(event) => onWish({ worn: event.target.checked })}>
        It will be worn
      </Checkbox>
    </aside>
  );
}
