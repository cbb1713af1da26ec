import { Button } from "antd";
import { useState } from "react";

import { clockSeconds } from "../../shared/format";
import { BenchInput } from "./BenchInput";

/** Clocks may differ by so much. */
const A_MINUTE_MS = 60_000;

/** Typed in afterwards: when a step was really done, if it was not just now. */
export function WhenField({
  value,
  onChange,
}: {
  value: string | null;
  onChange: (iso: string | null) => void;
}) {
  const [text, setText] = useState<string | null>(null);

  function read(next: string) {
    setText(next);
    const found = /^(\d{1,2}):(\d{2})(?::(\d{2}))?$/.exec(next.trim());
    if (!found) return onChange(null);
    const moment = new Date();
    const now = moment.getTime();
    moment.setHours(Number(found[1]), Number(found[2]), Number(found[3] ?? 0), 0);
    // Soon after midnight, what was done before it was done yesterday.
    if (moment.getTime() > now + A_MINUTE_MS) moment.setDate(moment.getDate() - 1);
    onChange(moment.toISOString());
  }

  if (text === null)
    return (
      <Button type="text" onClick={() => setText("")}>
        It was earlier
      </Button>
    );
  return (
    <label className="when">
      done at
      <BenchInput
        value={text}
        placeholder={clockSeconds(new Date().toISOString())}
        onText={read}
        wrong={Boolean(text) && !value}
        aria-label="Done at, hours, minutes and seconds"
      />
    </label>
  );
}
