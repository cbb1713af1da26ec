import { useEffect, useRef, useState } from "react";

import { client, sentenceOf, unwrap } from "../api/client";
import { readField, type QuantityKind, type UnitSystem } from "./format";

/** What the server reads with units, fractions and thousands; all else is a plain number. */
const READ_BY_SERVER = ["m", "m2", "m3", "kg", "min", "K", "share"] as const;
type ServerKind = (typeof READ_BY_SERVER)[number];
/** So long after the last key it is asked. [ms] */
const PAUSE = 250;

interface Typed {
  text: string;
  value: number;
  system: UnitSystem;
  /** What is wrong with it; null while it is right, empty while it is being read. */
  wrong: string | null;
}

interface Wanted {
  kind: QuantityKind;
  value: number;
  system: UnitSystem;
  example: string;
  onChange: (value: number) => void;
  onUnreadable?: ((unreadable: boolean) => void) | undefined;
}

/** What is typed into a field: plain numbers at once, everything else by the server's parser. */
export function useTyped({ kind, value, system, example, onChange, onUnreadable }: Wanted) {
  const [typed, setTyped] = useState<Typed | null>(null);
  const latest = useRef("");
  const pause = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(pause.current), []);

  function take(text: string, read: number) {
    setTyped({ text, value: read, system, wrong: null });
    onUnreadable?.(false);
    onChange(read);
  }

  function refuse(text: string, wrong: string) {
    setTyped({ text, value, system, wrong });
    onUnreadable?.(true);
  }

  function type(text: string) {
    latest.current = text;
    clearTimeout(pause.current);
    const read = readField(text, kind, system);
    const serverKind = READ_BY_SERVER.find((one) => one === kind);
    if (read !== null) take(text, read);
    else if (!/[\d½¼¾⅛⅜⅝⅞⅓⅔]/.test(text) || serverKind === undefined)
      refuse(text, `“${text}” is not a number; give for instance ${example}.`);
    else {
      refuse(text, "");
      pause.current = setTimeout(() => void ask(text, serverKind), PAUSE);
    }
  }

  async function ask(text: string, serverKind: ServerKind) {
    try {
      const body = { text, kind: serverKind, system };
      const answer = await unwrap(client.POST("/api/v1/quantities", { body }));
      if (latest.current !== text) return;
      if (answer.value === null) refuse(text, answer.said);
      else take(text, answer.value);
    } catch (error) {
      if (latest.current === text) refuse(text, sentenceOf(error));
    }
  }

  return { typed, type };
}
