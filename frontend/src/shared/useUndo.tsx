import { useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";

import { client, unwrap } from "../api/client";
import { useNotices } from "./Notices";

/** What was deleted can be taken back here for so long; under Workshop for thirty days. [s] */
const FOR_S = 10;

/** Says that something was deleted, beside the press that takes it back. */
export function useUndo() {
  const { say, refuse, withdraw } = useNotices();
  const queries = useQueryClient();

  return (name: string, { undo }: { undo: string | null }) => {
    if (undo === null) return;
    async function restore(id: string) {
      withdraw(id);
      try {
        await unwrap(client.POST("/api/v1/deleted/{id}/restore", { params: { path: { id } } }));
        say(`“${name}” is back.`);
        await queries.invalidateQueries();
      } catch (error) {
        refuse(error);
      }
    }
    say(
      <>
        “{name}” is deleted. <Button onClick={() => void restore(undo)}>Undo</Button>
      </>,
      { id: undo, seconds: FOR_S },
    );
  };
}
