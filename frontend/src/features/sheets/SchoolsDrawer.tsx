import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";

import type { SheetQuestion } from "../../api/client";
import { Dialog } from "../../shared/Dialog";
import { carried, duration } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { LIMITS } from "./LimitBars";
import { schoolsQuery } from "./queries";

interface Properties {
  open: boolean;
  question: SheetQuestion;
  onClose: () => void;
  onTake: (key: string, name: string) => void;
}

/** The same wall by every school, side by side, with when to take it. */
export function SchoolsDrawer({ open, question, onClose, onTake }: Properties) {
  const system = useUnits((state) => state.system);
  const schools = useQuery({ ...schoolsQuery(question), enabled: open });
  return (
    <Dialog side title="Ways to divide it into coats" width={860} open={open} onClose={onClose}>
      {schools.isPending && <Loading what="every way" />}
      {schools.error && <Failed error={schools.error} />}
      {schools.data && (
        <table className="coats schools stacks">
          <thead>
            <tr>
              <th scope="col">Way, and when to take it</th>
              <th scope="col">Coats</th>
              <th scope="col">To mix</th>
              <th scope="col">Cast weight</th>
              <th scope="col">Hands on</th>
              <th scope="col">Out after</th>
              <th scope="col">Fits</th>
              <th scope="col">
                <span className="out-of-sight">Take it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {schools.data.schools.map((one) => (
              <tr key={one.key}>
                <th scope="row">
                  {one.name}
                  <div className="faint">{one.said || one.when}</div>
                </th>
                {one.said ? (
                  <td colSpan={5}>–</td>
                ) : (
                  <>
                    <td data-label="Coats">{one.coats}</td>
                    <td data-label="To mix">{carried(one.total_charge_kg, system)}</td>
                    <td data-label="Cast weight">{carried(one.cast_kg, system)}</td>
                    <td data-label="Hands on">{duration(one.hands_on_s)}</td>
                    <td data-label="Out after">{duration(one.out_after_s)}</td>
                  </>
                )}
                <td data-label="Fits" className={one.fits ? "" : "due"}>
                  {one.fits ? "yes" : "no"}
                  {!one.fits && one.binding_limit && (
                    <div className="faint">not: {LIMITS[one.binding_limit]}</div>
                  )}
                </td>
                <td>
                  <Button
                    size="small"
                    disabled={Boolean(one.said) || one.key === question.wish.school}
                    onClick={() => onTake(one.key, one.name)}
                  >
                    {one.key === question.wish.school ? "Chosen" : "Choose"}
                    <span className="out-of-sight"> {one.name}</span>
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Dialog>
  );
}
