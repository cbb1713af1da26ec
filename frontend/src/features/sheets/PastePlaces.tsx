import { Button, Input } from "antd";

import type { PastePlace } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";

/** A patch about as large as a hand's width. */
const FIRST_AREA_M2 = 60e-4;

interface Properties {
  places: readonly PastePlace[];
  problem?: string | undefined;
  onChange: (places: PastePlace[]) => void;
  onUnreadable: (at: number, unreadable: boolean) => void;
}

/** Where the last coat goes on as a paste: each place by its name and its area. */
export function PastePlaces({ places, problem, onChange, onUnreadable }: Properties) {
  const change = (at: number, part: Partial<PastePlace>) =>
    onChange(places.map((one, which) => (which === at ? { ...one, ...part } : one)));
  return (
    <fieldset className="soft-places">
      <legend>Where the paste goes</legend>
      {places.length === 0 && (
        <p className="hint">Not said yet: planned for a fifth of the face, where it is thin.</p>
      )}
      {places.map((place, at) => (
        <div key={at} className="soft-place">
          <div className="field">
            <label htmlFor={`paste-name-${at}`}>Place</label>
            <Input
              id={`paste-name-${at}`}
              value={place.name}
              maxLength={120}
              onChange={(event) => change(at, { name: event.target.value })}
            />
          </div>
          <QuantityField
            label="Its area"
            kind="m2"
            value={place.area_m2}
            onChange={(area_m2) => change(at, { area_m2 })}
            onUnreadable={(is) => onUnreadable(at, is)}
          />
          <Button size="small" onClick={() => onChange(places.filter((_, which) => which !== at))}>
            Remove <span className="out-of-sight">{place.name}</span>
          </Button>
        </div>
      ))}
      {problem && <p className="hint wrong">{problem}</p>}
      <Button
        size="small"
        onClick={() =>
          onChange([...places, { name: `Place ${places.length + 1}`, area_m2: FIRST_AREA_M2 }])
        }
      >
        Name a place
      </Button>
    </fieldset>
  );
}
