import { App, Button } from "antd";
import { useNavigate } from "react-router";

import { sentenceOf } from "../../api/client";
import { useDeleteMaterial } from "./queries";

/** Takes a material off the shelf and goes back there; what still uses it is told. */
export function TakeOffButton({ materialId, backTo }: { materialId: string; backTo: string }) {
  const remove = useDeleteMaterial(materialId);
  const navigate = useNavigate();
  const { message } = App.useApp();
  return (
    <Button
      onClick={() =>
        remove.mutate(undefined, {
          onSuccess: () => void navigate(backTo),
          onError: (error) => void message.error(sentenceOf(error), 8),
        })
      }
    >
      Remove from the shelf
    </Button>
  );
}
