import { useState } from "react";
import { useOwnPassword } from "../api/shop-queries.ts";
import { Button, Notice, TextField } from "../shared/controls.tsx";
import { fieldError, plainError } from "../shared/field-errors.ts";

const EMPTY = { current: "", password: "", again: "" };

/** One's own password; elsewhere one is signed out then. */
export function OwnPassword({ name }: { name: string }) {
  const change = useOwnPassword();
  const [typed, setTyped] = useState(EMPTY);
  const differs = typed.again !== "" && typed.again !== typed.password;
  const field = (id: keyof typeof EMPTY, label: string, autoComplete: string, error?: string) => (
    <TextField
      label={label}
      type="password"
      autoComplete={autoComplete}
      value={typed[id]}
      error={error}
      onChange={(e) => setTyped({ ...typed, [id]: e.target.value })}
    />
  );
  return (
    <form
      noValidate
      aria-label="Your password"
      className="flex flex-col gap-3 border border-rule bg-panel p-4"
      onSubmit={(e) => {
        e.preventDefault();
        const { current, password } = typed;
        change.mutate({ current, password }, { onSuccess: () => setTyped(EMPTY) });
      }}
    >
      <h2 className="text-xl">Your password, {name}</h2>
      {plainError(change.error) && (
        <Notice tone="stop" live>
          {plainError(change.error)}
        </Notice>
      )}
      {change.isSuccess && (
        <Notice tone="clear" live>
          Changed. Other devices are signed out.
        </Notice>
      )}
      <div className="grid gap-3 sm:grid-cols-3">
        {field("current", "Current password", "current-password", fieldError(change.error, "current"))}
        {field("password", "New password", "new-password", fieldError(change.error, "password"))}
        {field("again", "New password once more", "new-password", differs ? "differs from the one before" : undefined)}
      </div>
      <div className="flex justify-end">
        <Button type="submit" disabled={change.isPending || differs || typed.again === "" || typed.current === ""}>
          Change the password
        </Button>
      </div>
    </form>
  );
}
