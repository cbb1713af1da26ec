import { Button, Input } from "antd";
import { useState, type ReactNode } from "react";

import { ProblemError } from "../../api/client";
import { Failed } from "../../shared/states";
import { PasswordField } from "./PasswordField";

interface Properties {
  /** The verb of what is done. */
  ok: string;
  /** Whether the password is one to be made up; then the browser offers one. */
  isNew: boolean;
  /** Whose it is, where that is known; then only a password is asked for. */
  of?: string;
  /** Who it may be. */
  suggested?: string;
  /** Whether it is what somebody came for; then it takes the focus. */
  isFirst?: boolean;
  shortest?: number;
  isPending: boolean;
  error: unknown;
  children?: ReactNode;
  onSubmit: (name: string, password: string) => void;
}

/** A name and a password, as browsers know how to keep them. */
export function NameAndPassword(properties: Properties) {
  const {
    ok,
    isNew,
    of,
    suggested = "",
    shortest = 1,
    isFirst,
    isPending,
    error,
    onSubmit,
  } = properties;
  const [name, setName] = useState(of ?? suggested);
  const [password, setPassword] = useState("");
  const wrong = error instanceof ProblemError ? error.fields : {};
  const isReady = name.trim() !== "" && password.length >= shortest;
  return (
    <form
      className="name-and-password"
      onSubmit={(event) => {
        event.preventDefault();
        if (isReady) onSubmit(name, password);
      }}
    >
      <label>
        Name
        <Input
          value={name}
          maxLength={120}
          autoComplete="username"
          readOnly={of !== undefined}
          autoFocus={isFirst === true && of === undefined}
          onChange={(event) => setName(event.target.value)}
        />
        {wrong["name"] && <span className="hint wrong">{wrong["name"]}</span>}
      </label>
      {properties.children}
      <label>
        {isNew ? "New password" : "Password"}
        <PasswordField
          value={password}
          autoComplete={isNew ? "new-password" : "current-password"}
          autoFocus={isFirst === true && of !== undefined}
          onChange={setPassword}
        />
        {isNew && (
          <span className="hint">
            {`At least ${shortest}\u00a0characters; a few words in a row are easy to remember.`}
          </span>
        )}
        {wrong["password"] && <span className="hint wrong">{wrong["password"]}</span>}
      </label>
      <Button type="primary" htmlType="submit" disabled={!isReady} loading={isPending}>
        {ok}
      </Button>
      {error !== null && Object.keys(wrong).length === 0 && <Failed error={error} />}
    </form>
  );
}
