import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Radio } from "antd";
import { useState } from "react";

import type { CastSheet, WallTrial } from "../../api/client";
import { Dialog } from "../../shared/Dialog";
import { quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { ShareDone } from "../../shared/ShareDone";
import { useUnits } from "../../shared/units";
import {
  chargeTrialsQuery,
  motionTrialsQuery,
  tellCharges,
  tellMotions,
  type How,
} from "./queries";

interface Properties {
  sheet: CastSheet;
  how: How;
  open: boolean;
  onClose: () => void;
}

interface MotionProperties extends Properties {
  onTake: (way: Pick<How, "motion" | "coats" | "lead">) => void;
}

/** Other ways to turn it with the same resin, the best so far first. */
export function MotionTrials({ sheet, how, open, onClose, onTake }: MotionProperties) {
  const system = useUnits((state) => state.system);
  const [byHand, setByHand] = useState(!how.motion.startsWith("machine"));
  const trials = useQuery({
    ...motionTrialsQuery(sheet.id, sheet.version, byHand, how.capped),
    enabled: open,
  });
  const ways = trials.data?.ways ?? [];
  return (
    <Dialog side title="Find a better rotation" width={760} open={open} onClose={onClose}>
      <Radio.Group
        value={byHand}
        onChange={(event) => setByHand(event.target.value as boolean)}
        options={[
          { value: false, label: "On a machine" },
          { value: true, label: "By hand" },
        ]}
      />
      {trials.isPending && <Loading what="the ways" />}
      {trials.error && <Failed error={trials.error} />}
      {trials.data && (
        <>
          <p role="status">
            <b>{trials.data.said}</b>
          </p>
          <StillTrying
            ways={ways}
            open={trials.data.open}
            tell={(what) => tellMotions(sheet.id, byHand, how.capped, what)}
          />
          <table className="coats trials">
            <thead>
              <tr>
                <th scope="col">Turned</th>
                <th scope="col">Coats</th>
                <th scope="col">95&nbsp;% over</th>
                <th scope="col">Mean</th>
                <th scope="col">Over the rim</th>
                <th scope="col">
                  <span className="out-of-sight">Take it</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {ways.map((one) => (
                <tr key={`${one.motion} ${one.split}`}>
                  <th scope="row">{one.words}</th>
                  <td>{one.split}</td>
                  {one.p05_m === null ? (
                    <td colSpan={3} className="faint">
                      {one.said}
                    </td>
                  ) : (
                    <>
                      <td>
                        <b>{quantity(one.p05_m, "m", system)}</b>
                      </td>
                      <td>{quantity(one.mean_m ?? 0, "m", system)}</td>
                      <td>{quantity(one.spilt_kg ?? 0, "kg", system)}</td>
                    </>
                  )}
                  <td>
                    {one.p05_m !== null && (
                      <Button size="small" onClick={() => onTake(one)}>
                        Look at it
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </Dialog>
  );
}

/** Which charge of a first coat reaches everywhere, and which leaves a puddle. */
export function ChargeTrials({ sheet, how, open, onClose }: Properties) {
  const system = useUnits((state) => state.system);
  const trials = useQuery({
    ...chargeTrialsQuery(sheet.id, sheet.version, how.motion, how.capped),
    enabled: open,
  });
  const weight = (kg: number) => quantity(kg, "kg", system);
  return (
    <Dialog side title="How much in one coat" width={640} open={open} onClose={onClose}>
      {trials.isPending && <Loading what="the charges" />}
      {trials.error && <Failed error={trials.error} />}
      {trials.data && (
        <>
          <p role="status">
            {trials.data.smallest_kg === null ? (
              <>None of them reaches everywhere{trials.data.open > 0 && " yet"}.</>
            ) : (
              <>
                <b>{weight(trials.data.smallest_kg)}</b> is the least that reaches everywhere.
              </>
            )}{" "}
            {trials.data.largest_kg === null ? (
              <>Each of them leaves a puddle or spills.</>
            ) : (
              <>
                <b>{weight(trials.data.largest_kg)}</b> is the most that leaves no puddle and does
                not spill; more only makes it uneven.
              </>
            )}{" "}
            In the mould, as a first coat; a first look.
          </p>
          <StillTrying
            ways={trials.data.ways}
            open={trials.data.open}
            tell={(what) => tellCharges(sheet.id, how.motion, how.capped, what)}
          />
          <table className="coats trials">
            <thead>
              <tr>
                <th scope="col">In the mould</th>
                <th scope="col">Reached</th>
                <th scope="col">95&nbsp;% over</th>
                <th scope="col">In puddles</th>
                <th scope="col">Over the rim</th>
              </tr>
            </thead>
            <tbody>
              {trials.data.ways.map((one, at) =>
                one.charge_kg === null ? (
                  <tr key={at}>
                    <td colSpan={5} className="faint">
                      {one.said}
                    </td>
                  </tr>
                ) : (
                  <tr key={at}>
                    <th scope="row">{weight(one.charge_kg)}</th>
                    <td>{quantity(one.reached ?? 0, "share", system)}</td>
                    <td>{quantity(one.p05_m ?? 0, "m", system)}</td>
                    <td>{weight(one.pool_kg ?? 0)}</td>
                    <td>{weight(one.spilt_kg ?? 0)}</td>
                  </tr>
                ),
              )}
            </tbody>
          </table>
        </>
      )}
    </Dialog>
  );
}

interface TryingProperties {
  ways: readonly WallTrial[];
  open: number;
  tell: (what: { stop?: boolean; again?: boolean }) => Promise<unknown>;
}

/** How far the trying is; it can be stopped, and what was stopped tried again. */
function StillTrying({ ways, open, tell }: TryingProperties) {
  const queries = useQueryClient();
  const press = useMutation({
    mutationFn: tell,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["trials"] }),
  });
  const stopped = ways.some((one) => one.status === "cancelled");
  return (
    <>
      {open > 0 && (
        <div className="job">
          <ShareDone share={1 - open / ways.length} label="How much is tried" />
          <Button size="small" onClick={() => press.mutate({ stop: true })}>
            Stop trying
          </Button>
        </div>
      )}
      {open === 0 && stopped && (
        <Button size="small" onClick={() => press.mutate({ again: true })}>
          Try the rest too
        </Button>
      )}
      {press.error && <Failed error={press.error} />}
    </>
  );
}
