import { Button } from "antd";

import type { Pour } from "../../api/client";
import { press } from "./outbox";

/** Takes the last tick back, that one and no other. */
export function TakeBack({ pour }: { pour: Pour }) {
  const last = pour.last_step;
  if (!last) return null;
  return (
    <Button type="text" onClick={() => void press(pour.id, { kind: "take-back", ...last })}>
      Undo the last tick
    </Button>
  );
}
