import type { PersonView } from "@gearsense/contract";
import { Trash2, UserPlus } from "lucide-react";
import { useState } from "react";
import { usePeople, usePeopleChanges } from "../api/shop-queries.ts";
import { Button, Notice, SelectField, TextField } from "../shared/controls.tsx";
import { fieldError, plainError } from "../shared/field-errors.ts";

type Role = PersonView["role"];
const MAY: Readonly<Record<Role, string>> = {
  viewer: "Looks, changes nothing",
  technician: "Works on jobs",
  owner: "Works on jobs, changes the shop",
};
const ROLES = Object.keys(MAY) as Role[];

/** Who may sign in, as what. @param me - id of whoever looks */
export function People({ me }: { me: string }) {
  const { data: people, error } = usePeople(true);
  const { add, change, remove } = usePeopleChanges();
  const [adding, setAdding] = useState(false);
  const [removing, setRemoving] = useState<string>();
  const [renewing, setRenewing] = useState<string>();
  const trouble = error?.message ?? plainError(change.error) ?? plainError(remove.error);
  return (
    <section aria-label="People" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <h2 className="text-xl">People</h2>
        {!adding && (
          <Button onClick={() => setAdding(true)}>
            <UserPlus aria-hidden="true" className="size-5" />
            Add somebody
          </Button>
        )}
      </div>
      {trouble && (
        <Notice tone="stop" live>
          {trouble}
        </Notice>
      )}
      {adding && <AddPerson add={add} onClose={() => setAdding(false)} />}
      <ul>
        {people?.map((p) => (
          <li key={p.id} className="flex flex-wrap items-end gap-3 border-b border-rule py-2 last:border-0">
            <div className="min-w-40 flex-1">
              <p className="text-[17px]">
                {p.name}
                {p.id === me && <span className="text-quiet"> (you)</span>}
              </p>
              <p className="text-quiet">signs in as {p.signIn}</p>
            </div>
            <SelectField
              label={`Role of ${p.name}`}
              className="w-80"
              value={p.role}
              disabled={change.isPending}
              onChange={(e) => change.mutate({ id: p.id, role: e.target.value as Role })}
            >
              {ROLES.map((r) => (
                <option key={r} value={r}>
                  {r}: {MAY[r].toLowerCase()}
                </option>
              ))}
            </SelectField>
            {p.id !== me && (
              <>
                <Button aria-label={`New password for ${p.name}`} onClick={() => setRenewing(p.id)}>
                  New password …
                </Button>
                <Button tone="danger" aria-label={`Remove ${p.name}`} onClick={() => setRemoving(p.id)}>
                  <Trash2 aria-hidden="true" className="size-5" />
                </Button>
              </>
            )}
            {removing === p.id && (
              <Notice
                tone="caution"
                title={`Remove ${p.name}?`}
                actions={
                  <>
                    <Button tone="quiet" onClick={() => setRemoving(undefined)}>
                      Keep
                    </Button>
                    <Button
                      tone="danger"
                      disabled={remove.isPending}
                      onClick={() => remove.mutate(p.id, { onSettled: () => setRemoving(undefined) })}
                    >
                      Remove
                    </Button>
                  </>
                }
              >
                Signed out everywhere at once. What {p.name} wrote stays on the jobs.
              </Notice>
            )}
            {renewing === p.id && <NewPassword person={p} change={change} onClose={() => setRenewing(undefined)} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

type Changes = ReturnType<typeof usePeopleChanges>;

function AddPerson({ add, onClose }: { add: Changes["add"]; onClose: () => void }) {
  const [typed, setTyped] = useState({ name: "", signIn: "", role: "technician" as Role, password: "" });
  return (
    <form
      noValidate
      aria-label="New person"
      className="flex flex-col gap-3 border border-field p-3"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate(typed, { onSuccess: onClose });
      }}
    >
      {plainError(add.error) && (
        <Notice tone="stop" live>
          {plainError(add.error)}
        </Notice>
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField
          label="Name"
          autoComplete="off"
          value={typed.name}
          onChange={(e) => setTyped({ ...typed, name: e.target.value })}
          error={fieldError(add.error, "name")}
        />
        <TextField
          label="Sign-in name"
          autoComplete="off"
          value={typed.signIn}
          onChange={(e) => setTyped({ ...typed, signIn: e.target.value })}
          error={fieldError(add.error, "signIn")}
        />
        <SelectField
          label="Role"
          value={typed.role}
          onChange={(e) => setTyped({ ...typed, role: e.target.value as Role })}
        >
          {ROLES.map((r) => (
            <option key={r} value={r}>
              {r}: {MAY[r].toLowerCase()}
            </option>
          ))}
        </SelectField>
        <TextField
          label="First password"
          type="password"
          autoComplete="new-password"
          hint="To be changed by the person, on this page."
          value={typed.password}
          onChange={(e) => setTyped({ ...typed, password: e.target.value })}
          error={fieldError(add.error, "password")}
        />
      </div>
      <div className="flex justify-end gap-3">
        <Button tone="quiet" onClick={onClose}>
          Cancel
        </Button>
        <Button tone="primary" type="submit" disabled={add.isPending}>
          Add
        </Button>
      </div>
    </form>
  );
}

function NewPassword({
  person,
  change,
  onClose,
}: {
  person: PersonView;
  change: Changes["change"];
  onClose: () => void;
}) {
  const [password, setPassword] = useState("");
  return (
    <form
      noValidate
      aria-label={`New password for ${person.name}`}
      className="flex basis-full flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate({ id: person.id, password }, { onSuccess: onClose });
      }}
    >
      <TextField
        label="New password"
        type="password"
        autoComplete="new-password"
        hint={`${person.name} is signed out everywhere.`}
        className="w-72"
        value={password}
        onChange={(e) => setPassword(e.target.value)}
        error={fieldError(change.error, "password")}
      />
      <Button tone="quiet" onClick={onClose}>
        Cancel
      </Button>
      <Button type="submit" disabled={change.isPending || password === ""}>
        Save
      </Button>
    </form>
  );
}
