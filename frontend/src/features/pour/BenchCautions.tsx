import type { Plan, Pour } from "../../api/client";
import { bound } from "../../shared/format";

export type Operation = Plan["operations"][number]["operation"];

/** What to take care of in the step at hand; the resin's own hazards always stand. */
export function BenchCautions({ pour, operations }: { pour: Pour; operations: Operation[] }) {
  const told = pour.operations
    .filter((one) => operations.includes(one.operation))
    .flatMap((one) => one.sentences);
  return <p className="bench-caution">{bound([...told, ...pour.cautions].join(" "))}</p>;
}
