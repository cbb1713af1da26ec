import { Button, Input, Radio } from "antd";
import { useState, type ReactNode } from "react";
import { useNavigate } from "react-router";

import { client, ProblemError, unwrap, type Piece } from "../../api/client";
import { readField, unitOf } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { useRetyped } from "../../shared/useRetyped";
import { MaterialSelect } from "../shelf/MaterialSelect";
import { useAddByHand } from "./queries";

interface FrameProperties {
  send: (name: string) => Promise<Piece>;
  ready: boolean;
  explain: string;
  children: (problems: Readonly<Record<string, string>>) => ReactNode;
}

/** A name, what is asked, one press; what is refused is told. */
function Frame({ send, ready, explain, children }: FrameProperties) {
  const [name, setName] = useState("");
  const add = useAddByHand(() => send(name));
  const navigate = useNavigate();
  const problems = add.error instanceof ProblemError ? add.error.fields : {};
  return (
    <form
      className="lot-form"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(undefined, { onSuccess: (piece) => void navigate(`/pieces/${piece.id}`) });
      }}
    >
      <p className="lead">{explain}</p>
      <div className="field">
        <label htmlFor="hand-name">Name of the piece</label>
        <Input
          id="hand-name"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
      </div>
      {children(problems)}
      {add.error && <Failed error={add.error} />}
      <Button
        type="primary"
        htmlType="submit"
        disabled={!ready || !name.trim()}
        loading={add.isPending}
      >
        Save this piece
      </Button>
    </form>
  );
}

export function FilledForm() {
  const [volume_m3, setVolume] = useState(0.004);
  const [height_m, setHeight] = useState(0.24);
  const [opening_m, setOpening] = useState(0.45);
  const [outline, setOutline] = useState<"round" | "head">("head");
  const body = { volume_m3, height_m, opening_m, outline };
  return (
    <Frame
      explain="Fill it to the rim and measure what went in. The form in between is taken for an egg; the band that leaves stands beside the area."
      ready
      send={(name) => unwrap(client.POST("/api/v1/pieces/filled", { body: { name, ...body } }))}
    >
      {(problems) => (
        <>
          <QuantityField
            label="Volume that went in"
            kind="m3"
            value={volume_m3}
            onChange={setVolume}
            problem={problems.volume}
          />
          <QuantityField
            label="Height from the rim to the closed end"
            kind="m"
            value={height_m}
            onChange={setHeight}
            problem={problems.height}
          />
          <QuantityField
            label="Girth of the rim"
            kind="m"
            value={opening_m}
            onChange={setOpening}
            problem={problems.opening}
          />
          <Radio.Group
            aria-label="Form of the sections"
            value={outline}
            onChange={(event) => setOutline(event.target.value as "round" | "head")}
          >
            <Radio value="head">sections like a head</Radio>
            <Radio value="round">round sections</Radio>
          </Radio.Group>
        </>
      )}
    </Frame>
  );
}

export function ClayForm() {
  const [volume_m3, setVolume] = useState(0.0012);
  const [thickness_m, setThickness] = useState(0.01);
  return (
    <Frame
      explain="Pack the removed clay into a block and measure it. Of the form nothing is known, a ball stands for it; the band stands beside the area."
      ready
      send={(name) =>
        unwrap(client.POST("/api/v1/pieces/clay", { body: { name, volume_m3, thickness_m } }))
      }
    >
      {(problems) => (
        <>
          <QuantityField
            label="Volume of the clay"
            kind="m3"
            value={volume_m3}
            onChange={setVolume}
            problem={problems.volume}
          />
          <QuantityField
            label="Thickness it was rolled to"
            kind="m"
            value={thickness_m}
            onChange={setThickness}
            problem={problems.thickness}
          />
        </>
      )}
    </Frame>
  );
}

export function WeighedForm() {
  const system = useUnits((state) => state.system);
  const [cast_kg, setCast] = useState(0.4);
  const [material_id, setMaterial] = useState("");
  const [readings, setReadings] = useState("");
  useRetyped("m", (retype) => setReadings(readings.replace(/[^\s;]+/g, retype)));
  const walls = readings
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((one) => readField(one, "m", system));
  const readable = walls.every((wall) => wall !== null);
  return (
    <Frame
      explain="One pull, weighed, and its wall measured at many places, gives the effective area: the surest measure without a file."
      ready={Boolean(material_id) && readable && walls.length > 0}
      send={(name) =>
        unwrap(
          client.POST("/api/v1/pieces/weighed", {
            body: { name, cast_kg, material_id, walls_m: walls.map((wall) => wall ?? 0) },
          }),
        )
      }
    >
      {(problems) => (
        <>
          <QuantityField
            label="The cast weighs"
            kind="kg"
            value={cast_kg}
            onChange={setCast}
            problem={problems.volume}
          />
          <div className="field">
            <label htmlFor="hand-resin">Resin</label>
            <MaterialSelect id="hand-resin" value={material_id} onChange={setMaterial} />
          </div>
          <div className="field">
            <label htmlFor="readings">
              Readings of the wall ({unitOf("m", system)}), spaces between them
            </label>
            <Input
              id="readings"
              value={readings}
              autoComplete="off"
              status={readable ? "" : "error"}
              onChange={(event) => setReadings(event.target.value)}
            />
            <div className="hint wrong">
              {readable ? (problems.walls ?? problems.thickness) : "A reading is not a number."}
            </div>
          </div>
        </>
      )}
    </Frame>
  );
}
