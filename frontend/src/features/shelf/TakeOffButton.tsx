import { App, Button } from "antd";
import { useNavigate } from "react-router";

import { sentenceOf } from "../../api/client";
import { useUndo } from "../../shared/useUndo";
import { useDeleteMaterial } from "./queries";

interface Properties {
  materialId: string;
  name: string;
  backTo: string;
}

/** Takes a material off the shelf and goes back there; what still uses it is told. */
export function TakeOffButton({ materialId, name, backTo }: Properties) {
  const remove = useDeleteMaterial(materialId);
  const undo = useUndo();
  const navigate = useNavigate();
  const { message } = App.useApp();
  return (
    <Button
      onClick={() =>
        remove.mutate(undefined, {
          onSuccess: (deleted) => {
            undo(name, deleted);
            void navigate(backTo);
          },
          onError: (error) => void message.error(sentenceOf(error), 8),
        })
      }
    >
      Remove from the shelf
    </Button>
  );
}
