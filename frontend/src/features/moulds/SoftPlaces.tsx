import { Button, Input } from "antd";
import { lazy, Suspense, useState } from "react";

import type { Mark, Piece, SoftPlace } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";
import { Loading } from "../../shared/states";
import { MaterialSelect } from "../shelf/MaterialSelect";

const PieceView = lazy(() => import("../../husk/PieceView"));

const FIRST_RADIUS_M = 0.025;

interface Properties {
  piece: Pick<Piece, "id" | "version" | "name">;
  /** The mould's own: where the choice for a place begins. */
  rubberId: string;
  places: readonly SoftPlace[];
  problem?: string | undefined;
  onChange: (places: SoftPlace[]) => void;
  onUnreadable: (unreadable: boolean) => void;
}

/** Ears, noses, lips in a softer rubber: pressed on the piece, named, each with its rubber. */
export function SoftPlaces({
  piece,
  rubberId,
  places,
  problem,
  onChange,
  onUnreadable,
}: Properties) {
  const [pressing, setPressing] = useState(false);
  const change = (at: number, part: Partial<SoftPlace>) =>
    onChange(places.map((one, which) => (which === at ? { ...one, ...part } : one)));

  function add(at_m: [number, number, number]) {
    const name = `Soft place ${places.length + 1}`;
    onChange([...places, { name, at_m, radius_m: FIRST_RADIUS_M, rubber_id: rubberId }]);
    setPressing(false);
  }

  const marks: Mark[] = places.map(({ at_m, radius_m }) => ({
    at_m,
    radius_m,
    role: "cut-away",
  }));
  return (
    <fieldset className="soft-places">
      <legend>Soft places: ears, noses, lips</legend>
      {places.map((place, at) => (
        <div key={place.at_m.join()} className="soft-place">
          <div className="field">
            <label htmlFor={`soft-name-${at}`}>Name</label>
            <Input
              id={`soft-name-${at}`}
              value={place.name}
              maxLength={120}
              onChange={(event) => change(at, { name: event.target.value })}
            />
          </div>
          <QuantityField
            label="Reaches round its middle"
            kind="m"
            value={place.radius_m}
            onChange={(radius_m) => change(at, { radius_m })}
            onUnreadable={onUnreadable}
          />
          <div className="field">
            <label htmlFor={`soft-rubber-${at}`}>Its rubber</label>
            <MaterialSelect
              id={`soft-rubber-${at}`}
              kind="rubber"
              value={place.rubber_id}
              onChange={(rubber_id) => change(at, { rubber_id })}
            />
          </div>
          <Button size="small" onClick={() => onChange(places.filter((_, which) => which !== at))}>
            Remove <span className="out-of-sight">{place.name}</span>
          </Button>
        </div>
      ))}
      {problem && <p className="hint wrong">{problem}</p>}
      <Button size="small" onClick={() => setPressing(!pressing)} aria-pressed={pressing}>
        {pressing ? "Enough" : "Press one on the piece"}
      </Button>
      {(pressing || places.length > 0) && (
        <Suspense fallback={<Loading what="the view" />}>
          <PieceView
            pieceId={piece.id}
            version={piece.version}
            name={piece.name}
            marks={marks}
            onPlace={pressing ? add : null}
          />
        </Suspense>
      )}
    </fieldset>
  );
}
