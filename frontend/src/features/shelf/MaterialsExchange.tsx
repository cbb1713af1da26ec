import { client, fileBody, unwrap } from "../../api/client";
import { ExchangeBar } from "./ExchangeBar";

/** The materials of a kind as files. */
export function MaterialsExchange({ kind }: { kind: string }) {
  return (
    <ExchangeBar
      what="material"
      csv={{ href: `/api/v1/shelf.csv?kind=${kind}`, label: "These as CSV" }}
      json={{ href: "/api/v1/shelf.json", label: "Whole shelf as JSON" }}
      take={(file) => unwrap(client.POST("/api/v1/shelf", fileBody(file)))}
    />
  );
}
