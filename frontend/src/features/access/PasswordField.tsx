import { Button, Input } from "antd";
import { useState } from "react";

interface Properties {
  value: string;
  autoComplete: "current-password" | "new-password";
  autoFocus?: boolean;
  onChange: (value: string) => void;
}

/** A password, hidden until whoever types it wants to see it. */
export function PasswordField({ value, autoComplete, autoFocus = false, onChange }: Properties) {
  const [isShown, setShown] = useState(false);
  return (
    <span className="password">
      <Input
        type={isShown ? "text" : "password"}
        value={value}
        maxLength={128}
        autoComplete={autoComplete}
        autoFocus={autoFocus}
        onChange={(event) => onChange(event.target.value)}
      />
      <Button aria-pressed={isShown} onClick={() => setShown(!isShown)}>
        {isShown ? "Hide" : "Show"}
      </Button>
    </span>
  );
}
