import { useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";

import { client, sentenceOf, unwrap } from "../api/client";

/** What was deleted can be taken back here for so long; under Workshop for thirty days. [s] */
const FOR_S = 10;

/** Says that something was deleted, beside the press that takes it back. */
export function useUndo() {
  const { message } = App.useApp();
  const queries = useQueryClient();

  return (name: string, { undo }: { undo: string | null }) => {
    if (undo === null) return;
    async function restore(id: string) {
      message.destroy(id);
      try {
        await unwrap(client.POST("/api/v1/deleted/{id}/restore", { params: { path: { id } } }));
        void message.success(`“${name}” is back.`);
        await queries.invalidateQueries();
      } catch (error) {
        void message.error(sentenceOf(error), 8);
      }
    }
    void message.open({
      key: undo,
      type: "success",
      duration: FOR_S,
      content: (
        <span role="status">
          “{name}” is deleted. <Button onClick={() => void restore(undo)}>Undo</Button>
        </span>
      ),
    });
  };
}
