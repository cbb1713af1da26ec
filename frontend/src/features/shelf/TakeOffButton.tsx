import { Button } from "antd";
import { useNavigate } from "react-router";

import { useNotices } from "../../shared/Notices";
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
  const refuse = useNotices((state) => state.refuse);
  return (
    <Button
      onClick={() =>
        remove.mutate(undefined, {
          onSuccess: (deleted) => {
            undo(name, deleted);
            void navigate(backTo);
          },
          onError: refuse,
        })
      }
    >
      Remove from the shelf
    </Button>
  );
}
