import { Button } from "antd";
import type { ReactNode } from "react";

import { sentenceOf } from "../api/client";

export function Loading({ what }: { what: string }) {
  return (
    <div className="state" role="status">
      <span className="spinner" aria-hidden />
      <p>Loading {what} …</p>
    </div>
  );
}

export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  return (
    <Told kind="refusal">
      {sentenceOf(error)} {retry && <Button onClick={retry}>Try again</Button>}
    </Told>
  );
}

interface ToldProperties {
  kind: "news" | "refusal";
  children: ReactNode;
}

/** A sentence that has to be seen: what went well, or what went wrong. */
export function Told({ kind, children }: ToldProperties) {
  return (
    <div className={`told ${kind}`} role={kind === "refusal" ? "alert" : "status"}>
      {children}
    </div>
  );
}

/** An empty place says what belongs there and how it gets there. */
export function Nothing({ children, action }: { children: ReactNode; action?: ReactNode }) {
  return (
    <div className="state">
      <p>{children}</p>
      {action}
    </div>
  );
}
