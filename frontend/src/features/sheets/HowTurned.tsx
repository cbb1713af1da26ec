import { useQuery } from "@tanstack/react-query";
import { Checkbox, Select } from "antd";

import { bound } from "../../shared/format";
import type { Plan, Wish } from "../../api/client";
import { motionsQuery } from "../../shared/standing";

interface Properties {
  wish: Wish;
  plan: Plan | null;
  problem: string | undefined;
  onWish: (part: Partial<Wish>) => void;
}

const NOT_SAID = "";
const USUAL = "usual";

/** How the mould is poured and turned, and what part of the face the least wall is meant for. */
export function HowTurned({ wish, plan, problem, onWish }: Properties) {
  const motions = useQuery(motionsQuery());
  // What is usual for the piece is shown as what it comes to.
  const motion = wish.motion === USUAL ? (plan?.motion ?? USUAL) : wish.motion;
  const lid = wish.motion === USUAL ? (plan?.lid ?? wish.lid) : wish.lid;
  const known = (motions.data ?? []).map((one) => ({ value: one.name, label: bound(one.words) }));
  const named = motion === null || known.some((one) => one.value === motion);
  const says = motions.data?.find((one) => one.name === motion)?.says;

  function take(name: string) {
    const needed = motions.data?.find((one) => one.name === name)?.needs_lid ?? false;
    onWish({ motion: name === NOT_SAID ? null : name, lid: lid || needed });
  }

  return (
    <>
      <div className="field">
        <label htmlFor="motion">Turned</label>
        <Select
          id="motion"
          showSearch
          optionFilterProp="label"
          value={motion ?? NOT_SAID}
          popupMatchSelectWidth={false}
          status={problem ? "error" : ""}
          onChange={take}
          options={[
            ...known,
            ...(named ? [] : [{ value: motion, label: motion }]),
            { value: NOT_SAID, label: "not said: an even wall" },
          ]}
        />
        <div className={problem ? "hint wrong" : "hint"}>{problem ?? says}</div>
      </div>
      {motion !== null && (
        <>
          <Checkbox
            checked={lid}
            onChange={(event) => onWish({ motion, lid: event.target.checked })}
          >
            A lid closes the opening
          </Checkbox>
          {plan?.pour && (
            <div className="field">
              <label htmlFor="pour">Poured</label>
              <Select
                id="pour"
                value={wish.pour}
                onChange={(pour) => onWish({ pour })}
                options={[
                  { value: "rim", label: "round the rim" },
                  { value: "low-place", label: "into the deepest place" },
                ]}
              />
            </div>
          )}
          <div className="field">
            <label htmlFor="least">The least wall holds on</label>
            <Select
              id="least"
              value={wish.least}
              onChange={(least) => onWish({ least })}
              options={[
                { value: "95%", label: "95\u00a0% of the face" },
                { value: "99%", label: "99\u00a0% of the face" },
                { value: "typical", label: "a typical place" },
              ]}
            />
          </div>
        </>
      )}
    </>
  );
}
