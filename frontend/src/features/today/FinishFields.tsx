import { useQuery } from "@tanstack/react-query";
import { Checkbox, Input, Select } from "antd";
import { useId } from "react";

import type { FinishWish } from "../../api/client";
import { supplyListQuery } from "../shelf/queries";

const USES = ["worn", "visor", "straps", "padding", "polished", "skirt", "post_cured"] as const;
const USE_WORDS: Record<(typeof USES)[number], string> = {
  worn: "Worn on a head",
  visor: "Visor",
  straps: "Straps",
  padding: "Padding",
  polished: "Metal face to polish",
  skirt: "Skirt to cut off",
  post_cured: "Post-cured at 50\u00a0°C",
};

/** What becomes of a husk, and which release was in its mould. */
export interface Finished {
  wish: FinishWish;
  release: string;
}

export const NO_FINISH: Finished = {
  wish: {
    paint: "water-based",
    worn: false,
    visor: false,
    straps: false,
    padding: false,
    polished: false,
    skirt: false,
    post_cured: false,
    cut_outs: 0,
    dropped: [],
    own: [],
  },
  release: "",
};

interface FinishFieldsProperties {
  value: Finished;
  onChange: (value: Finished) => void;
}

/** Paint, openings, what it carries, and the release that has to come off. */
export function FinishFields({ value, onChange }: FinishFieldsProperties) {
  const id = useId();
  const releases = useQuery(supplyListQuery("release", ""));
  const { wish } = value;
  const change = (to: Partial<FinishWish>) => onChange({ ...value, wish: { ...wish, ...to } });
  return (
    <>
      <div className="field">
        <label htmlFor={`${id}paint`}>Paint</label>
        <Select
          id={`${id}paint`}
          value={wish.paint}
          onChange={(paint) => change({ paint })}
          options={[
            { value: "none", label: "None" },
            { value: "water-based", label: "Water-based" },
            { value: "solvent-based", label: "Solvent-based" },
          ]}
        />
      </div>
      <div className="field">
        <label htmlFor={`${id}release`}>Release in the mould</label>
        <Select
          id={`${id}release`}
          value={value.release}
          onChange={(release) => onChange({ ...value, release })}
          options={[
            { value: "", label: "None" },
            ...(releases.data?.supplies ?? []).map((one) => ({ value: one.key, label: one.name })),
          ]}
        />
      </div>
      <div className="field">
        <label htmlFor={`${id}cuts`}>Openings to cut out</label>
        <Input
          id={`${id}cuts`}
          inputMode="numeric"
          value={String(wish.cut_outs)}
          onChange={(event) =>
            change({ cut_outs: Number(event.target.value.replace(/\D/g, "").slice(0, 2)) })
          }
        />
      </div>
      <div className="uses">
        {USES.map((use) => (
          <Checkbox
            key={use}
            checked={wish[use]}
            onChange={(event) => change({ [use]: event.target.checked })}
          >
            {USE_WORDS[use]}
          </Checkbox>
        ))}
      </div>
    </>
  );
}
