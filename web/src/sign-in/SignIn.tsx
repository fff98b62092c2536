import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Navigate, useNavigate, useSearchParams } from "react-router";
import { ApiFailure, call } from "../api/client.ts";
import { keys } from "../api/queries.ts";
import { useSetup } from "../api/shop-queries.ts";
import { Button, Notice, TextField } from "../shared/controls.tsx";

export function SignIn() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const [error, setError] = useState<ApiFailure | undefined>();
  const [busy, setBusy] = useState(false);
  const { data: setup } = useSetup();

  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = new FormData(e.currentTarget);
    setBusy(true);
    setError(undefined);
    try {
      const session = await call("signIn", {
        body: { signIn: String(form.get("signIn")), password: String(form.get("password")) },
      });
      client.clear();
      client.setQueryData(keys.session, session);
      const next = search.get("next");
      await navigate(next?.startsWith("/") && !next.startsWith("//") ? next : "/", { replace: true });
    } catch (failure) {
      if (!(failure instanceof ApiFailure)) throw failure;
      setError(failure);
    } finally {
      setBusy(false);
    }
  };

  if (setup?.open) return <Navigate to="/set-up" replace />;
  return (
    <main className="flex min-h-full items-center justify-center p-6">
      <form
        onSubmit={(e) => void submit(e)}
        className="flex w-full max-w-[400px] flex-col gap-4 border-t-8 border-slate bg-panel p-7"
      >
        <div>
          <h1 className="text-4xl">Gearsense</h1>
          <p className="text-quiet">From the complaint to a proved repair, for transmission technicians.</p>
        </div>
        {error && (
          <Notice tone="stop" live>
            {error.message}
          </Notice>
        )}
        <TextField
          label="Sign-in name"
          name="signIn"
          autoComplete="username"
          autoCapitalize="none"
          required
          autoFocus
          error={error?.fields.signIn}
        />
        <TextField
          label="Password"
          name="password"
          type="password"
          autoComplete="current-password"
          required
          error={error?.fields.password}
        />
        <Button tone="primary" type="submit" disabled={busy}>
          {busy ? "Signing in …" : "Sign in"}
        </Button>
      </form>
    </main>
  );
}
