import { Button } from "antd";

import type { Finding } from "../api/client";
import { Sentence, sentenceIn } from "./Sentence";
import { useUnits } from "./units";

// Words, not colour alone, say how grave a finding is.
const WORDS: Record<string, string> = { stop: "Stop", warning: "Watch out", note: "Note" };

interface Properties {
  findings: readonly Finding[];
  none: string;
  onApply?: (field: string, value: number | string, said: string) => void;
}

/** Findings in sentences, each with the press that mends it. */
export function Findings({ findings, none, onApply }: Properties) {
  if (findings.length === 0) return <p className="faint">{none}</p>;
  return (
    <ul className="findings">
      {findings.map((finding, at) => (
        <li key={`${finding.id} ${at}`} className={finding.severity}>
          <b>{WORDS[finding.severity]}.</b> <Sentence text={finding.sentence} />
          {finding.action && onApply && <ApplyButton action={finding.action} onApply={onApply} />}
        </li>
      ))}
    </ul>
  );
}

function ApplyButton({
  action,
  onApply,
}: {
  action: NonNullable<Finding["action"]>;
  onApply: (field: string, value: number | string, said: string) => void;
}) {
  const system = useUnits((state) => state.system);
  const said = sentenceIn(action.label, system);
  return (
    <Button size="small" onClick={() => onApply(action.field, action.value, said)}>
      {said}
    </Button>
  );
}
