import { useRef, type FocusEvent, type KeyboardEvent } from "react";

import { useMay } from "./standing";

export interface MenuEntry {
  label: string;
  onPress: () => void;
  /** What is deleted by it: only for whoever may. */
  danger?: boolean;
}

interface Properties {
  label: string;
  entries: readonly MenuEntry[];
  disabled?: boolean;
}

/** What is done more seldom, behind one press: opened, walked through and closed by keys as well. */
export function Menu({ label, entries, disabled = false }: Properties) {
  const menu = useRef<HTMLDetailsElement>(null);
  const mayDelete = useMay("make");
  const offered = entries.filter((entry) => mayDelete || !entry.danger);

  function close(backTo?: HTMLElement | null) {
    if (menu.current) menu.current.open = false;
    backTo?.focus();
  }

  function onKey(event: KeyboardEvent<HTMLDetailsElement>) {
    const buttons = [...event.currentTarget.querySelectorAll<HTMLElement>("li button")];
    const at = buttons.indexOf(document.activeElement as HTMLElement);
    const to = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: buttons.length - 1 }[event.key];
    if (event.key === "Escape" && event.currentTarget.open) {
      event.stopPropagation();
      close(event.currentTarget.querySelector("summary"));
    } else if (to !== undefined && event.currentTarget.open) {
      event.preventDefault();
      buttons.at(to % buttons.length)?.focus();
    }
  }

  function onBlur(event: FocusEvent<HTMLDetailsElement>) {
    if (!event.currentTarget.contains(event.relatedTarget)) close();
  }

  return (
    <details ref={menu} className="menu" onKeyDown={onKey} onBlur={onBlur}>
      <summary
        className="menu-opener"
        aria-disabled={disabled}
        onClick={(event) => disabled && event.preventDefault()}
      >
        {label}
      </summary>
      <ul>
        {offered.map((entry) => (
          <li key={entry.label}>
            <button
              type="button"
              className={entry.danger ? "danger" : undefined}
              onClick={() => {
                close();
                entry.onPress();
              }}
            >
              {entry.label}
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
