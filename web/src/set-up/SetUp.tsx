import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { call } from "../api/client.ts";
import { keys } from "../api/queries.ts";
import { Button, Notice, TextField } from "../shared/controls.tsx";
import { fieldError, plainError } from "../shared/field-errors.ts";
import { NumberField } from "../shared/NumberField.tsx";

/** A fresh machine: the shop and its first owner. Only who sees the terminal has the code. */
export default function SetUp() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [code, setCode] = useState("");
  const [shop, setShop] = useState({ name: "", currency: "EUR", hourlyRate: null as number | null });
  const [owner, setOwner] = useState({ name: "", signIn: "", password: "" });
  const begin = useMutation({
    mutationFn: () =>
      call("setUp", { body: { code, shop: { ...shop, hourlyRate: shop.hourlyRate ?? Number.NaN }, owner } }),
    onSuccess: (session) => {
      client.clear();
      client.setQueryData(keys.session, session);
      void navigate("/", { replace: true });
    },
  });
  const wrong = (field: string) => fieldError(begin.error, field);
  return (
    <main className="flex min-h-full items-center justify-center p-6">
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          begin.mutate();
        }}
        className="flex w-full max-w-2xl flex-col gap-4 border-t-8 border-slate bg-panel p-7"
      >
        <div>
          <h1 className="text-4xl">Set up your shop</h1>
          <p className="text-quiet">Two minutes. All of it can be changed later, on the shop’s page.</p>
        </div>
        {plainError(begin.error) && (
          <Notice tone="stop" live>
            {plainError(begin.error)}
          </Notice>
        )}
        <TextField
          label="Code"
          hint="It stands in the window in which Gearsense was started."
          autoComplete="off"
          autoCapitalize="characters"
          autoFocus
          value={code}
          onChange={(e) => setCode(e.target.value)}
          error={wrong("code")}
        />
        <fieldset className="grid gap-3 sm:grid-cols-3">
          <legend className="mb-1 text-xl">The shop</legend>
          <TextField
            label="Name of the shop"
            value={shop.name}
            onChange={(e) => setShop({ ...shop, name: e.target.value })}
            error={wrong("shop.name")}
          />
          <TextField
            label="Currency"
            hint="Three capitals"
            value={shop.currency}
            onChange={(e) => setShop({ ...shop, currency: e.target.value.toUpperCase() })}
            error={wrong("shop.currency")}
          />
          <NumberField
            label="Hourly rate, without tax"
            decimals={2}
            value={shop.hourlyRate}
            onChange={(hourlyRate) => setShop({ ...shop, hourlyRate })}
            error={wrong("shop.hourlyRate")}
          />
        </fieldset>
        <fieldset className="grid gap-3 sm:grid-cols-3">
          <legend className="mb-1 text-xl">You, its owner</legend>
          <TextField
            label="Your name"
            autoComplete="name"
            value={owner.name}
            onChange={(e) => setOwner({ ...owner, name: e.target.value })}
            error={wrong("owner.name")}
          />
          <TextField
            label="Sign-in name"
            autoComplete="username"
            autoCapitalize="none"
            value={owner.signIn}
            onChange={(e) => setOwner({ ...owner, signIn: e.target.value })}
            error={wrong("owner.signIn")}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="new-password"
            hint="At least 10 letters: three words that do not belong together do well."
            value={owner.password}
            onChange={(e) => setOwner({ ...owner, password: e.target.value })}
            error={wrong("owner.password")}
          />
        </fieldset>
        <Button tone="primary" type="submit" disabled={begin.isPending} className="self-end">
          Begin
        </Button>
      </form>
    </main>
  );
}
